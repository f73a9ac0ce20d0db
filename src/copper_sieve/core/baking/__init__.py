"""Maps taken from a model: what rays find around each texel, or on a more detailed model."""

from copper_sieve.core.baking.bake import bake, bake_tiles
from copper_sieve.core.baking.baked_map import BAKED_MAPS, BakedMap
from copper_sieve.core.baking.on_model import OnModel
from copper_sieve.core.baking.options import Baked, BakeOptions

__all__ = ["BAKED_MAPS", "BakeOptions", "Baked", "BakedMap", "OnModel", "bake", "bake_tiles"]
