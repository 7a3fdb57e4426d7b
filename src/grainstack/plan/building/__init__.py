"""Building: records read once, what changed made again, and a record of it."""
