"""Differences and associations, tested."""
