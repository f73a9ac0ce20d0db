"""Model files: glTF by its specification; OBJ, PLY and STL with trimesh.

`reading.read_model` reads all of them.
"""
