"""The codes of one file, channel by channel: maps, changes, constants, segments."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.image import array_pool
from copper_sieve.core.image.blue_noise import dithered_codes
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
from copper_sieve.core.image.stored_codes import Channel, stored_codes
from copper_sieve.core.models.changes import Change, Invert, Threshold
from copper_sieve.core.models.slot import Segment, Slot
from copper_sieve.core.targets.target_preset import FileSpec


@dataclass(frozen=True, slots=True)
class Conventions:
    """Conventions of a target, and the set's depth in meters for heights in meters."""

    normal_y: NormalY
    height_mid: float = 0.5
    height_metres: float | None = None

    @classmethod
    def of(cls, export: ExportPlan) -> Conventions:
        """Return the conventions of an export plan."""
        preset, depth = export.preset, export.texture_set.surface.depth
        metres = depth if preset.height_unit == "metres" else None
        return cls(preset.normal_y, preset.height_mid, metres)


def pack_codes(
    file: PackedFile, rasters: Mapping[MapKind, Raster], conventions: Conventions
) -> Picture:
    """Pack the codes of one file.

    Parameters
    ----------
    file : channels and format
    rasters : computed maps
    conventions : normal direction, height and workflow

    Returns
    -------
    Picture, (H, W, C) uint8, uint16 or float32
    """
    width, height = file.size
    floating = file.spec.floating
    depth = np.float32 if floating else np.uint8 if file.spec.bits == 8 else np.uint16
    codes = array_pool.empty_of(depth, height, width, len(file.slots))
    plain: dict[tuple[MapKind, bool], list[Channel]] = {}
    for i, (letter, slot) in enumerate(file.slots.items()):
        if floating:
            codes[:, :, i] = _slot_values(file.spec, slot, rasters, conventions)
        elif slot.map and _is_plain(file.spec, slot):
            light = file.spec.encoding is Encoding.SRGB and letter != "A"
            channel = _plain_channel(slot.map, slot, i, conventions.normal_y)
            plain.setdefault((slot.map, light), []).append(channel)
        else:
            codes[:, :, i] = _slot_codes(file.spec, letter, slot, rasters, conventions.normal_y)
    for (kind, light), channels in plain.items():
        raster = rasters[kind]
        color, normal = raster.meaning is Meaning.COLOR, raster.meaning is Meaning.NORMAL
        stored_codes(raster.pixels, codes, channels, light=light and color, normal=normal)
    names = ("Y",) if codes.shape[2] == 1 else tuple(file.slots)
    return Picture(codes, names, file.spec.encoding)


def _is_plain(spec: FileSpec, slot: Slot) -> bool:
    """Return True for an unchanged or inverted component, whose codes take one pass."""
    inverted = all(isinstance(change, Invert) for change in slot.changes)
    return slot.component != "l" and inverted and not slot.times and not spec.dither


def _plain_channel(kind: MapKind, slot: Slot, to: int, normal_y: NormalY) -> Channel:
    turns = len(slot.changes) + _flips_green(kind, slot.component, normal_y)
    return Channel(kind.facts.components.index(slot.component), to, turns % 2 == 1)


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
    values = _stored_of(slot, slot.map, rasters, as_light=as_light)
    changes = list(slot.changes)
    flips = _flips_green(slot.map, slot.component, normal_y)
    if flips and changes:  # what follows sees the direction that the file has
        values = np.float32(1) - values
    # Inversions at the end are exact on codes, and so is a change of the green alone.
    inversions = 0
    while changes and isinstance(changes[-1], Invert):
        changes.pop()
        inversions += 1
    values = _changed(values, changes)
    dithers = spec.dither and _is_smooth(slot.map, slot.component, changes)
    codes = dithered_codes(values) if dithers else quantize(values, spec.bits)
    if flips and not slot.changes:
        codes = flip_green_codes(codes)
    return np.asarray(top - codes, dtype=codes.dtype) if inversions % 2 else codes


def _is_smooth(kind: MapKind, component: str, changes: list[Change]) -> bool:
    """Return False for masks and z, which dithering would only make noisy."""
    hard = any(isinstance(change, Threshold) for change in changes)
    return not kind.facts.hard and component != "z" and not hard


def _slot_values(
    spec: FileSpec, slot: Slot, rasters: Mapping[MapKind, Raster], conventions: Conventions
) -> Float:
    """Return values for a floating-point file; light is only clipped if it is changed."""
    if slot.segments:
        codes = _segment_codes(
            slot.segments, rasters, conventions.normal_y, bits=16, as_light=False
        )
        values = dequantize(codes)
    elif slot.map is None:
        values = np.asarray(slot.constant or 0.0, dtype=np.float32)
    else:
        values = _stored_of(slot, slot.map, rasters, as_light=False)
        if _flips_green(slot.map, slot.component, conventions.normal_y):
            values = np.float32(1) - values
        values = _changed(values, slot.changes)
        if slot.map is MapKind.HEIGHT and conventions.height_metres is not None:
            metres = np.float32(conventions.height_metres)
            values = (values - np.float32(conventions.height_mid)) * metres
    return values.astype(np.float16).astype(np.float32) if spec.bits == 16 else values


def _stored_of(
    slot: Slot, kind: MapKind, rasters: Mapping[MapKind, Raster], *, as_light: bool
) -> Float:
    factor = None
    if slot.times:
        weight = np.float32(slot.times.weight)
        factor = 1 - weight + weight * rasters[slot.times.map].pixels[:, :, 0]
    return stored(rasters[kind], kind, slot.component, as_light=as_light, factor=factor)


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
    """Write later segments first, so that earlier ones override them."""
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


def stored(
    raster: Raster,
    kind: MapKind,
    component: str,
    *,
    as_light: bool,
    factor: Float | None = None,
) -> Float:
    """Return one component of a map as stored in a file.

    Parameters
    ----------
    raster : the map
    kind : of the map
    component : of the map, such as "x" or "r"
    as_light : encode colors as sRGB
    factor : (H, W) float32, multiplied first

    Returns
    -------
    (H, W) float32, [0, 1], normals with Y up
    """
    if component == "l":
        values = raster.pixels @ REC709_LUMINANCE
    else:
        values = raster.pixels[:, :, kind.facts.components.index(component)]
    if factor is not None:
        values = np.asarray(values * factor, dtype=np.float32)
    if raster.meaning is Meaning.NORMAL:
        return vectors_to_encoded(values)
    if raster.meaning is Meaning.COLOR and as_light:
        return linear_to_srgb(np.clip(values, 0, 1))
    return values


def _changed(values: Float, changes: tuple[Change, ...] | list[Change]) -> Float:
    for change in changes:
        values = change.apply(np.clip(values, 0, 1))
    return values
