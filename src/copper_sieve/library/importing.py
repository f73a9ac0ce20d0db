"""Detect map kinds from file names, and measure the surface."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, Literal

from copper_sieve.core.detection.names import kind_from_name, read_name
from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.wrap import WrapSpec
from copper_sieve.core.ingest.sources import SourceFacts, surface_of_sources
from copper_sieve.core.models.assignment import AS_SPECULAR, is_specular_set
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.relief import OLD_RELIEFS, RELIEFS, STEEPEST_RELIEF
from copper_sieve.core.models.texture_set import Imported, SetDefinition, SurfaceSpec, compose
from copper_sieve.core.models.tile_numbers import Numbered, tiles_among
from copper_sieve.library.arguments import normal_y_of
from copper_sieve.library.sources import LocalSources, Note

_SURE = 0.7  # of a name; single letters may have another meaning
WrapChoice = WrapSpec | Literal["auto"]


def kinds_by_name(photo: Path, maps: Sequence[Path]) -> tuple[dict[Path, MapKind], list[Note]]:
    """Detect the map kind of each file from its name.

    A color map with a specular color and no metallic map is used as diffuse, and noted.

    Parameters
    ----------
    photo : Path, photo of the surface, used as base color
    maps : sequence of Path, further files

    Returns
    -------
    dict of Path to MapKind, list of Note

    Raises
    ------
    PlanError : if a name doesn't identify the map, or two files are the same map
    """
    kinds = {photo: MapKind.BASE_COLOR}
    taken = {MapKind.BASE_COLOR: photo}
    for path in maps:
        kind = kind_from_name(path.stem)
        if kind is None:
            raise PlanError(
                f"{path.name}: its name doesn't identify the map. End it in _normal, "
                "_roughness, _height, _ao, _metallic or similar"
            )
        if kind in taken:
            raise PlanError(
                f"{path.name}: {taken[kind].name} is used as the {kind} map already. Give only one"
            )
        kinds[path] = kind
        taken[kind] = path
    notes = []
    if is_specular_set(taken):
        for path, kind in kinds.items():
            if (read_as := AS_SPECULAR.get(kind)) and read_as not in taken:
                kinds[path] = read_as
                title = read_as.facts.title.lower()
                text = f"{path.name}: used as {title}, because there is a specular color map"
                notes.append(Note(f"{text} and no metallic"))
    return kinds, notes


def import_files(
    files: Mapping[MapKind, Path], sources: LocalSources, normal_y: NormalY | None
) -> dict[MapKind, Imported]:
    """Read files as maps.

    Parameters
    ----------
    files : mapping of MapKind to Path, file of each map
    sources : LocalSources, receives the files
    normal_y : NormalY or None, green direction of normal maps; None: measured

    Returns
    -------
    dict of MapKind to Imported

    Raises
    ------
    PictureError : if a file can't be read
    """
    found: dict[MapKind, Imported] = {}
    for kind, path in files.items():
        found |= sources.add_map(path, kind, normal_y)
    return found


def are_tiles(paths: Sequence[Path]) -> bool:
    """Return True if the names of the files are those of UV tiles; see `tiles_among`."""
    numbered = [Numbered.of(path.stem, path.parent.name, read_name(path.stem)) for path in paths]
    return any(tiles_among(numbered))


def set_name_of(photo: Path, taken_as: MapKind = MapKind.BASE_COLOR) -> str:
    """Return a file stem without the words of the map kind and without a tile number.

    Parameters
    ----------
    photo : Path, file whose name is used
    taken_as : MapKind, kind of the file; words of other kinds stay in the name

    Returns
    -------
    str
    """
    read = read_name(photo.stem)
    surely = read.kind is taken_as and read.confidence >= _SURE  # "wall_c" may be the third wall
    stem = read.stem if surely else photo.stem
    # A single tile is a normal set.
    return stem if read.tile is None or str(read.tile) in stem else f"{stem}_{read.tile}"


def surface_of(
    facts: Iterable[tuple[MapKind, SourceFacts]],
    *,
    wrap: WrapChoice = "auto",
    relief: float | str | None = None,
) -> tuple[SurfaceSpec, list[Note]]:
    """Return the surface of a set, as stated or as measured. Measurements are noted.

    Parameters
    ----------
    facts : iterable of (MapKind, SourceFacts), kind and facts of each file
    wrap : True, False, "across", "down" or "auto", directions in which the surface tiles; "auto"
        measures
    relief : float or str, optional, mean slope in degrees, 0 to 60, or the name of a preset

    Returns
    -------
    SurfaceSpec, list of Note

    Raises
    ------
    ParameterError : if `relief` is out of range
    """
    known = list(facts)
    found = surface_of_sources(known)
    changes: dict[str, Any] = {}
    notes = []
    if wrap != "auto":
        changes["wrap"] = wrap
    elif found.wrap is not False:
        guide = next(f for _, f in known if f.tiling and f.tiling.wrap.spec == found.wrap)
        assert guide.tiling
        notes.append(Note(f"{guide.name}: {guide.tiling.text()}", "wrap"))
    if relief is not None:
        changes["relief"] = relief_of(relief)
    return found.model_copy(update=changes), notes


def relief_of(stated: float | str) -> float:
    """Return a relief in degrees.

    Parameters
    ----------
    stated : float or str, mean slope in degrees, 0 to 60, or the name of a preset

    Returns
    -------
    float

    Raises
    ------
    ParameterError : if the number is out of range or the name is unknown
    """
    if isinstance(stated, str):
        stated = OLD_RELIEFS.get(stated, stated).replace("_", " ")
    if isinstance(stated, str) and stated in RELIEFS:
        return RELIEFS[stated]
    try:
        degrees = float(stated)
        if 0 <= degrees <= STEEPEST_RELIEF:
            return degrees
    except ValueError:
        pass
    raise ParameterError(
        f"relief {stated}: give degrees from 0 to {STEEPEST_RELIEF:g}, "
        f"or one of {', '.join(RELIEFS)}"
    )


def set_of_maps(
    files: Mapping[MapKind, Path],
    sources: LocalSources,
    *,
    name: str | None,
    normal_y: NormalY | str | None,
    wrap: WrapChoice,
    relief: float | str | None,
) -> tuple[SetDefinition, tuple[Note, ...]]:
    """Return a set of files with stated map kinds; see `MapSet.from_maps`."""
    imported = import_files(files, sources, normal_y_of(normal_y) if normal_y else None)
    facts = [(kind, sources.facts[one.source]) for kind, one in imported.items()]
    surface, notes = surface_of(facts, wrap=wrap, relief=relief)
    own_name = slug(name or set_name_of(next(iter(files.values()))))
    return compose(own_name, imported, surface), (*sources.notes, *notes)
