"""Check of a conversion: the set's maps and the files read back, under the same shader."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.encoding import dequantize, srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Encoding, Float, Picture, Raster
from copper_sieve.core.lighting.environment import Environment
from copper_sieve.core.lighting.shading import Illumination, Material, shade
from copper_sieve.core.models.changes import Invert
from copper_sieve.core.operations.reflectance.workflow import metal_rough_of

Rasters = Mapping[MapKind, Raster]


@dataclass(frozen=True, slots=True)
class Proof:
    """Both pictures in linear light, and their difference.

    mean, largest : CIEDE2000 over all texels; 1 is about the visible threshold side by side
    """

    before: Float
    after: Float
    mean: float
    largest: float


BEFORE = (MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.NORMAL)
_AFTER_SPECULAR = (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS, MapKind.NORMAL)


def check_conversion(
    export: ExportPlan, rasters: Rasters, pictures: Mapping[str, Picture],
    environment: Environment | None = None,
) -> Proof | None:  # fmt: skip
    """Compare the shading of the set's maps with that of the target's files, read back.

    Parameters
    ----------
    export : plan of the files
    rasters : maps of BEFORE
    pictures : codes of each file by its name
    environment : lighting; None: three lights

    Returns
    -------
    Proof, or None if the target leaves out a map of the material
    """
    if not all(kind in rasters for kind in BEFORE):
        return None
    read = {
        kind: found
        for kind in dict.fromkeys((*BEFORE, *_AFTER_SPECULAR))
        if (found := _read_back(export, pictures, kind)) is not None
    }
    specular = export.preset.workflow == "spec_gloss"
    if specular and MapKind.GLOSSINESS not in read and MapKind.ROUGHNESS in read:
        read[MapKind.GLOSSINESS] = 1 - read[MapKind.ROUGHNESS]
    needed = _AFTER_SPECULAR if specular else BEFORE
    if not all(kind in read for kind in needed):
        return None
    f0 = export.preset.dielectric_f0
    light: dict[str, Any] = (
        {"around": Illumination(environment=environment), "lights": ()} if environment else {}
    )
    before = shade(Material.of({kind: rasters[kind].pixels for kind in BEFORE}, f0), **light)
    after = shade(_spec_gloss(read) if specular else Material.of(read, f0), **light)
    apart = delta_e_2000(to_lab(before), to_lab(after))
    return Proof(before, after, float(apart.mean()), float(apart.max()))


LIT = (*BEFORE, MapKind.AMBIENT_OCCLUSION, MapKind.OPACITY, MapKind.EMISSIVE)


def lit_maps(
    export: ExportPlan, rasters: Rasters, pictures: Mapping[str, Picture]
) -> tuple[dict[MapKind, Raster], dict[MapKind, Raster]]:
    """Return the set's maps, and those read back from the target's files, for the lit view.

    For a specular target, base color and metallic are computed from diffuse and specular color.
    """
    after = {
        kind: found
        for kind in (*LIT, MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS)
        if (found := _read_back(export, pictures, kind)) is not None
    }
    if MapKind.GLOSSINESS in after:
        after.setdefault(MapKind.ROUGHNESS, 1 - after[MapKind.GLOSSINESS])
    if MapKind.DIFFUSE in after and MapKind.SPECULAR_COLOR in after:
        made = metal_rough_of(after[MapKind.DIFFUSE], after[MapKind.SPECULAR_COLOR],
                              export.preset.dielectric_f0, "simple")  # fmt: skip
        after[MapKind.BASE_COLOR], after[MapKind.METALLIC] = made
    return (
        {kind: rasters[kind] for kind in LIT if kind in rasters},
        {
            kind: Raster(np.ascontiguousarray(after[kind], dtype=np.float32), kind.facts.meaning)
            for kind in LIT
            if kind in after
        },
    )


def _spec_gloss(maps: Mapping[MapKind, Float]) -> Material:
    """Return the material with the "simple" conversion: the diffuse color is unchanged."""
    return Material(
        maps[MapKind.DIFFUSE], maps[MapKind.SPECULAR_COLOR],
        1 - maps[MapKind.GLOSSINESS], maps[MapKind.NORMAL],
    )  # fmt: skip


def _read_back(export: ExportPlan, pictures: Mapping[str, Picture], kind: MapKind) -> Float | None:
    """Return a map as a program reads it from the target's files, or None."""
    parts = [_component(export, pictures, kind, one) for one in kind.facts.components]
    if kind.facts.meaning is Meaning.NORMAL and parts[2] is None and parts[0] is not None:
        parts[2] = np.ones_like(parts[0])
        if parts[1] is not None:
            x, y = parts[0] * 2 - 1, parts[1] * 2 - 1
            z = np.sqrt(np.maximum(1 - x * x - y * y, 0))
            parts[2] = np.asarray(z / 2 + 0.5, dtype=np.float32)
    if any(part is None for part in parts):
        return None
    values = np.stack([part for part in parts if part is not None], axis=2)
    if kind.facts.meaning is Meaning.NORMAL:
        if export.preset.normal_y is NormalY.DOWN:
            values[:, :, 1] = 1 - values[:, :, 1]
        return normalize(np.asarray(values * 2 - 1, dtype=np.float32))
    return values


def _component(
    export: ExportPlan, pictures: Mapping[str, Picture], kind: MapKind, component: str
) -> Float | None:
    for file in export.files:
        found = _channel_with(file, kind, component)
        if found is None:
            continue
        index, inverted = found
        values = dequantize(pictures[file.name].codes[:, :, index])
        values = 1 - values if inverted else values
        light = kind.facts.meaning is Meaning.COLOR and file.spec.encoding is Encoding.SRGB
        return srgb_to_linear(values) if light else values
    return None


def _channel_with(file: PackedFile, kind: MapKind, component: str) -> tuple[int, bool] | None:
    """Return the channel that contains a component, unchanged or inverted."""
    for index, slot in enumerate(file.slots.values()):
        same = slot.map is kind and slot.component == component
        if same and all(isinstance(change, Invert) for change in slot.changes):
            return index, len(slot.changes) % 2 == 1
    return None
