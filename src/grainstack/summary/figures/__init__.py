"""From sums to figures: estimates, standard errors, limits and what may not be relied on."""
