"""Message catalogues: what the program writes, a PO file for each language; a new language is a file more."""
