"""Files of models: glTF by its specification, OBJ, PLY and STL by trimesh.

`reading.read_model` reads any of them.
"""
