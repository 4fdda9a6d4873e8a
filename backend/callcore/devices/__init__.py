"""Simulated stand-ins for what is outside of a centre."""
