"""Callers and agents who behave, on any clock: seeded, and moved by what happens to them."""
