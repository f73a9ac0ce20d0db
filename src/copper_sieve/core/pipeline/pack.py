"""Pack: a preset and a set become files of channels, first in words, then in codes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from copper_sieve.core.codecs import FORMATS
from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.operations import get_operation
from copper_sieve.core.pipeline.documents import describe, left_out
from copper_sieve.core.pipeline.packed import PackedFile, Packing, Remark, Weight
from copper_sieve.core.pipeline.preparing import native_size, settled
from copper_sieve.core.presets.naming import check_distinct, check_name, expand, styled
from copper_sieve.core.presets.target_preset import (
    DocumentSpec,
    FileSpec,
    Missing,
    Slot,
    TargetPreset,
)
from copper_sieve.core.presets.texture_set import Constant, SetDefinition, derive_missing


@dataclass(slots=True)
class _Resolver:
    texture_set: SetDefinition
    dielectric_f0: float
    remarks: list[Remark] = field(default_factory=list)

    def resolved(self, slot: Slot) -> Slot | None:
        """The slot with its maps made sure of; None where it is to be left out."""
        if slot.segments:
            return self._segmented(slot)
        if slot.times:
            title = slot.times.map.facts.title.lower()
            if not self._has(slot.times.map, "derive", or_neutral=False):
                self.note("look", f"no {title} map: nothing is multiplied by it")
                slot = slot.model_copy(update={"times": None})
        return slot if slot.map is None or self._has(slot.map, slot.if_missing) else None

    def _segmented(self, slot: Slot) -> Slot:
        """Without the segments whose map is not there; the last one holds its neutral value."""
        *parts, rest = slot.segments
        kept = [part for part in parts if part.map in self.texture_set.maps]
        self._has(rest.map, "derive" if slot.if_missing == "derive" else "neutral")
        return slot.model_copy(update={"segments": (*kept, rest)})

    def _has(self, kind: MapKind, if_missing: Missing, *, or_neutral: bool = True) -> bool:
        if kind in self.texture_set.maps:
            return True
        if if_missing == "stop":
            raise MissingMapError(
                f"{self.texture_set.name} has no {kind} map, which the target demands: "
                "take one in, derive it, or set a value"
            )
        if if_missing == "omit":
            return False
        derived = derive_missing(self.texture_set.maps, kind)
        if if_missing == "derive" and derived:
            usual = {one.name: one.default for one in get_operation(derived.operation).parameters}
            if usual.get("f0", self.dielectric_f0) != self.dielectric_f0:
                derived = derived.model_copy(update={"parameters": {"f0": self.dielectric_f0}})
            self.texture_set = self.texture_set.with_map(kind, derived)
            self.note("look", f"{kind.facts.title} is derived with the default settings")
        elif not or_neutral:
            return False
        else:
            neutral = Constant(value=kind.facts.neutral)
            self.texture_set = self.texture_set.with_map(kind, neutral)
            self.note("look", f"no {kind.facts.title.lower()} map: filled with its neutral value")
        return True

    def note(self, weight: Weight, text: str) -> None:
        """Remark something, once."""
        if (remark := Remark(weight, text)) not in self.remarks:
            self.remarks.append(remark)


def pack(
    preset: TargetPreset,
    texture_set: SetDefinition,
    sizes: Mapping[str, tuple[int, int]],
    *,
    longer_side: int | None = None,
    project: str = "",
    delivery: int = 1,
) -> Packing:
    """Say which files a preset makes of a set, before anything is computed.

    longer_side overrides the preset's size rule; delivery is the number that {version} shows.
    Raises MissingMapError, NamePatternError.
    """
    native = native_size(texture_set, sizes)
    rule = preset.size.side(max(native))
    size = fit_size(*native, rule if longer_side is None else longer_side)
    resolver = _Resolver(settled(texture_set, sizes), preset.dielectric_f0)
    if preset.size.mode == "power_of_two" and (odd := [s for s in size if s & (s - 1)]):
        resolver.note("look", f"{odd[0]} texels are no power of two: the set is not square")
    values = {"set": texture_set.name, "target": preset.id, "project": project,
              "version": f"{delivery:03d}", "tile": "1001"}  # fmt: skip
    files: list[PackedFile] = []
    for spec in preset.files:
        present = {letter: resolver.resolved(slot) for letter, slot in spec.channels.items()}
        slots: dict[str, Slot] = {c: slot for c, slot in present.items() if slot}
        if any(slot is None for c, slot in present.items() if c != "A"):
            missing = next(c for c, slot in present.items() if slot is None and c != "A")
            title = spec.channels[missing].maps[0].facts.title.lower()
            resolver.remarks.append(Remark("expected", f"no {title} map, so no {spec.suffix} file"))
            continue
        file_size = fit_size(*size, spec.size.side(max(size)))
        maps = dict.fromkeys(kind.value for slot in slots.values() for kind in slot.maps)
        stem = expand(
            spec.name,
            {**values, "suffix": spec.suffix, "depth": str(spec.bits), "map": "_".join(maps),
             "size": str(max(file_size))},
        )  # fmt: skip
        stem = styled(stem, preset.names.case, preset.names.separator)
        name = check_name(stem + FORMATS[spec.format].ending)
        files.append(PackedFile(name, spec, slots, file_size))
        _remark_on(resolver, spec, slots)
    if not files:
        raise MissingMapError(
            f"{texture_set.name} has none of the maps that {preset.title} writes: take one in or "
            "derive it"
        )
    values["size"] = str(max(size))
    documents = tuple(_document_name(document, preset, values) for document in preset.documents)
    check_distinct([file.name for file in files] + list(documents))
    material = describe(resolver.texture_set, preset, size, files)
    for name, document in zip(documents, preset.documents, strict=True):
        if kinds := left_out(material, document, files):
            titles = " and ".join(kind.facts.title.lower() for kind in kinds)
            resolver.note("look", f"{name} does not take the {titles}: not where it reads one")
    return Packing(
        resolver.texture_set, preset, size, tuple(files), documents, tuple(resolver.remarks)
    )


def _remark_on(resolver: _Resolver, spec: FileSpec, slots: dict[str, Slot]) -> None:
    """What is allowed and seldom meant."""
    title = spec.suffix or spec.name
    if list(slots) == ["R", "G", "B"] and len({slot.words() for slot in slots.values()}) == 1:
        resolver.note("look", f"R, G and B of {title} hold the same: one channel would do")
    normal = any(slot.map and slot.map.facts.meaning is Meaning.NORMAL for slot in slots.values())
    if normal and FORMATS[spec.format].loses(spec.writing.compression) and not spec.block:
        resolver.note("look", f"{title}: a lossy format bends normals; choose a lossless one")
    if spec.block in ("bc1", "bc3") and normal:
        resolver.note("look", f"{title}: {spec.block} bends normals; bc5 keeps x and y, bc7 all")


def _document_name(document: DocumentSpec, preset: TargetPreset, values: Mapping[str, str]) -> str:
    stem = styled(expand(document.name, values), preset.names.case, preset.names.separator)
    return check_name(stem + document.ending)
