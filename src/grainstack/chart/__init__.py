"""What goes where: a summary table becomes a scene of marks. Numbers first (arrange), then points (compose)."""
