"""Charts in character cells."""
