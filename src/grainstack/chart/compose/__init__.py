"""Where everything goes in points: text measured, direction and margins chosen, labels placed."""
