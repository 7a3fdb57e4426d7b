"""Which records count."""
