"""Blending of two sets: coverage of the upper set, and all maps blended by it."""
