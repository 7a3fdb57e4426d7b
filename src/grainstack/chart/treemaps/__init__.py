"""Treemaps: their request, their tiles, and their marks."""
