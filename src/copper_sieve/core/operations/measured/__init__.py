"""Maps measured from light captures of one surface."""
