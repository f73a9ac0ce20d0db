"""Occlusion, bent normals, curvature and cavity of a surface."""
