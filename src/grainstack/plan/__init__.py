"""Plans: tables and charts that are kept, reviewed and made again."""
