"""Small simulated devices behind interfaces; a real trunk takes their place."""
