"""Who gets which contact, and why."""
