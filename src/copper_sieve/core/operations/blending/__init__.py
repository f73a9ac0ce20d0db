"""Maps of two sets as maps of one: how much of each lies where, and every map by that."""
