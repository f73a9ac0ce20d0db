"""Pictures in memory: meaning, encoding, resizing and channels."""
