"""How agents work: rules in layers, from the centre to the team to the person."""
