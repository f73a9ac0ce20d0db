"""Ways to a normal map, and two of them as one."""
