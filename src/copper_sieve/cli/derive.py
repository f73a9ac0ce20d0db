"""./sieve derive: derive a single map from a picture."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict

from copper_sieve.cli import options
from copper_sieve.cli.progress import progress
from copper_sieve.cli.writing import write_whole
from copper_sieve.core.codecs import FORMATS, writer_for_suffix
from copper_sieve.core.errors import ParameterError, WriteError
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.texture_set import SurfaceSpec
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.library.deriving import DerivedMap, derive
from copper_sieve.library.sources import LocalSources
from copper_sieve.settings import load_settings


def run(arguments: argparse.Namespace) -> int:
    """Compute the map and write it completely or not at all; or list all operations."""
    if arguments.list:
        _list(arguments.json)
        return 0
    needed = {"FILE": "file", "--from": "origin", "--to": "to", "--out": "out"}
    if missing := [word for word, name in needed.items() if getattr(arguments, name) is None]:
        raise ParameterError(f"derive requires {', '.join(missing)}; see sieve derive --help")
    name = writer_for_suffix(arguments.out).name
    with progress(f"{arguments.file.name} to {arguments.to}", quiet=arguments.json):
        made = derive(
            arguments.file,
            arguments.to,
            origin=arguments.origin,
            by=arguments.by,
            further=options.pairs(arguments.further, "--with", "name=file"),
            parameters=options.pairs(arguments.param, "--param", "name=value"),
            longer_side=arguments.size,
            normal_y=arguments.normal_y,
            wrap=options.wrap_of(arguments),
            relief=arguments.relief,
            sources=LocalSources(load_settings().limits),
        )
    _write(arguments, made, name)
    remarks = options.remarks(made.notes)
    if made.turned:
        remarks.append(
            f"{arguments.out.name}: normal map written as {NormalY(made.normal_y).label}"
        )
    options.print_remarks(remarks)
    if arguments.json:
        done = {"out": str(arguments.out), "map": made.kind, "remarks": remarks}
        print(json.dumps(done, indent=2))
    return 0


def _write(arguments: argparse.Namespace, made: DerivedMap, name: str) -> None:
    write_whole({arguments.out: _picture(arguments.bits, made, name)})


def _picture(wanted: int | None, made: DerivedMap, name: str) -> Picture:
    bits = wanted or (16 if made.bit_depth >= 16 else 8)
    if bits not in FORMATS[name].bits:
        if wanted:
            depths = " or ".join(map(str, FORMATS[name].bits))
            raise WriteError(
                f"{name} supports {depths} bits, not {bits}. Change --bits or the "
                "file name extension"
            )
        bits = max(FORMATS[name].bits)
    return made.picture(bits, floating=bits in FORMATS[name].floating_bits)


def _list(as_json: bool) -> None:
    surface = [
        {"name": name, "meaning": field.description, "default": field.default}
        for name, field in SurfaceSpec.model_fields.items()
    ]
    if as_json:
        operations = [
            {key: value for key, value in asdict(one).items() if key != "compute"}
            for one in OPERATIONS.values()
            if one.by_pictures
        ]
        print(json.dumps({"operations": operations, "surface": surface}, indent=2))
        return
    for one in OPERATIONS.values():
        if not one.by_pictures:  # derive works on single maps; `bake` bakes from models
            continue
        required = [*one.inputs, *(slot.name for slot in one.slots if slot.required)]
        made = one.output if isinstance(one.output, MapKind) else f"any of {', '.join(one.kinds)}"
        print(f"{one.name}: {made} from {', '.join(required)}: {one.title}")
        for slot in one.slots:
            print(f"  --with {slot.name}=FILE: {slot.meaning}")
        for p in one.parameters:
            print(f"  {p.name} = {p.default}: {p.meaning}; {p.allowed()}")
    for entry in surface:
        print(f"{entry['name']} = {entry['default']}: {entry['meaning']}")
