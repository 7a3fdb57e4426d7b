"""The made-up ferry survey: its data, and what to try with it."""
