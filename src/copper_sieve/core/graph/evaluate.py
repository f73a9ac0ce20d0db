"""Evaluate a plan: compute what isn't cached, and release results early."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Protocol

import numpy as np

from copper_sieve.core.baking import OnModel
from copper_sieve.core.errors import CancelledError, MeshError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.measured import light_of_capture, measure_node
from copper_sieve.core.graph.node import DEPTH, Node, Plan
from copper_sieve.core.image.encoding import (
    decode_color,
    dequantize,
    without_curve,
)
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.meaning import as_meaning
from copper_sieve.core.image.normals import encoded_to_vectors, with_rebuilt_z
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture, Raster
from copper_sieve.core.image.reduction import reduce_nearest, reduce_picture
from copper_sieve.core.image.resize import resize
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.models.texture_set import Constant, Derived, Imported
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.height.relief_depth import depth_by_normals, depth_by_tilt

LoadSource = Callable[[str], Picture]
LoadModel = Callable[[str], Mesh]

_LARGEST_PASSING = 64 << 20  # bytes of a step's result that is kept for the step after it
_LARGEST_MEASURED = 192 << 20  # bytes of measurements cached for further maps


class Cache(Protocol):
    """Stores pixels by content key; may discard any of them at any time."""

    def get(self, key: str) -> Float | None:
        """Return the pixels of a key, or None."""

    def put(self, key: str, pixels: Float) -> None:
        """Store the pixels of a key, if possible."""


class NoCache:
    """Stores nothing."""

    def get(self, key: str) -> Float | None:
        """Return None."""
        return None

    def put(self, key: str, pixels: Float) -> None:
        """Discard the pixels."""


class Maps(dict[MapKind, Raster]):
    """Computed maps, and the measured depth of the set's height.

    depth : meters between height 0 and 1; None if it is stated or wasn't needed
    """

    depth: float | None = None


def evaluate(
    wanted: Plan,
    load_source: LoadSource,
    load_model: LoadModel | None = None,
    *,
    cache: Cache | None = None,
    on_progress: Callable[[float], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
    on_step: Callable[[Sequence[Node], int], None] | None = None,
) -> Maps:
    """Compute the outputs of a plan.

    Cached results and their inputs aren't computed. Every other result is released after its last
    use, so that memory depends on the widest cut of the graph.

    Parameters
    ----------
    wanted : plan
    load_source : reads a source by its SHA-256
    load_model : reads a model by its SHA-256
    cache : of results by content key
    on_progress : called with the completed share, [0, 1]
    is_cancelled : returns True to cancel
    on_step : called before each step with all steps to compute and the index of the next one

    Returns
    -------
    rasters by map kind

    Raises
    ------
    CancelledError : between two steps, or during a bake
    MeshError : if a model can't provide the map
    """
    cache = NoCache() if cache is None else cache
    targets = [*wanted.outputs.values(), *([wanted.depth] if wanted.depth else [])]
    found, needed = _known_and_needed(wanted, targets, cache)
    uses = Counter(targets)
    for node in needed:
        uses.update(node.inputs.values())
    pictures = _Pictures(load_source, needed)
    for done, node in enumerate(needed):
        if is_cancelled and is_cancelled():
            raise CancelledError
        if on_step:
            on_step(needed, done)
        report = _telling(on_progress, done, len(needed))
        model = _on_model(node, load_model, report, is_cancelled) if node.link else None
        if node.captures or node.capture:
            found[node.key] = _measured(node, found, pictures, report, is_cancelled)
        else:
            found[node.key] = _compute(node, wanted, found, pictures, model)
        # Shared arrays are read-only, and kernels are compiled once per argument type.
        found[node.key].setflags(write=False)
        if _worth_keeping(node, found[node.key]):
            cache.put(node.key, found[node.key])
        _release(node, uses, found)
        if on_progress:
            on_progress((done + 1) / len(needed))
    return _outputs(wanted, found)


def _release(node: Node, uses: Counter[str], found: dict[str, Float]) -> None:
    """Drop the inputs of a computed node that no other node needs."""
    for source in node.inputs.values():
        uses[source] -= 1
        if not uses[source]:
            del found[source]


def _outputs(wanted: Plan, found: Mapping[str, Float]) -> Maps:
    maps = Maps(
        (kind, Raster(found[key], kind.facts.meaning)) for kind, key in wanted.outputs.items()
    )
    if wanted.depth:
        maps.depth = _in_metres(found[wanted.depth], wanted.nodes[wanted.depth])
    return maps


def _telling(
    on_progress: Callable[[float], None] | None, done: int, count: int
) -> Callable[[float], None]:
    """Report overall progress from the progress of one node; let other threads run."""

    def report(share: float) -> None:
        if on_progress:
            on_progress((done + share) / count)
        computing.hand_on()

    return report


def _on_model(
    node: Node,
    load: LoadModel | None,
    report: Callable[[float], None],
    is_cancelled: Callable[[], bool] | None,
) -> OnModel:
    link = node.link
    if load is None or link is None:
        raise MeshError(f"{node.words}: no models are available")
    high_poly = load(link.high_poly) if link.high_poly else None
    return OnModel(
        load(link.source), *node.size, link.material, link.uv_set, high_poly, link.cage,
        link.match_by_name,
        link.match_by_uvs, node.quick, link.model_dump_json(), report, is_cancelled, node.sheet,
    )  # fmt: skip


def _known_and_needed(
    wanted: Plan, targets: Sequence[str], cache: Cache
) -> tuple[dict[str, Float], list[Node]]:
    """Return cached results of the targets, and the nodes to compute, inputs first."""
    found: dict[str, Float] = {}
    needed: dict[str, Node] = {}

    def collect(key: str) -> None:
        if key in found or key in needed:
            return
        pixels = cache.get(key)
        if pixels is not None:
            found[key] = pixels
            return
        node = wanted.nodes[key]
        for source in node.inputs.values():
            collect(source)
        needed[key] = node

    for key in targets:
        collect(key)
    return found, list(needed.values())


def _in_metres(share: Float, node: Node) -> float:
    return float(share[0, 0, 0]) * node.surface.tile_size


def _worth_keeping(node: Node, pixels: Float) -> bool:
    if isinstance(node.definition, Constant):
        return False
    most = _LARGEST_MEASURED if node.captures else _LARGEST_PASSING
    return not (node.passing or node.captures) or pixels.nbytes <= most


class _Pictures:
    """Decoded source files, each kept until the last map made from it is done."""

    def __init__(self, load: LoadSource, nodes: list[Node]) -> None:
        self._load = load
        self._uses = Counter(file for node in nodes for file in node.files)
        self._kept: dict[str, Picture] = {}

    def take(self, source: str) -> Picture:
        picture = self._kept.pop(source, None) or self._load(source)
        self._uses[source] -= 1
        if self._uses[source] > 0:
            self._kept[source] = picture
        return picture


def _compute(
    node: Node,
    graph: Plan,
    found: dict[str, Float],
    pictures: _Pictures,
    model: OnModel | None,
) -> Float:
    width, height = node.size
    definition = node.definition
    if node.measures:
        with computing:
            return _depth(node, found)
    if node.reduction:
        kinds = {"whole": node.kind, "normal": node.kind.widened_by or node.kind}
        maps = {
            kinds[name]: Raster(found[key], kinds[name].facts.meaning)
            for name, key in node.inputs.items()
        }
        with computing:
            return reduce_picture(maps, width, height, node.reduction)[node.kind].pixels
    if node.step is not None:
        with computing:
            return node.step.run(
                {name: found[key] for name, key in node.inputs.items()},
                node.kind.facts.meaning,
                node.size,
            )
    if isinstance(definition, Derived):
        operation = get_operation(definition.operation, node.kind)
        inputs = {name: found[key] for name, key in node.inputs.items() if name != DEPTH}
        surface = replace(node.surface, model=model) if model else node.surface
        if DEPTH in node.inputs:
            depth = _in_metres(found[node.inputs[DEPTH]], node)
            surface = replace(surface, depth=depth)
        for slot in operation.slots:
            if slot.name in inputs:
                have = graph.nodes[node.inputs[slot.name]].kind.facts.meaning
                wanted = slot.takes.facts.meaning
                inputs[slot.name] = as_meaning(inputs[slot.name], have, wanted)
        with computing:
            return operation.compute(inputs, node.parameters, surface)
    if isinstance(definition, Constant):
        value = np.array(definition.value, dtype=np.float32)
        return np.broadcast_to(value, (height, width, len(value)))
    if node.sheet:
        return _laid_on_sheet(node, definition, node.sheet, pictures)
    raster = picture_to_map(pictures.take(definition.source), node.kind, definition)
    return (reduce_nearest if node.nearest else resize)(raster, width, height).pixels


def _measured(
    node: Node,
    found: Mapping[str, Float],
    pictures: _Pictures,
    report: Callable[[float], None],
    is_cancelled: Callable[[], bool] | None,
) -> Float:
    """Return the measurement of light captures, or one of its maps reduced."""

    def between(share: float) -> None:
        if is_cancelled and is_cancelled():
            raise CancelledError
        report(share)

    with computing:
        if node.capture:
            return light_of_capture(node.capture, node.size, pictures.take)
        assert node.captures
        lights = {name: found[key] for name, key in node.inputs.items()}
        return measure_node(node.captures, node.size, lights, pictures.take, between)


def _laid_on_sheet(node: Node, picture: Imported, sheet: TileLayout, pictures: _Pictures) -> Float:
    """Place tiles on the sheet; a picture without tiles is repeated on each."""
    size, tiles = sheet.tile_size(node.size), {}
    for number, source in (picture.tiles or {0: picture.source}).items():
        raster = picture_to_map(pictures.take(source), node.kind, picture)
        tiles[number] = (reduce_nearest if node.nearest else resize)(raster, *size).pixels
    if not picture.tiles:
        tiles = dict.fromkeys(sheet.numbers, tiles[0])
    return sheet.laid(tiles, node.size, np.array(node.kind.facts.neutral, dtype=np.float32))


def _depth(node: Node, found: dict[str, Float]) -> Float:
    """Return the depth of a height as a fraction of the picture's width, (1, 1, 1)."""
    height, wrap = found[node.inputs["height"]][:, :, 0], node.surface.wrap
    if "normal" in node.inputs:
        share = depth_by_normals(height, found[node.inputs["normal"]], wrap)
    else:
        share = depth_by_tilt(height, node.parameters["tilt"], wrap)
    return np.full((1, 1, 1), share, dtype=np.float32)


