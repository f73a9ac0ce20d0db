"""One channel of a delivered file held against the map that it was made of."""

from __future__ import annotations

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
from copper_sieve.services.delivering import packing_of
from copper_sieve.store.delivery_rows import KeptPart

_SIDE = 512
AMPLIFIED = 16  # the difference's picture, so that a code can be seen


@dataclass(frozen=True, slots=True)
class ChannelView:
    """PNGs of a channel as the file holds it, as it should be, the map before its changes, and
    the difference (amplified); how far apart the first two are, in codes.

    map : None for constants and for several maps in one channel
    """

    words: str
    held: bytes
    expected: bytes
    map: bytes | None
    difference: bytes
    largest: float
    mean: float


def channel_view(context: Context, delivery_id: int, n: int, name: str, letter: str) -> ChannelView:
    """Compute a channel anew from the maps as they were delivered, and compare.

    Raises NotFoundError where the delivery, the file or the channel is not there.
    """
    path = delivered_file(context, delivery_id, n, name)
    part = next(one for one in get(context, delivery_id).parts if one.n == n)
    made = computed(context, part, name, letter)
    expected = made.codes
    held = reopen(path)[:, :, made.index]
    slot, before = made.slot, None
    if slot.map:
        light = made.file.spec.encoding is Encoding.SRGB and letter != "A"
        map_there = made.maps.at(made.file.size)[slot.map]
        before = stored(map_there, slot.map, slot.component, as_light=light)
    apart = np.abs(held.astype(np.float64) - expected.astype(np.float64))
    share = dequantize(held) - dequantize(expected)
    return ChannelView(
        words=slot.words(),
        held=channel_png(dequantize(held)),
        expected=channel_png(dequantize(expected)),
        map=None if before is None else channel_png(before),
        difference=channel_png(np.abs(share) * AMPLIFIED),
        largest=apart.max().item(),
        mean=float(apart.mean()),
    )


@dataclass(frozen=True, slots=True)
class Computed:
    """A channel of a delivered file, computed anew from the set as it was then.

    codes : (H, W) as the file should hold them; index : of the channel in the file
    """

    file: PackedFile
    slot: Slot
    index: int
    maps: FileMaps
    codes: Codes


def computed(context: Context, part: KeptPart, name: str, letter: str) -> Computed:
    """Raises NotFoundError where the part has no such file or channel."""
    packing, sizes = packing_of(context, part)
    file = next((one for one in packing.files if one.name == name), None)
    if file is None or letter not in file.slots:
        raise NotFoundError(f"{name} has no channel {letter}")
    narrowed = replace(packing, files=(file,))
    graph = graph_of(packing, sizes, narrowed.wanted)
    rasters = evaluate(graph, context.load_source, cache=context.cache)
    maps = FileMaps(narrowed.with_depth(rasters.depth), rasters)
    index = list(file.slots).index(letter)
    return Computed(file, file.slots[letter], index, maps, maps.picture(file).codes[:, :, index])


def channel_png(values: Float) -> bytes:
    """A grey picture, reduced without blurring single texels away."""
    codes: Codes = quantize(values, 8)
    longer = max(codes.shape)
    if longer > _SIDE:
        size = tuple(max(1, side * _SIDE // longer) for side in codes.shape[::-1])
        codes = cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
    return encode_png(Picture(codes[:, :, None], ("Y",), Encoding.LINEAR))
