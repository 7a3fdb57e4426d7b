"""One way from a request to a figure, for every kind and every asker."""
