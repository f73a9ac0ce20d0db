"""Baking: maps from rays cast around each texel, or toward a high-poly model."""

from copper_sieve.core.baking.bake import bake, bake_tiles
from copper_sieve.core.baking.baked_map import BAKED_MAPS, BakedMap
from copper_sieve.core.baking.on_model import OnModel
from copper_sieve.core.baking.options import Baked, BakeOptions

__all__ = ["BAKED_MAPS", "BakeOptions", "Baked", "BakedMap", "OnModel", "bake", "bake_tiles"]