def picture_to_map(picture: Picture, kind: MapKind, imported: Imported) -> Raster:
    """Convert the codes of a picture to a map.

    Colors become linear light, normals unit vectors with Y up; data is unchanged. Data from a color
    picture is its red channel if R, G and B are equal, else the luminance of the stored values. A
    sRGB curve that was applied to normals or data by mistake is undone first.

    Parameters
    ----------
    picture : codes
    kind : of the map
    imported : channels, green direction and curve

    Returns
    -------
    Raster

    Raises
    ------
    ChannelError : if a channel is missing
    """
    meaning = kind.facts.meaning
    names = tuple(imported.channels)
    codes = np.stack([picture.channel(name) for name in names], axis=2)
    if codes.dtype == np.float32:  # light and data are finite and never below zero
        codes = np.maximum(np.nan_to_num(codes, nan=0.0, posinf=65504.0, neginf=0.0), 0)
    if meaning is Meaning.COLOR:
        values = decode_color(codes, imported.encoding is Encoding.SRGB)
        if values.shape[2] == 1:
            values = np.repeat(values, 3, axis=2)
    elif meaning is Meaning.NORMAL:
        encoded = _stored(codes, imported)
        if len(names) == 2:
            encoded = with_rebuilt_z(encoded)
        values = encoded_to_vectors(encoded, imported.normal_y)
    elif codes.shape[2] == 3:
        grey = (codes[:, :, 0] == codes[:, :, 1]).all() and (codes[:, :, 1] == codes[:, :, 2]).all()
        stored = _stored(codes[:, :, :1] if grey else codes, imported)
        values = stored if grey else _stored_luminance(stored)
    else:
        values = _stored(codes, imported)
    return Raster(np.ascontiguousarray(values, dtype=np.float32), meaning)


def _stored(codes: Codes, imported: Imported) -> Float:
    """Return data values before a transfer curve that was applied by mistake."""
    return without_curve(dequantize(codes), imported.curve)


def _stored_luminance(values: Float) -> Float:
    return (values @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32))[:, :, None]
