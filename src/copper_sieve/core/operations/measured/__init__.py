"""Maps that are measured from pictures of one surface under several lights."""
