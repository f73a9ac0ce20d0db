"""Ways to a height map, and what they share."""
