"""Work on files without a texture set: convert, pack and split channels; the proof of a target."""
