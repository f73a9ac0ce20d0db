"""Compile kernels ahead of time: run every operation on a tiny picture, at set-up and in the
background.

Compiled kernels are cached on disk; later runs take about a second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from copper_sieve.core.codecs.checksums import channel_checksum
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.codecs.encoders.tga import encode_tga
from copper_sieve.core.export.file_maps import FileMaps, graph_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import (
    Derived,
    Imported,
    MapDefinition,
    SetDefinition,
    compose,
)
from copper_sieve.core.operations import OPERATIONS, Operation
from copper_sieve.core.operations.declaration import Value
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.display import displayed

_SHA = "0" * 64
_SIDE = 16


def warm_up(is_stopping: Callable[[], bool] = lambda: False) -> None:
    """Evaluate and display each operation with default and with changed parameters.

    Changed parameters may use other code paths, which should be compiled too.
    is_stopping : called between operations
    """
    for step in _steps():
        if is_stopping():
            return
        step()


def _steps() -> Iterator[Callable[[], object]]:
    codes = np.arange(_SIDE * _SIDE * 3, dtype=np.uint16).reshape(_SIDE, _SIDE, 3).astype(np.uint8)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    for operation in OPERATIONS.values():
        if not operation.by_pictures:
            continue
        for parameters in (_at_first(operation), _moved(operation)):
            picked = Imported(source=_SHA)
            made = Derived(
                operation=operation.name,
                slots={slot.name: picked for slot in operation.slots},
                parameters=parameters,
            )
            kind = operation.kinds[0]
            maps: dict[MapKind, Imported | Derived] = {
                **dict.fromkeys(operation.inputs, picked), kind: made
            }  # fmt: skip
            one = SetDefinition(name="warm", maps=maps)
            yield partial(_show, one, kind, picture)
    yield partial(_warm_up_preparing, picture)
    for preset in builtin_targets().values():
        yield partial(_warm_up_target, preset, picture)
    for depth in (np.uint8, np.uint16):
        yield partial(encode_png, Picture(codes.astype(depth), ("R", "G", "B"), Encoding.SRGB))


def _show(one: SetDefinition, kind: MapKind, picture: Picture) -> None:
    graph = plan(one, {_SHA: (_SIDE, _SIDE)}, wanted=[kind], longer_side=8)
    displayed(evaluate(graph, lambda _: picture)[kind])


def _warm_up_preparing(picture: Picture) -> None:
    prepare = Preparation.model_validate(
        {"frame": {"angle": 5}, "seams": {"method": "cut", "overlap": (0.3, 0.3)}}
    )
    maps: dict[MapKind, MapDefinition] = {
        kind: Imported(source=_SHA) for kind in (MapKind.BASE_COLOR, MapKind.NORMAL)
    }
    one = SetDefinition(name="warm", prepare=prepare, maps=maps)
    evaluate(plan(one, {_SHA: (_SIDE, _SIDE)}), lambda _: picture)


def _warm_up_target(preset: TargetPreset, picture: Picture) -> None:
    """Pack for a target, unpadded and padded, with half-size files."""
    given = {
        kind: Imported(source=_SHA, channels="RGB" if len(kind.facts.components) == 3 else "R")
        for kind in (MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.OPACITY)
    }
    sizes = {_SHA: (_SIDE, _SIDE)}
    padding = preset.padding.model_copy(update={"mode": "border"})
    for one in (preset, preset.model_copy(update={"padding": padding})):
        export = plan_export(one, compose("warm", given), sizes, longer_side=_SIDE // 2)
        rasters = evaluate(graph_of(export, sizes), lambda _: picture)
        maps = FileMaps(export, rasters)
        for file in export.files:
            codes = maps.picture(file).codes
            maps.mips(file)
            channel_checksum(codes)
            if file.spec.format == "tga":
                list(encode_tga(codes))


def _at_first(operation: Operation) -> dict[str, Value]:
    return {p.name: "#808080" for p in operation.parameters if p.form == "colors"}


def _moved(operation: Operation) -> dict[str, Value]:
    moved: dict[str, Value] = {}
    for p in operation.parameters:
        if p.form == "number":
            moved[p.name] = (float(p.default) + p.high) / 2
        elif p.form == "switch":
            moved[p.name] = not p.default
    return {**_at_first(operation), **moved}


def warm_up_baking() -> None:
    """Bake every map of a triangle from itself; not needed for a server start."""
    from copper_sieve.core.baking import BAKED_MAPS, BakeOptions, bake
    from copper_sieve.core.mesh.mesh import Mesh, smooth_normals

    corners = np.array([[[0, 0, 0], [1, 0, 0], [0, 1, 0]]], dtype=np.float32)
    ahead = smooth_normals(corners)
    none = np.zeros(1, dtype=np.int32)
    mesh = Mesh(corners, ahead, (corners[:, :, :2],), none, none, ("m",), ("p",), colors=corners)
    names = [one.name for one in BAKED_MAPS.values()]
    options = BakeOptions(_SIDE, _SIDE, samples=1, rays=2)
    bake(mesh, [name for name in names if not BAKED_MAPS[name].detail_only], options)
    bake(mesh, names, options, mesh)


def warm_up_measuring() -> None:
    """Measure a few texels; not needed for a server start."""
    from copper_sieve.core.measuring.light_directions import Lamp
    from copper_sieve.core.measuring.measure import measure
    from copper_sieve.core.measuring.stack import Capture

    lamps = [Lamp.at(around, 45) for around in (0, 90, 180, 270)]
    measure([Capture(np.full((_SIDE, _SIDE, 3), 90, np.uint8), lamp) for lamp in lamps])


if __name__ == "__main__":
    warm_up()
    warm_up_baking()
    warm_up_measuring()
