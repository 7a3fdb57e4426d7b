"""Lets `python -m grainstack` do what `grainstack` does."""

from grainstack.cli.main import main

main()
