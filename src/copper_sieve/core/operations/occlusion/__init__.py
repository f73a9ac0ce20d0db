"""Occlusion, bent normals, curvature and cavities of a surface."""
