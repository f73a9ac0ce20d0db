"""Export plan of a target: files, channel contents, and messages."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from copper_sieve.core.graph.geometry import Geometry
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.reduction import Reduction
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.finding import Weight
from copper_sieve.core.models.slot import Slot
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import FileSpec, TargetPreset

_BYTES_A_TEXEL = 96  # measured; see benchmarks/many_parts.py


@dataclass(frozen=True, slots=True)
class Remark:
    """A message. info: nothing to do; warning: check it; error: the output will be wrong.

    cause : identifies a warning in all targets, so that it can be dismissed for a set; else empty
    """

    weight: Weight
    text: str
    cause: str = ""


@dataclass(frozen=True, slots=True)
class PackedFile:
    """One file of a delivery: its full name and the content of each channel.

    tile : tile number, for sets with tiles
    pattern : name with <UDIM> in place of the tile number, as used in documents
    """

    name: str
    spec: FileSpec
    slots: dict[str, Slot]
    size: tuple[int, int]
    tile: int | None = None
    pattern: str | None = None


@dataclass(frozen=True, slots=True)
class ExportPlan:
    """A target applied to a set: files and messages.

    texture_set : with the maps to derive, and its surface after preparation
    geometry : of the preparation; the surface above is already prepared
    coverage : UV islands of the model, around which everything is padded
    size : of a set with tiles, the size of each tile
    """

    texture_set: SetDefinition
    geometry: Geometry
    preset: TargetPreset
    size: tuple[int, int]
    files: tuple[PackedFile, ...]
    documents: tuple[str, ...]
    remarks: tuple[Remark, ...] = ()
    coverage: Coverage | None = None

    @property
    def wanted(self) -> list[MapKind]:
        """Every map that some channel holds."""
        slots = [slot for file in self.files for slot in file.slots.values()]
        kinds = [kind for slot in slots for kind in slot.maps]
        kinds += [slot.times.map for slot in slots if slot.times]
        padding = self.preset.padding
        if padding.mode != "none" and padding.mask in self.texture_set.maps:
            kinds.append(padding.mask)
        smaller = any(file.spec.mips or file.spec.size.mode != "source" for file in self.files)
        if smaller:  # the roughness absorbs lost normal detail
            normals = [kind.widened_by for kind in kinds]
            kinds += [kind for kind in normals if kind in self.texture_set.maps]
        return list(dict.fromkeys(kinds))

    def with_depth(self, depth: float | None) -> ExportPlan:
        """Return the plan with the depth that was measured during the delivery, if it was."""
        if depth is None:
            return self
        surface = self.texture_set.surface.model_copy(update={"depth": depth})
        texture_set = self.texture_set.model_copy(update={"surface": surface})
        return replace(self, texture_set=texture_set)

    def of_first_tile(self) -> ExportPlan:
        """Return the plan with the files of the first tile only; itself without tiles."""
        first = self.files[0].tile if self.files else None
        return replace(self, files=tuple(file for file in self.files if file.tile == first))

    @property
    def largest(self) -> int:
        """Texels of the longer side of its largest file."""
        return max(max(file.size) for file in self.files)

    @property
    def computed(self) -> int:
        """Texels of the longer side at which its maps are made: of all tiles together."""
        sheet = self.geometry.sheet
        return (
            max(sheet.size(fit_size(*self.geometry.tile, self.largest))) if sheet else self.largest
        )

    @property
    def memory(self) -> int:
        """Estimated memory of the delivery in bytes.

        Maps are derived at the larger of the sizes of the set and the files.
        """
        sheet = self.geometry.sheet
        size = sheet.size(self.size) if sheet else self.size
        texels = max(math.prod(self.geometry.size), math.prod(size))
        return texels * _BYTES_A_TEXEL

    @property
    def reduction(self) -> Reduction:
        """How its maps are made smaller."""
        return "nearest" if self.preset.resampling == "nearest" else "appearance"
