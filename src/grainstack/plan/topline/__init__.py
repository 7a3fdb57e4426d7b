"""The plan behind a topline: every question of some records, in the chart and the tables that suit it."""
