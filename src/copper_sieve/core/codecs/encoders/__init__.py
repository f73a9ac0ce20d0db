"""What the program encodes by itself: PNG, TGA, blocks of a GPU and the containers around them."""
