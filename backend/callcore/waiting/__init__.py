"""How long a caller will wait: estimated, scored, and told where that is known well enough."""
