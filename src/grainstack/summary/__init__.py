"""What the records say: estimates per cell, with their spread and base. Pure functions, no files, no drawing."""
