"""Tools for files without a texture set: convert, pack and split channels, check a conversion."""
