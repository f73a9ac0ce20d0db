"""The public Python interface: `import copper_sieve as cs`. The command line is built on it."""

from __future__ import annotations

from copper_sieve.core.baking import BakeOptions
from copper_sieve.core.codecs import Limits
from copper_sieve.core.errors import PictureError, SieveError
from copper_sieve.core.export.assay import assay_folder as assay
from copper_sieve.core.export.stager import Delivered
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.models.assay import Assay
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.operations import Operation
from copper_sieve.core.targets.catalog import builtin_targets as targets
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.core.tools.convert import Rule
from copper_sieve.library.attaching import attach
from copper_sieve.library.baking import BakedMaps, bake
from copper_sieve.library.deriving import DerivedMap, derive
from copper_sieve.library.making import make, operations, rules
from copper_sieve.library.map_set import MapSet
from copper_sieve.library.measuring import MeasuredMaps, measure
from copper_sieve.library.pictures import (
    Converted,
    channel,
    convert,
    inspect,
    pack,
    read_picture,
    split,
    write_picture,
)
from copper_sieve.library.sources import Note

__all__ = [
    "Assay",
    "BakeOptions",
    "BakedMaps",
    "Ball",
    "Converted",
    "Delivered",
    "DerivedMap",
    "Encoding",
    "Lamp",
    "Limits",
    "Manifest",
    "MapKind",
    "MapSet",
    "MeasuredMaps",
    "NormalY",
    "Note",
    "Operation",
    "Picture",
    "PictureError",
    "Preparation",
    "Raster",
    "Recipe",
    "Rule",
    "SieveError",
    "TargetPreset",
    "assay",
    "attach",
    "bake",
    "channel",
    "convert",
    "derive",
    "inspect",
    "make",
    "measure",
    "operations",
    "pack",
    "read_picture",
    "rules",
    "split",
    "targets",
    "write_picture",
]  # fmt: skip
