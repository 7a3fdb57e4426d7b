"""Weights that make records stand for known totals."""
