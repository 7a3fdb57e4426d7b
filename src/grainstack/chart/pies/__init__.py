"""Pies and rings: their request, their slices, and their marks."""
