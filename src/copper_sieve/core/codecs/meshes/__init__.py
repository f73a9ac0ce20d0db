"""Files of models: glTF by its specification, OBJ, PLY and STL by trimesh."""

from copper_sieve.core.codecs.meshes.reading import MODEL_ENDINGS, ModelLimits, read_model

__all__ = ["MODEL_ENDINGS", "ModelLimits", "read_model"]
