"""Steps at the head of a set: what is done to its pictures before maps are derived from them."""
