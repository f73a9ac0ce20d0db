"""Fill the Lantern Row project: draw its pictures and import them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.detection.names import normal_y_from_name
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.measured_set import compose_measured
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromMap,
    Imported,
    MapDefinition,
    SetDefinition,
    SurfaceSpec,
    compose,
)
from copper_sieve.core.models.tile_numbers import group_tiles
from copper_sieve.demo.cedar_lattice import draw_cedar_lattice
from copper_sieve.demo.environments import dusk
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from copper_sieve.demo.kettle_sets import KETTLE_FILE, add_kettle
from copper_sieve.demo.lace_blind import draw_lace_blind
from copper_sieve.demo.noren import NOREN_SET, noren_pictures, noren_shots
from copper_sieve.demo.paper_lantern import draw_paper_lantern
from copper_sieve.demo.tatami_weave import draw_tatami_weave
from copper_sieve.demo.terrazzo_counter import draw_terrazzo_counter
from copper_sieve.demo.yard_wall import WALL_FILE, wall_pictures, wall_set, write_wall
from copper_sieve.services import environments, models
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_map
from copper_sieve.store.projects import ensure_project
from copper_sieve.store.texture_sets import add_set, picture_names

Further = Callable[[Mapping[str, Imported]], dict[MapKind, MapDefinition]]


@dataclass(frozen=True)
class Scenario:
    """One set: its drawing functions, and the settings a user would choose.

    imports : map type (and channel) of each picture; others only fill slots
    further : maps with another source than the default, from pictures by name
    """

    draw: Callable[[], dict[str, Picture]]
    surface: SurfaceSpec
    imports: dict[MapKind, tuple[str, str]]
    further: Further = field(default=lambda _: {})


def _derived(operation: str, slots: Mapping[str, Imported | FromMap] | None = None,
             **parameters: float | bool | str) -> Derived:  # fmt: skip
    return Derived(operation=operation, parameters=parameters, slots=dict(slots or {}))


# Stains aren't cavities.
_WORN: dict[str, float | bool | str] = {"very_coarse": 0.15, "lighting_scale": 0.04, "detail": 0.65}


def _tatami(pictures: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    photo = {"photo": pictures["photo"]}
    return {
        MapKind.BASE_COLOR: _derived("base_color_from_photo", photo),
        MapKind.HEIGHT: _derived("height_from_color", {}, **_WORN),
    }


def _copper(_: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    return {MapKind.METALLIC: Constant(value=(1.0,))}


def _terrazzo(_: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    polished = _derived("height_from_color", delight=1.0, contrast=0.5, detail=0.7)
    return {MapKind.HEIGHT: polished}


_GLOW: dict[str, float | bool | str] = {
    "tint": "#ffb060", "picture_colors": 0.6, "threshold": 0.45, "softness": 0.9, "strength": 0.35
}  # fmt: skip


def _lantern(pictures: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    mask = pictures["emissive_mask"]
    through = {"map": mask}
    return {
        MapKind.EMISSIVE: _derived("emissive_from_color", {"mask": mask}, **_GLOW),
        MapKind.TRANSLUCENCY: _derived("translucency_from_range", through, low=0.1, high=0.9),
    }


def _lace(pictures: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    return {
        MapKind.OPACITY: _derived("opacity_from_picture", {"picture": pictures["opacity"]}),
        MapKind.ROUGHNESS: _derived("roughness_from_color", median=0.85),
    }


def _cedar(_: Mapping[str, Imported]) -> dict[MapKind, MapDefinition]:
    return {
        MapKind.NORMAL: _derived("normal_from_height", kernel="central", grain=0.02),
        MapKind.ROUGHNESS: Constant(value=(0.8,)),
    }


SCENARIOS: dict[str, Scenario] = {
    "tatami_weave": Scenario(
        lambda: {"photo": draw_tatami_weave()},
        SurfaceSpec(tile_size=0.9, relief=9),
        {MapKind.BASE_COLOR: ("photo", "RGB")},
        _tatami,
    ),
    "hammered_copper": Scenario(
        draw_hammered_copper,
        SurfaceSpec(tile_size=0.4, wrap=True),
        {
            MapKind.BASE_COLOR: ("base_color", "RGB"),
            MapKind.GLOSSINESS: ("glossiness", "R"),
            MapKind.NORMAL: ("normal_dx", "RGB"),
        },
        _copper,
    ),
    "terrazzo_counter": Scenario(
        draw_terrazzo_counter,
        SurfaceSpec(tile_size=0.8, relief=0.5, wrap=True),
        {
            MapKind.BASE_COLOR: ("base_color", "RGB"),
            MapKind.ROUGHNESS: ("packed", "R"),
            MapKind.METALLIC: ("packed", "G"),
            MapKind.AMBIENT_OCCLUSION: ("packed", "B"),
        },
        _terrazzo,
    ),
    "paper_lantern": Scenario(
        draw_paper_lantern,
        SurfaceSpec(tile_size=0.45, relief=4, wrap=True),
        {MapKind.BASE_COLOR: ("base_color", "RGB")},
        _lantern,
    ),
    "lace_blind": Scenario(
        draw_lace_blind,
        SurfaceSpec(tile_size=0.5, wrap=True),
        {MapKind.BASE_COLOR: ("base_color", "RGB")},
        _lace,
    ),
    "cedar_lattice": Scenario(
        draw_cedar_lattice,
        SurfaceSpec(tile_size=0.64, depth=0.03, wrap=True),
        {MapKind.BASE_COLOR: ("base_color", "RGB"), MapKind.HEIGHT: ("height", "R")},
        _cedar,
    ),
}


def scenario_set(name: str, pictures: Mapping[str, Imported]) -> SetDefinition:
    """Return the set of a scenario with its imported pictures, by name."""
    scenario = SCENARIOS[name]
    imported = {
        kind: pictures[picture].model_copy(update={"channels": channels})
        for kind, (picture, channels) in scenario.imports.items()
    }
    made = compose(name, imported, scenario.surface)
    for kind, definition in scenario.further(pictures).items():
        made = made.with_map(kind, definition)
    return made


def fill_demo(
    context: Context, *, with_pictures: bool, between: Callable[[], None] = lambda: None
) -> None:
    """Create the project if it doesn't exist; with pictures, also the demo's sets.

    Existing sets are kept, also if changed, renamed or deleted. `between` is called before each
    picture is drawn or imported; it may raise to stop.
    """
    slug, title = ("lantern-row", "Lantern Row") if with_pictures else ("first", "First project")
    with context.database.transaction() as connection:
        project = ensure_project(connection, slug, title)
        known = picture_names(connection, project.id)
    if not with_pictures or project.deleted_at:
        return
    for name, scenario in SCENARIOS.items():
        if any(one == f"{name}.png" or one.startswith(f"{name}_") for one in known):
            continue
        between()
        pictures: dict[str, Imported] = {}
        for word, picture in scenario.draw().items():
            between()
            named = f"{name}_{word}" if word != "photo" else name
            pictures[word] = _take_in(context, named, picture)
        with context.database.transaction() as connection:
            add_set(connection, project.id, scenario_set(name, pictures))
    if KETTLE_FILE not in known:
        between()
        add_kettle(context, slug, project.id)
        _add_dusk(context, slug)
    if not any(one.startswith(f"{NOREN_SET}_") for one in known):
        between()
        _add_noren(context, project.id)
    if WALL_FILE not in known:
        between()
        _add_wall(context, slug, project.id)


def _add_noren(context: Context, project_id: int) -> None:
    """Add a set measured from nine pictures with a moving lamp."""
    pictures = noren_pictures()
    sources = [
        _take_in(context, f"{NOREN_SET}_{n + 1}", picture).source
        for n, picture in enumerate(pictures)
    ]
    made = compose_measured(
        NOREN_SET, noren_shots(sources), pictures[0].size, SurfaceSpec(tile_size=0.45)
    )
    with context.database.transaction() as connection:
        add_set(connection, project_id, made.checked())


def _add_wall(context: Context, project_slug: str, project_id: int) -> None:
    """Add a set with tiles, and its model."""
    given = []
    for name, picture in wall_pictures().items():
        kind = MapKind.HEIGHT if "height" in name else MapKind.BASE_COLOR
        imported = _take_in(context, name, picture)
        channels = "R" if kind is MapKind.HEIGHT else "RGB"
        given.append(
            (
                {kind: imported.model_copy(update={"channels": channels})},
                int(name.rpartition(".")[2]),
            )
        )
    with context.incoming() as folder:
        path = write_wall(folder / WALL_FILE).rename(folder / "incoming")
        model = models.import_model(context, project_slug, path, WALL_FILE).model.sha256
    with context.database.transaction() as connection:
        add_set(connection, project_id, wall_set(group_tiles(given), model).checked())


def _add_dusk(context: Context, project_slug: str) -> None:
    """Add a custom environment to the project."""
    with context.incoming() as folder:
        path = folder / "drawn.hdr"
        write_picture(path, Picture(dusk(), ("R", "G", "B"), Encoding.LINEAR), "hdr")
        environments.import_environment(context, project_slug, path, "row_at_dusk.hdr", "panorama")


def _take_in(context: Context, name: str, picture: Picture) -> Imported:
    """Write a picture to a file and import it as color or data."""
    color = picture.encoding is Encoding.SRGB
    with context.incoming() as folder:
        path = folder / "incoming"
        write_picture(path, picture, "png")
        kind = MapKind.BASE_COLOR if color else MapKind.NORMAL
        _, imported = import_map(context, path, f"{name}.png", kind)
    stated = normal_y_from_name(name)
    return imported.model_copy(update={"normal_y": stated}) if stated else imported
