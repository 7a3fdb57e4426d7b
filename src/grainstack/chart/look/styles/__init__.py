"""One file per style; each holds a `STYLE` and nothing else."""
