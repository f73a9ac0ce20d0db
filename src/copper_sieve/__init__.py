"""Copper Sieve: derive, convert, pack, name, deliver and verify PBR texture sets.

In a script, `import copper_sieve as cs`. The names in `__all__` are the stable library interface.
Each one is loaded at its first use, so that importing the package is fast.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from copper_sieve.library import *  # noqa: F403

__version__ = "0.2.0"
__all__ = [  # as in copper_sieve.library
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


def __getattr__(name: str) -> Any:
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from copper_sieve import library

    return getattr(library, name)
