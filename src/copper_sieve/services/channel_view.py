"""Compare a channel of a delivered file with the map that it was computed from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np

from copper_sieve.core.codecs import reopen
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.export.channels import stored
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.export.file_maps import FileMaps, graph_of
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.image.encoding import dequantize, quantize
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture
from copper_sieve.core.models.slot import Slot
from copper_sieve.services.context import Context
from copper_sieve.services.delivered import delivered_file
from copper_sieve.services.deliveries import get
from copper_sieve.services.delivery_worker import packing_of
from copper_sieve.store.delivery_rows import StoredPart

_SIDE = 512
_MOST_KEPT = 160 << 20  # bytes: three states of 4096 x 4096 texels of 16 bits
AMPLIFIED = 16  # the difference's picture, so that a code can be seen


@dataclass(frozen=True, slots=True)
class ChannelView:
    """PNGs of a channel: as stored in the file, as expected, the unchanged map, and the difference.

    The difference is amplified, and its size given in codes.
    map : None for constants and for several maps in one channel
    """

    words: str
    held: bytes
    expected: bytes
    map: bytes | None
    difference: bytes
    largest: float
    mean: float


@dataclass(frozen=True, slots=True)
class Planes:
    """A channel in several states, each (H, W), of equal size.

    values : by state, codes if `top` is the largest code, else values in [0, 1]
    """

    words: str
    values: dict[str, Codes]
    top: int | None


def channel_view(context: Context, delivery_id: int, n: int, name: str, letter: str) -> ChannelView:
    """Recompute a channel from the maps at the time of the delivery, and compare.

    Raises NotFoundError if the delivery, the file or the channel doesn't exist.
    """
    planes = channel_planes(context, delivery_id, n, name, letter)
    held, expected = planes.values["held"], planes.values["expected"]
    before = planes.values.get("map")
    apart = np.abs(held.astype(np.float64) - expected.astype(np.float64))
    share = dequantize(held) - dequantize(expected)
    return ChannelView(
        words=planes.words,
        held=channel_png(dequantize(held)),
        expected=channel_png(dequantize(expected)),
        map=None if before is None else channel_png(before),
        difference=channel_png(np.abs(share) * AMPLIFIED),
        largest=apart.max().item(),
        mean=float(apart.mean()),
    )


def channel_planes(context: Context, delivery_id: int, n: int, name: str, letter: str) -> Planes:
    """Return a channel as stored (held), as expected (expected), and its unchanged map (map).

    Values are stored values in [0, 1]. Raises as `channel_view`. The last result is cached, because
    a zoomed view requests it piece by piece.
    """
    path = delivered_file(context, delivery_id, n, name)
    stat = path.stat()
    key = f"{delivery_id}/{n}/{name}/{letter} {stat.st_mtime_ns} {stat.st_size}"

    def make() -> Planes:
        part = next(one for one in get(context, delivery_id).parts if one.n == n)
        made = computed(context, part, name, letter)
        held = reopen(path)[:, :, made.index]
        values = {"held": held, "expected": made.codes}
        slot = made.slot
        if slot.map:
            light = made.file.spec.encoding is Encoding.SRGB and letter != "A"
            map_there = made.maps.at(made.file.size)[slot.map]
            values["map"] = stored(map_there, slot.map, slot.component, as_light=light)
        return Planes(slot.words(), values, _top(held))

    return kept_planes(context, key, make)


def kept_planes(context: Context, key: str, make: Callable[[], Planes]) -> Planes:
    """Return the last viewed channel, or compute it.

    One channel is cached for all clients, unless it is very large.
    """
    kept = context.looked_at
    if kept is not None and kept[0] == key:
        planes: Planes = kept[1]
        return planes
    made = make()
    small = sum(one.nbytes for one in made.values.values()) <= _MOST_KEPT
    context.looked_at = (key, made) if small else None
    return made


def _top(codes: Codes) -> int | None:
    return int(np.iinfo(codes.dtype).max) if codes.dtype.kind == "u" else None


@dataclass(frozen=True, slots=True)
class Texels:
    """An excerpt of a channel: its position, and (rows, columns) float32 of each state.

    width, height : of the whole channel; top : as in `Planes`
    """

    width: int
    height: int
    left: int
    upper: int
    top: int | None
    planes: dict[str, Float]


def piece_of(planes: Planes, left: int, upper: int, columns: int, rows: int) -> Texels:
    """Return an excerpt of a channel, clipped to its bounds."""
    height, width = next(iter(planes.values.values())).shape
    left, upper = min(max(left, 0), width - 1), min(max(upper, 0), height - 1)
    cut = np.s_[upper : upper + rows, left : left + columns]
    found = {
        name: np.ascontiguousarray(values[cut], np.float32)
        for name, values in planes.values.items()
    }
    return Texels(width, height, left, upper, planes.top, found)


@dataclass(frozen=True, slots=True)
class Computed:
    """A channel of a delivered file, computed from the set of that time.

    codes : (H, W) expected codes of the file; index : of the channel in the file
    """

    file: PackedFile
    slot: Slot
    index: int
    maps: FileMaps
    codes: Codes


def computed(context: Context, part: StoredPart, name: str, letter: str) -> Computed:
    """Compute a channel of a delivered file. Raises NotFoundError if the part doesn't have it."""
    packing, sizes = packing_of(context, part)
    file = next((one for one in packing.files if one.name == name), None)
    if file is None or letter not in file.slots:
        raise NotFoundError(f"{name} has no channel {letter}")
    narrowed = replace(packing, files=(file,))
    graph = graph_of(packing, sizes, narrowed.wanted)
    rasters = evaluate(graph, context.load_source, context.load_model, cache=context.cache)
    maps = FileMaps(narrowed.with_depth(rasters.depth), rasters)
    index = list(file.slots).index(letter)
    return Computed(file, file.slots[letter], index, maps, maps.picture(file).codes[:, :, index])


def channel_png(values: Float) -> bytes:
    """Return a grayscale PNG, reduced so that single texels stay visible."""
    codes: Codes = quantize(values, 8)
    longer = max(codes.shape)
    if longer > _SIDE:
        size = tuple(max(1, side * _SIDE // longer) for side in codes.shape[::-1])
        codes = cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
    return encode_png(Picture(codes[:, :, None], ("Y",), Encoding.LINEAR))
