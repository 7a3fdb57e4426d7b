"""How much is drawn at random: a small repeatable share in the suite, and as much as wanted with `make soak`."""

import os

SOAK = int(os.environ.get("SOAK", "1"))  # how many times the usual number of examples; from 2 on, other ones each run
