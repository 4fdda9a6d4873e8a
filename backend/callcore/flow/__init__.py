"""Call flows: what they are, how they run, what is wrong with them, how to say them."""
