"""What an analyst says once about the columns, in a file."""
