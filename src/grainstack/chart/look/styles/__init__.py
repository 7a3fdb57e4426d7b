"""One file per style that comes along, as people write their own."""
