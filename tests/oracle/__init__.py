"""A second, slow computation of everything, from the records, sharing no code with the program."""
