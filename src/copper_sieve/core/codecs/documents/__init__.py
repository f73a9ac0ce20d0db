"""Material documents written beside textures, each to its open specification."""
