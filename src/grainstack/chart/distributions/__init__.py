"""Boxes, points and histograms: their request, the numbers behind them, and their marks."""
