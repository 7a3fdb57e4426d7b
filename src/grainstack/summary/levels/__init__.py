"""Which levels and which cells a table shows, and what each is made of."""
