"""Pack: a preset and a set become files of channels, first in words, then in codes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from copper_sieve.core.codecs import FORMATS
from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.image.encoding import linear_to_srgb, max_code, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.normals import flip_green_codes, vectors_to_encoded
from copper_sieve.core.image.raster import Codes, Encoding, Picture, Raster
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.pipeline.preparing import native_size, settled
from copper_sieve.core.presets.naming import check_distinct, check_name, expand
from copper_sieve.core.presets.target_preset import FileSpec, Slot, TargetPreset
from copper_sieve.core.presets.texture_set import Constant, SetDefinition, derive_missing

Weight = Literal["expected", "look", "wrong"]


@dataclass(frozen=True, slots=True)
class Remark:
    """Something to know. expected: as it should be; look: worth a look; wrong: will be wrong."""

    weight: Weight
    text: str


@dataclass(frozen=True, slots=True)
class PackedFile:
    """One file that a delivery will write: its full name and what each channel holds."""

    name: str
    spec: FileSpec
    slots: dict[str, Slot]
    size: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Packing:
    """A preset applied to a set: the set with what must be derived, the files, the remarks."""

    texture_set: SetDefinition
    preset: TargetPreset
    size: tuple[int, int]
    files: tuple[PackedFile, ...]
    documents: tuple[str, ...]
    remarks: tuple[Remark, ...] = ()

    @property
    def wanted(self) -> list[MapKind]:
        """Every map that some channel holds."""
        kinds = [slot.map for file in self.files for slot in file.slots.values() if slot.map]
        return list(dict.fromkeys(kinds))


@dataclass(slots=True)
class _Resolver:
    texture_set: SetDefinition
    remarks: list[Remark] = field(default_factory=list)

    def has(self, slot: Slot) -> bool:
        """Make sure that the slot's map is there; False where it is to be left out."""
        kind = slot.map
        if kind is None or kind in self.texture_set.maps:
            return True
        if slot.if_missing == "stop":
            raise MissingMapError(
                f"{self.texture_set.name} has no {kind} map, which the target demands: "
                "take one in, derive it, or set a value"
            )
        if slot.if_missing == "omit":
            return False
        derived = derive_missing(self.texture_set.maps, kind)
        if slot.if_missing == "derive" and derived:
            self.texture_set = self.texture_set.with_map(kind, derived)
            self._note("look", f"{kind.facts.title} is derived with the default settings")
        else:
            neutral = Constant(value=kind.facts.neutral)
            self.texture_set = self.texture_set.with_map(kind, neutral)
            self._note("look", f"no {kind.facts.title.lower()} map: filled with its neutral value")
        return True

    def _note(self, weight: Weight, text: str) -> None:
        if (remark := Remark(weight, text)) not in self.remarks:
            self.remarks.append(remark)


def pack(
    preset: TargetPreset,
    texture_set: SetDefinition,
    sizes: Mapping[str, tuple[int, int]],
    *,
    longer_side: int | None = None,
    project: str = "",
) -> Packing:
    """Say which files a preset makes of a set, before anything is computed.

    longer_side overrides the preset's size rule. Raises MissingMapError, NamePatternError.
    """
    rule = preset.size.longer_side if preset.size.mode == "fixed" else None
    size = fit_size(*native_size(texture_set, sizes), rule if longer_side is None else longer_side)
    resolver = _Resolver(settled(texture_set, sizes))
    values = {"set": texture_set.name, "target": preset.id, "project": project,
              "size": str(max(size))}  # fmt: skip
    files: list[PackedFile] = []
    for spec in preset.files:
        present = {letter: resolver.has(slot) for letter, slot in spec.channels.items()}
        slots: dict[str, Slot] = {c: slot for c, slot in spec.channels.items() if present[c]}
        if any(not there for c, there in present.items() if c != "A"):
            title = next(s.map for s in spec.channels.values() if s.map).facts.title.lower()
            resolver.remarks.append(Remark("expected", f"no {title} map, so no {spec.suffix} file"))
            continue
        maps = dict.fromkeys(slot.map.value for slot in slots.values() if slot.map)
        stem = expand(
            spec.name,
            {**values, "suffix": spec.suffix, "depth": str(spec.bits), "map": "_".join(maps)},
        )
        name = check_name(stem + FORMATS[spec.format].ending)
        files.append(PackedFile(name, spec, slots, size))
    documents = tuple(check_name(expand(d.name, values) + "." + d.format) for d in preset.documents)
    check_distinct([file.name for file in files] + list(documents))
    return Packing(
        resolver.texture_set, preset, size, tuple(files), documents, tuple(resolver.remarks)
    )


def pack_codes(file: PackedFile, rasters: Mapping[MapKind, Raster], normal_y: NormalY) -> Picture:
    """The codes of one file, exactly as it must hold them: (H, W, C) uint8 or uint16."""
    width, height = file.size
    depth = np.uint8 if file.spec.bits == 8 else np.uint16
    codes = np.empty((height, width, len(file.slots)), dtype=depth)
    for i, (letter, slot) in enumerate(file.slots.items()):
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
    if slot.map is None:
        return np.asarray(round((slot.constant or 0.0) * top))
    raster = rasters[slot.map]
    values = raster.pixels[:, :, slot.map.facts.components.index(slot.component)]
    if raster.meaning is Meaning.NORMAL:
        codes = quantize(vectors_to_encoded(values), spec.bits)
        if slot.component == "y" and normal_y is NormalY.DOWN:
            codes = flip_green_codes(codes)
    elif raster.meaning is Meaning.COLOR and spec.encoding is Encoding.SRGB and letter != "A":
        codes = quantize(linear_to_srgb(np.clip(values, 0, 1)), spec.bits)
    else:
        codes = quantize(values, spec.bits)
    for _ in slot.changes:  # invert is the only change so far, exact on codes
        codes = np.asarray(top - codes, dtype=codes.dtype)
    return codes
