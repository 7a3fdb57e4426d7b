"""Figures and words of a chart as text, and how wide text is."""
