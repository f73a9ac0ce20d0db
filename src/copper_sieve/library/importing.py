"""Map types of the files of a set, from their names; and the surface, measured or stated."""

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
from copper_sieve.core.models.relief import OLD_RELIEFS, RELIEFS, STEEPEST_RELIEF
from copper_sieve.core.models.texture_set import Imported, SurfaceSpec
from copper_sieve.core.models.tile_numbers import Numbered, tiles_among
from copper_sieve.library.sources import LocalSources, Note

_SURE = 0.7  # of a name; single letters may have another meaning
WrapChoice = WrapSpec | Literal["auto"]


def kinds_by_name(photo: Path, maps: Sequence[Path]) -> tuple[dict[Path, MapKind], list[Note]]:
    """What each file is: the photo a base color, the others as their names say.

    A color beside a specular color with no metallic is a diffuse, and that is noted.
    Raises PlanError for a name that tells nothing, and where two files are the same map.
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
    """The maps that files give. Raises PictureError."""
    found: dict[MapKind, Imported] = {}
    for kind, path in files.items():
        found |= sources.add_map(path, kind, normal_y)
    return found


def are_tiles(paths: Sequence[Path]) -> bool:
    """Return whether files are UV tiles, by their names; see `tiles_among`."""
    numbered = [Numbered.of(path.stem, path.parent.name, read_name(path.stem)) for path in paths]
    return any(tiles_among(numbered))


def set_name_of(photo: Path, taken_as: MapKind = MapKind.BASE_COLOR) -> str:
    """Return the file stem without the words of the map type and the tile number.

    taken_as : its map type; words with another meaning stay
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
    """Return the surface as stated or measured; measurements are noted.

    wrap : tiling directions; "auto" measures
    relief : mean slope in degrees, or the name of a preset
    Raises ParameterError.
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
    """Degrees of mean tilt, of a number or of the word for an amount. Raises ParameterError."""
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
