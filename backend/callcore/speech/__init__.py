"""Spoken text: its languages and its length."""
