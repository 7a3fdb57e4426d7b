"""Sums that merge: everything records have to be reduced to before a figure can be worked out."""
