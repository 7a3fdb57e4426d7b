"""What goes where in data units: order, stacking, side by side. Numbers only."""
