"""Reports of a plan as documents: one writer each, all of the same parts."""
