"""What was recorded: files and databases, read as typed record batches."""
