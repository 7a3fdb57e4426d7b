"""The look of marks: palettes, styles, which colour and pattern a level has."""
