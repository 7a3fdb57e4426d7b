"""The program from Python: the same requests, figures and pictures as on the command line and in plans."""
