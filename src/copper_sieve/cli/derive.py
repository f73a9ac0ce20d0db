"""./sieve derive: a single map from a picture, by any operation."""

from __future__ import annotations

import argparse
import json
import os
from collections.abc import Callable, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from copper_sieve.cli.make import LocalSources, tell
from copper_sieve.cli.surface import surface_of
from copper_sieve.core.codecs import FORMATS, write_picture, written_by_ending
from copper_sieve.core.errors import ParameterError, PlanError, WriteError
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

_ORIGINS = {"color": MapKind.BASE_COLOR, "height": MapKind.HEIGHT, "normal": MapKind.NORMAL}


def run(arguments: argparse.Namespace) -> int:
    """Compute the map and write it whole or not at all; or list what can be computed."""
    if arguments.list:
        _list(arguments.json)
        return 0
    needed = {"FILE": "file", "--from": "origin", "--to": "to", "--out": "out"}
    if missing := [word for word, name in needed.items() if getattr(arguments, name) is None]:
        raise ParameterError(f"derive needs {', '.join(missing)}; see sieve derive --help")
    origin, wanted = _kind(arguments.origin), _kind(arguments.to)
    name = written_by_ending(arguments.out).name
    sources = LocalSources()
    stated = NormalY(arguments.normal_y) if arguments.normal_y else None
    written = stated or NormalY.UP
    greens = _Greens(sources, stated)
    facts = sources.add(arguments.file)
    further = {given: sources.add(Path(path)) for given, path in map(_named, arguments.further)}
    named = {item.partition("=")[0] for item in arguments.param}
    texture_set = way_to(
        wanted,
        origin,
        facts,
        further=further,
        by=arguments.by,
        green_of=greens.of,
        adjusted=bool(named - set(SurfaceSpec.model_fields)),
    )
    surface, told = surface_of(arguments, [(origin, facts)])
    sources.guesses += [told] if told else []
    texture_set = texture_set.model_copy(update={"surface": surface})
    texture_set = apply_parameters(texture_set, wanted, arguments.param)
    graph = plan(texture_set, sources.sizes, wanted=[wanted], longer_side=arguments.size)
    raster = evaluate(graph, sources.load)[wanted]
    bits = arguments.bits or (16 if facts.spec.bit_depth >= 16 else 8)
    if bits not in FORMATS[name].bits:
        if arguments.bits:
            raise WriteError(f"{name} holds {FORMATS[name].bits} bits, not {bits}: change one")
        bits = max(FORMATS[name].bits)
    picture = raster_to_picture(raster, bits, bits in FORMATS[name].floating_bits, written)
    working = arguments.out.with_name(f".{arguments.out.stem}.{os.getpid()}{arguments.out.suffix}")
    try:
        arguments.out.parent.mkdir(parents=True, exist_ok=True)
        write_picture(working, picture, name)
        working.replace(arguments.out)
    except OSError as error:
        raise WriteError(
            f"{arguments.out} could not be written ({error.strerror}): check the folder"
        ) from error
    finally:
        working.unlink(missing_ok=True)
    if wanted is MapKind.NORMAL and greens.differ_from(written):
        sources.guesses.append(f"{arguments.out.name}: written with green growing {written}wards")
    tell(sources.guesses)
    if arguments.json:
        done = {"out": str(arguments.out), "map": wanted, "remarks": sources.guesses}
        print(json.dumps(done, indent=2))
    return 0


class _Greens:
    """Which way green grows in each file that is read as a normal map."""

    def __init__(self, sources: LocalSources, stated: NormalY | None) -> None:
        self._sources, self._stated = sources, stated
        self._found: dict[str, NormalY] = {}

    def of(self, facts: SourceFacts) -> NormalY:
        """As stated, else as measured or named; what is a guess is told."""
        if self._stated:
            return self._stated
        if facts.sha256 not in self._found:
            self._found[facts.sha256] = self._sources.green_of(facts)
        return self._found[facts.sha256]

    def differ_from(self, written: NormalY) -> bool:
        """A file came in with another direction than is written."""
        return any(found is not written for found in self._found.values())


def _kind(word: str) -> MapKind:
    try:
        return MapKind(_ORIGINS.get(word, word))
    except ValueError:
        raise PlanError(f"there is no map kind {word}; use one of {', '.join(MapKind)}") from None


def _named(item: str) -> tuple[str, str]:
    name, mark, path = item.partition("=")
    if not mark:
        raise ParameterError(f"--with {item}: write it as name=file")
    return name, path


