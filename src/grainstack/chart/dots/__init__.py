"""Dots: their request, what goes where in data units, and their marks."""
