"""The codes of one file, channel by channel: maps, changes, constants, segments."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from copper_sieve.core.codecs.writing import FORMATS
from copper_sieve.core.image.encoding import (
    REC709_LUMINANCE,
    dequantize,
    linear_to_srgb,
    max_code,
    quantize,
)
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.normals import flip_green_codes, vectors_to_encoded
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture, Raster
from copper_sieve.core.pipeline.pack import PackedFile
from copper_sieve.core.presets.changes import Change, Invert
from copper_sieve.core.presets.target_preset import FileSpec, Segment, Slot


def pack_codes(file: PackedFile, rasters: Mapping[MapKind, Raster], normal_y: NormalY) -> Picture:
    """The codes of one file, exactly as it must hold them: (H, W, C) uint8, uint16 or float32."""
    width, height = file.size
    floating = FORMATS[file.spec.format].floating
    depth = np.float32 if floating else np.uint8 if file.spec.bits == 8 else np.uint16
    codes = np.empty((height, width, len(file.slots)), dtype=depth)
    for i, (letter, slot) in enumerate(file.slots.items()):
        if floating:
            codes[:, :, i] = _slot_values(slot, rasters, normal_y)
        else:
            codes[:, :, i] = _slot_codes(file.spec, letter, slot, rasters, normal_y)
    names = ("Y",) if codes.shape[2] == 1 else tuple(file.slots)
    return Picture(codes, names, file.spec.encoding)


def _slot_codes(
    spec: FileSpec,
    letter: str,
    slot: Slot,
    rasters: Mapping[MapKind, Raster],
    normal_y: NormalY,
) -> Codes:
    top = max_code(spec.bits)
    as_light = spec.encoding is Encoding.SRGB and letter != "A"
    if slot.segments:
        return _segment_codes(slot.segments, rasters, normal_y, bits=spec.bits, as_light=as_light)
    if slot.map is None:
        return np.asarray(round((slot.constant or 0.0) * top))
    values = stored(rasters[slot.map], slot.map, slot.component, as_light=as_light)
    changes = list(slot.changes)
    flips = _flips_green(slot.map, slot.component, normal_y)
    if flips and changes:  # what follows sees the direction that the file has
        values = np.float32(1) - values
    # Inversions at the end are exact on codes, and so is a change of the green alone.
    inversions = 0
    while changes and isinstance(changes[-1], Invert):
        changes.pop()
        inversions += 1
    codes = quantize(_changed(values, changes), spec.bits)
    if flips and not slot.changes:
        codes = flip_green_codes(codes)
    return np.asarray(top - codes, dtype=codes.dtype) if inversions % 2 else codes


def _slot_values(slot: Slot, rasters: Mapping[MapKind, Raster], normal_y: NormalY) -> Float:
    """For a floating point file of half precision: light is not clipped unless it is changed."""
    if slot.segments:
        codes = _segment_codes(slot.segments, rasters, normal_y, bits=16, as_light=False)
        values = dequantize(codes)
    elif slot.map is None:
        values = np.asarray(slot.constant or 0.0, dtype=np.float32)
    else:
        values = stored(rasters[slot.map], slot.map, slot.component, as_light=False)
        if _flips_green(slot.map, slot.component, normal_y):
            values = np.float32(1) - values
        values = _changed(values, slot.changes)
    return values.astype(np.float16).astype(np.float32)


def _flips_green(kind: MapKind, component: str, normal_y: NormalY) -> bool:
    normal = kind.facts.meaning is Meaning.NORMAL
    return normal and component == "y" and normal_y is NormalY.DOWN


def _segment_codes(
    segments: tuple[Segment, ...],
    rasters: Mapping[MapKind, Raster],
    normal_y: NormalY,
    *,
    bits: int,
    as_light: bool,
) -> Codes:
    """Later segments first, so that an earlier one lies over them where it holds."""
    out: Codes | None = None
    step = max_code(bits) // 255
    for segment in reversed(segments):
        values = stored(rasters[segment.map], segment.map, segment.component, as_light=as_light)
        if _flips_green(segment.map, segment.component, normal_y):
            values = np.float32(1) - values
        values = _changed(values, segment.changes)
        first, last = (np.float32(code * step) for code in segment.codes)
        codes = np.floor(first + np.clip(values, 0, 1) * (last - first) + np.float32(0.5))
        codes = codes.astype(np.uint8 if bits == 8 else np.uint16)
        holds = None if segment.above is None else values > np.float32(segment.above)
        out = codes if out is None or holds is None else np.where(holds, codes, out)
    assert out is not None
    return out


def stored(raster: Raster, kind: MapKind, component: str, *, as_light: bool) -> Float:
    """One component of a map as a file stores it: (H, W) float32, [0, 1], normals with Y up.

    as_light : colors are encoded as sRGB
    """
    if component == "l":
        values = raster.pixels @ REC709_LUMINANCE
    else:
        values = raster.pixels[:, :, kind.facts.components.index(component)]
    if raster.meaning is Meaning.NORMAL:
        return vectors_to_encoded(values)
    if raster.meaning is Meaning.COLOR and as_light:
        return linear_to_srgb(np.clip(values, 0, 1))
    return values


def _changed(values: Float, changes: tuple[Change, ...] | list[Change]) -> Float:
    for change in changes:
        values = change.apply(np.clip(values, 0, 1))
    return values
