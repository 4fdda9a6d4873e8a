"""What a number does at a moment."""
