"""SQL expressions over columns: conditions and formulas."""
