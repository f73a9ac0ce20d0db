"""What the shape of a surface hides or bares: occlusion, bent normals, curvature, cavity."""
