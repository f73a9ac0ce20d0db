"""Triangles in space and on the picture: what a model is made of, and what rays find of it."""
