"""Derive a single map from a picture file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.normals import flip_green_codes, vectors_to_encoded
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.ingest.sources import SourceFacts, imported_maps
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.texture_set import (
    Derived,
    FromMap,
    Imported,
    SetDefinition,
    SurfaceSpec,
    compose,
)
from copper_sieve.core.operations import OPERATIONS, Operation, get_operation
from copper_sieve.core.operations.former_names import current_inputs, current_parameters
from copper_sieve.library.arguments import kind_of, normal_y_of
from copper_sieve.library.importing import WrapChoice, surface_of
from copper_sieve.library.sources import LocalSources, Note


@dataclass(frozen=True, slots=True)
class DerivedMap:
    """A derived map.

    Attributes
    ----------
    kind : kind of the map
    raster : (H, W, C) float32: colors in linear light, data in [0, 1], normals as unit vectors
    bit_depth : bits per channel of the input file
    normal_y : green direction of files written from it
    turned : True if an input file has the opposite green direction
    notes : guesses and measurements
    """

    kind: MapKind
    raster: Raster
    bit_depth: int
    normal_y: NormalY
    turned: bool
    notes: tuple[Note, ...]

    def picture(self, bits: int | None = None, *, floating: bool = False) -> Picture:
        """Return the map as the codes of a file.

        Parameters
        ----------
        bits : {8, 16, 32}, optional, bits per channel. Default: 16 if the input file has 16 or
            more, else 8
        floating : bool, return 32-bit floating-point values in linear light

        Returns
        -------
        Picture
            Codes (H, W, C): colors sRGB-encoded (linear if floating), normals encoded as
            0.5 * n + 0.5.
        """
        depth = bits or (16 if self.bit_depth >= 16 else 8)
        return raster_to_picture(self.raster, depth, floating or depth == 32, self.normal_y)


def derive(
    file: Path | str,
    to: str,
    *,
    origin: str = "base_color",
    by: str | None = None,
    further: Mapping[str, Path | str] | None = None,
    parameters: Mapping[str, Any] | None = None,
    longer_side: int | None = None,
    normal_y: NormalY | str | None = None,
    wrap: WrapChoice = "auto",
    relief: float | str | None = None,
    sources: LocalSources | None = None,
) -> DerivedMap:
    """Derive one map from a picture.

    Parameters
    ----------
    file : Path or str, input file
    to : str, kind of the map to derive
    origin : str, kind of the input file
    by : str, optional, name of the operation. Default: the standard one for these kinds
    further : mapping of str to Path or str, optional, more files by map kind or input name
    parameters : mapping of str to value, optional, by name, or `kind.name` for an intermediate map
    longer_side : int, optional, texels of the longer side. Default: the size of the file
    normal_y : NormalY or {"up", "down"}, optional, green direction of input and output. Default:
        measured for the input, up for the output
    wrap, relief : the surface; see `MapSet.from_files`
    sources : LocalSources, optional, reuses files that were read before

    Raises
    ------
    PictureError : if a file can't be read
    PlanError : if no operation derives the map from the files
    ParameterError : if a parameter is unknown or out of range
    """
    sources = sources or LocalSources()
    start, wanted = kind_of(origin), kind_of(to)
    stated = normal_y_of(normal_y) if normal_y else None
    greens = _Greens(sources, stated)
    facts = sources.add(Path(file))
    given = dict(parameters or {})
    texture_set = derivation_of(
        wanted, start, facts, by=by, green_of=greens.of,
        further={name: sources.add(Path(path)) for name, path in (further or {}).items()},
        adjusted=bool(set(given) - set(SurfaceSpec.model_fields)),
    )  # fmt: skip
    surface, notes = surface_of([(start, facts)], wrap=wrap, relief=relief)
    sources.notes += notes
    texture_set = texture_set.model_copy(update={"surface": surface})
    texture_set = with_parameters(texture_set, wanted, given)
    graph = plan(texture_set, sources.sizes, wanted=[wanted], longer_side=longer_side)
    raster = evaluate(graph, sources.load)[wanted]
    written = stated or NormalY.UP
    turned = wanted is MapKind.NORMAL and greens.differ_from(written)
    notes = sources.notes
    return DerivedMap(wanted, raster, facts.spec.bit_depth, written, turned, tuple(notes))


class _Greens:
    """Which way green grows in each file that is read as a normal map."""

    def __init__(self, sources: LocalSources, stated: NormalY | None) -> None:
        self._sources, self._stated = sources, stated
        self._found: dict[str, NormalY] = {}

    def of(self, facts: SourceFacts) -> NormalY:
        """Return the stated direction, else the measured or named one; guesses are noted."""
        if self._stated:
            return self._stated
        if facts.sha256 not in self._found:
            self._found[facts.sha256] = self._sources.green_of(facts)
        return self._found[facts.sha256]

    def differ_from(self, written: NormalY) -> bool:
        """Return whether an input file has another direction than the output."""
        return any(found is not written for found in self._found.values())


def derivation_of(
    wanted: MapKind,
    origin: MapKind,
    facts: SourceFacts,
    *,
    further: Mapping[str, SourceFacts],
    by: str | None,
    green_of: Callable[[SourceFacts], NormalY],
    adjusted: bool,
) -> SetDefinition:
    """Return a set in which one map is derived from a file.

    Parameters
    ----------
    wanted : MapKind, kind of the map to derive
    origin : MapKind, kind of the input file
    facts : SourceFacts, the input file
    further : mapping of str to SourceFacts, more files by map kind or input name. A required input
        without a file uses its preferred map, or else the input file itself
    by : str or None, name of the operation; None: the standard one
    green_of : callable, returns the green direction of a file that is read as a normal map
    adjusted : bool, parameters are given, so that a map of the file's own kind uses an operation,
        too

    Raises
    ------
    PlanError, ParameterError : with the available options
    """

    def maps_of(one: SourceFacts, kind: MapKind) -> dict[MapKind, Imported]:
        return imported_maps(one, kind, green_of(one) if kind is MapKind.NORMAL else None)

    imported = dict(maps_of(facts, origin))
    slots = current_inputs(further)
    for name in [name for name in slots if MapKind.of(name)]:
        imported.update(maps_of(slots.pop(name), MapKind(name)))
    texture_set = compose(slug(Path(facts.name).stem), imported)
    as_it_is = isinstance(texture_set.maps.get(wanted), Derived) or (
        wanted is origin and not adjusted
    )
    if by is None and not slots and as_it_is:
        return texture_set
    operation = get_operation(by, wanted) if by else _usual(texture_set, wanted, origin, slots)
    fillings: dict[str, Imported | FromMap] = {}
    for slot in operation.slots:
        others = [kind for kind in slot.prefers if kind in imported and kind is not wanted]
        if slot.name in slots:
            taken = slots.pop(slot.name)
            fillings[slot.name] = maps_of(taken, slot.takes)[slot.takes]
        elif slot.required and others and wanted is not origin:
            fillings[slot.name] = FromMap(kind=others[0])
        elif slot.required:
            fillings[slot.name] = maps_of(facts, slot.takes)[slot.takes]
    for name in slots:
        operation.slot(name)  # lists the available ones
    return texture_set.with_map(wanted, Derived(operation=operation.name, slots=fillings))


def _usual(
    texture_set: SetDefinition, wanted: MapKind, origin: MapKind, slots: Mapping[str, object]
) -> Operation:
    """Return the default operation that makes the map from the available ones and slot files."""
    present = texture_set.maps.get(wanted)
    possible = [
        one.making(wanted)
        for one in OPERATIONS.values()
        if one.makes(wanted)
        and one.by_pictures
        and all(kind in texture_set.maps and kind is not wanted for kind in one.inputs)
        and set(slots) <= {slot.name for slot in one.slots}
    ]
    chosen = [
        one for one in possible if isinstance(present, Derived) and one.name == present.operation
    ]
    direct = [one for one in possible if origin in one.inputs]
    # A picture is taken for another kind only where any map will do.
    adjusting = [
        one
        for one in possible
        if not one.inputs and (wanted is origin or one.slots[0].takes is MapKind.DETAIL_MASK)
    ]
    order = [*adjusting, *direct] if wanted is origin else [*chosen, *direct, *adjusting]
    for one in order:
        return one
    raise PlanError(
        f"no operation derives {wanted} from {origin}"
        + (f" with {', '.join(slots)}" if slots else "")
        + ". Choose one with --by; sieve derive --list shows all"
    )


def with_parameters(
    texture_set: SetDefinition, wanted: MapKind, given: Mapping[str, Any]
) -> SetDefinition:
    """Set parameters by name, or by `kind.name` for an intermediate map.

    `tile_size`, `depth`, `relief` and `wrap` belong to the surface. Any other plain name sets the
    parameter of the wanted map's operation, or else of the nearest preceding operation with a
    parameter of this name.

    Parameters
    ----------
    texture_set : SetDefinition, the set
    wanted : MapKind, kind of the derived map
    given : mapping of str to value, parameters by name

    Returns
    -------
    SetDefinition

    Raises
    ------
    ParameterError : if a name is unknown or a value is out of range
    """
    surface: dict[str, Any] = {}
    for name, value in given.items():
        if name in SurfaceSpec.model_fields:
            surface[name] = value
            continue
        kind_name, dot, plain = name.rpartition(".")
        on_the_way = _feeding(texture_set, wanted)
        for kind in on_the_way:
            definition = texture_set.maps[kind]
            if not isinstance(definition, Derived) or (dot and kind != kind_name):
                continue
            known = {p.name: p for p in get_operation(definition.operation).parameters}
            ((present, stated),) = current_parameters({plain: value}).items()
            if present in known:
                checked = known[present].check(stated, definition.operation)
                settled = {**definition.parameters, present: checked}
                texture_set = texture_set.with_map(
                    kind, definition.model_copy(update={"parameters": settled})
                )
                break
        else:
            raise ParameterError(f"{name}: {_known_names(texture_set, on_the_way)}")
    return texture_set.model_copy(update={"surface": with_surface(texture_set.surface, surface)})


def with_surface(surface: SurfaceSpec, given: Mapping[str, Any]) -> SurfaceSpec:
    """Return a surface with some fields replaced.

    Parameters
    ----------
    surface : SurfaceSpec, the surface
    given : mapping of str to value, fields by name

    Returns
    -------
    SurfaceSpec

    Raises
    ------
    ParameterError : if a field is unknown or out of range
    """
    try:
        return SurfaceSpec.model_validate({**surface.model_dump(), **given})
    except ValueError as error:
        raise ParameterError(
            "a surface has a tile_size in meters greater than 0, a depth in meters from 0, "
            "a relief in degrees from 0 to 60, and wrap: true, false, across or down"
        ) from error


def _feeding(texture_set: SetDefinition, wanted: MapKind) -> list[MapKind]:
    """Return the wanted map and its inputs, nearest first."""
    order = [wanted]
    for kind in order:
        definition = texture_set.maps.get(kind)
        if isinstance(definition, Derived):
            filled = [one.kind for one in definition.slots.values() if isinstance(one, FromMap)]
            inputs = [*get_operation(definition.operation).inputs, *filled]
            order += [k for k in inputs if k not in order]
    return [kind for kind in order if kind in texture_set.maps]


def _known_names(texture_set: SetDefinition, kinds: list[MapKind]) -> str:
    names = list(SurfaceSpec.model_fields)
    for kind in kinds:
        if isinstance(definition := texture_set.maps[kind], Derived):
            operation = get_operation(definition.operation)
            names += [f"{kind}.{p.name}" for p in operation.parameters]
    return "there is no such parameter. Use " + ", ".join(names)


def raster_to_picture(
    raster: Raster, bits: int, floating: bool, normal_y: NormalY | str
) -> Picture:
    """Encode a map as the codes of a file.

    Parameters
    ----------
    raster : Raster, (H, W, C) float32 with its meaning
    bits : {8, 16, 32}, bits per channel
    floating : bool, return 32-bit floating-point values; colors stay in linear light
    normal_y : NormalY or {"up", "down"}, green direction of a normal map

    Returns
    -------
    Picture
        Colors sRGB-encoded (linear if floating), data linear, normals encoded as 0.5 * n + 0.5.
    """
    values = raster.pixels
    color = raster.meaning is Meaning.COLOR
    down = normal_y_of(normal_y) is NormalY.DOWN and raster.meaning is Meaning.NORMAL
    if raster.meaning is Meaning.NORMAL:
        values = vectors_to_encoded(values)
    names = ("Y",) if values.shape[2] == 1 else ("R", "G", "B")
    if floating or bits == 32:
        values = np.array(values, dtype=np.float32)
        if down:
            values[:, :, 1] = 1 - values[:, :, 1]
        return Picture(values, names, Encoding.LINEAR)
    codes = quantize(linear_to_srgb(np.clip(values, 0, 1)) if color else values, bits)
    if down:
        codes[:, :, 1] = flip_green_codes(codes[:, :, 1])
    return Picture(codes, names, Encoding.SRGB if color else Encoding.LINEAR)
