"""Maps taken from the model that a set is tied to, or from a detailed version of it."""
