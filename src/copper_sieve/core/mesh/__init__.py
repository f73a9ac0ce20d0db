"""Triangles in space and in UV: models, and ray casting."""
