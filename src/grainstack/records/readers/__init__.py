"""How columns of raw batches are read: as levels, numbers, bands or several answers."""
