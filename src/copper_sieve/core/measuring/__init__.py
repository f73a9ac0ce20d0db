"""Surfaces measured from pictures under light from different sides (photometric stereo)."""