def way_to(
    wanted: MapKind,
    origin: MapKind,
    facts: SourceFacts,
    *,
    further: Mapping[str, SourceFacts],
    by: str | None,
    green_of: Callable[[SourceFacts], NormalY],
    adjusted: bool,
) -> SetDefinition:
    """A set in which the wanted map is made from the file, by a named operation or a usual one.

    further : more files, by map kind or by the name of a slot of the operation. A required slot
    that no file is given for takes the map that it prefers, else the file itself.
    green_of : the direction of green of a file that is read as a normal map
    adjusted : parameters are given, so that even the kind which the file is goes through one
    Raises PlanError or ParameterError that say what there is.
    """

    def maps_of(one: SourceFacts, kind: MapKind) -> dict[MapKind, Imported]:
        return imported_maps(one, kind, green_of(one) if kind is MapKind.NORMAL else None)

    imported = dict(maps_of(facts, origin))
    slots = dict(further)
    for name in [name for name in further if name in set(MapKind)]:
        imported.update(maps_of(slots.pop(name), MapKind(name)))
    texture_set = compose(slug(Path(facts.name).stem), imported)
    as_it_is = isinstance(texture_set.maps.get(wanted), Derived) or (
        wanted is origin and not adjusted
    )
    if by is None and not slots and as_it_is:
        return texture_set
    operation = get_operation(by) if by else _usual(texture_set, wanted, origin, slots)
    if operation.output is not wanted:
        raise PlanError(f"{operation.name} makes {operation.output}, not {wanted}")
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
        operation.slot(name)  # says which there are
    return texture_set.with_map(wanted, Derived(operation=operation.name, slots=fillings))


def _usual(
    texture_set: SetDefinition, wanted: MapKind, origin: MapKind, slots: Mapping[str, object]
) -> Operation:
    """The operation that makes the wanted map from what there is, by files given for slots."""
    present = texture_set.maps.get(wanted)
    possible = [
        one
        for one in OPERATIONS.values()
        if one.output is wanted
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
        f"no operation makes {wanted} from {origin}"
        + (f" with {', '.join(slots)}" if slots else "")
        + ": name one with --by; sieve derive --list shows what there is"
    )


def _list(as_json: bool) -> None:
    surface = [
        {"name": name, "meaning": field.description, "default": field.default}
        for name, field in SurfaceSpec.model_fields.items()
    ]
    if as_json:
        operations = [
            {key: value for key, value in asdict(one).items() if key != "compute"}
            for one in OPERATIONS.values()
        ]
        print(json.dumps({"operations": operations, "surface": surface}, indent=2))
        return
    for one in OPERATIONS.values():
        asked = [*one.inputs, *(slot.name for slot in one.slots if slot.required)]
        print(f"{one.name}: {one.output} from {', '.join(asked)}: {one.title}")
        for slot in one.slots:
            print(f"  --with {slot.name}=FILE: {slot.meaning}")
        for p in one.parameters:
            print(f"  {p.name} = {p.default}: {p.meaning}; {p.allowed()}")
    for entry in surface:
        print(f"{entry['name']} = {entry['default']}: {entry['meaning']}")


def apply_parameters(
    texture_set: SetDefinition, wanted: MapKind, given: list[str]
) -> SetDefinition:
    """Set parameters written as name=value, or kind.name=value for a map on the way.

    A plain name goes to the wanted map's operation, else to the nearest one on the way that has
    it; tile_size, depth and wrap belong to the surface. Raises ParameterError.
    """
    surface: dict[str, Any] = {}
    for item in given:
        name, mark, value = item.partition("=")
        if not mark:
            raise ParameterError(f"--param {item}: write it as name=value")
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
            if plain in known:
                checked = known[plain].check(value, definition.operation)
                settled = {**definition.parameters, plain: checked}
                texture_set = texture_set.with_map(
                    kind, definition.model_copy(update={"parameters": settled})
                )
                break
        else:
            raise ParameterError(f"--param {name}: {_known_names(texture_set, on_the_way)}")
    try:
        spec = SurfaceSpec.model_validate({**texture_set.surface.model_dump(), **surface})
    except ValueError as error:
        raise ParameterError(
            "--param: tile_size is in metres above 0, depth in metres from 0, relief in degrees, "
            "0 to 60, wrap true, false, across or down"
        ) from error
    return texture_set.model_copy(update={"surface": spec})


def _feeding(texture_set: SetDefinition, wanted: MapKind) -> list[MapKind]:
    """The wanted map and those that feed it, nearest first."""
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
    return "there is no such parameter; use " + ", ".join(names)


def raster_to_picture(raster: Raster, bits: int, floating: bool, normal_y: NormalY) -> Picture:
    """A map as codes of one file: colors sRGB (linear in float files), normals encoded."""
    values = raster.pixels
    color = raster.meaning is Meaning.COLOR
    down = raster.meaning is Meaning.NORMAL and normal_y is NormalY.DOWN
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
