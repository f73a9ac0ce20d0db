"""The kettle in the demo: its two models, and a set for each of its materials."""

from __future__ import annotations

from pathlib import Path

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromMap,
    MapDefinition,
    SetDefinition,
    SurfaceSpec,
)
from copper_sieve.demo.kettle import CEDAR, COPPER, write_kettle
from copper_sieve.services import models
from copper_sieve.services.context import Context
from copper_sieve.store.texture_sets import add_set

KETTLE_SETS = ("kettle_cedar", "kettle_copper")
KETTLE_FILE = "kettle.glb"
_FINER = 8  # enough to be seen, and drawn in a second
_RAYS: dict[str, float | bool | str] = {"rays": "16", "high_poly": False}


def add_kettle(context: Context, project_slug: str, project_id: int) -> None:
    """Import both models and create a set per material with baked maps."""
    with context.incoming() as folder:
        drawn = write_kettle(folder / "drawn", finer=_FINER)
        simple, high_poly = (_take_in(context, project_slug, one) for one in drawn)
    for name, material, maps in (
        ("kettle_copper", COPPER, _copper()),
        ("kettle_cedar", CEDAR, _cedar()),
    ):
        link = ModelLink(source=simple, material=material, high_poly=high_poly, match_by_name=True)
        made = SetDefinition(name=name, surface=SurfaceSpec(tile_size=0.6), maps=maps, model=link)
        with context.database.transaction() as connection:
            add_set(connection, project_id, made.checked())


def _take_in(context: Context, project_slug: str, drawn: Path) -> str:
    folder = drawn.parent / drawn.stem
    folder.mkdir()
    path = drawn.rename(folder / "incoming")
    return models.import_model(context, project_slug, path, drawn.name).model.sha256


def _copper() -> dict[MapKind, MapDefinition]:
    return {
        MapKind.BASE_COLOR: Constant(value=(0.71, 0.36, 0.21)),
        MapKind.NORMAL: Derived(operation="normal_from_high_poly"),
        MapKind.CURVATURE: Derived(
            operation="curvature_from_model", parameters={"edge_width": 0.004, "high_poly": False}
        ),
        MapKind.AMBIENT_OCCLUSION: Derived(
            operation="ambient_occlusion_from_model", parameters=_RAYS
        ),
        MapKind.ROUGHNESS: Derived(
            operation="roughness_from_picture",
            slots={"picture": FromMap(kind=MapKind.AMBIENT_OCCLUSION)},
            parameters={"invert": True, "low": 0.28, "high": 0.75},
        ),
        MapKind.METALLIC: Constant(value=(1.0,)),
        MapKind.MASK_1: Derived(operation="mask_1_from_model_facing"),
    }


def _cedar() -> dict[MapKind, MapDefinition]:
    return {
        MapKind.BASE_COLOR: Constant(value=(0.22, 0.1, 0.05)),
        MapKind.NORMAL: Derived(operation="normal_from_high_poly"),
        MapKind.AMBIENT_OCCLUSION: Derived(
            operation="ambient_occlusion_from_model", parameters=_RAYS
        ),
        MapKind.ROUGHNESS: Constant(value=(0.7,)),
        MapKind.METALLIC: Constant(value=(0.0,)),
    }
