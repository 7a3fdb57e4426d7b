"""How a scene reaches a file or a screen. Painters decide nothing."""
