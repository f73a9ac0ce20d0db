"""How materials look: one reference shader, surroundings, stills of models."""
