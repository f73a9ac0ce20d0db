"""Fills the slots of a target with maps of a set."""

from __future__ import annotations

from dataclasses import dataclass, field

from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.export.export_plan import Remark
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import Weight
from copper_sieve.core.models.slot import Missing, Slot
from copper_sieve.core.models.texture_set import Constant, SetDefinition, derive_missing
from copper_sieve.core.operations import get_operation
from copper_sieve.core.targets.target_preset import FileSpec

_LONGEST_CAUSE = 80  # characters


@dataclass(slots=True)
class Resolver:
    """Maps for the slots of a target: present, derived or neutral, with remarks.

    texture_set : with the maps that were added
    dielectric_f0 : of the target
    """

    texture_set: SetDefinition
    dielectric_f0: float
    remarks: list[Remark] = field(default_factory=list)

    def omitted(self, spec: FileSpec) -> MapKind | None:
        """Return the missing map because of which a file isn't written, or None."""
        return next(
            (
                slot.map
                for letter, slot in spec.channels.items()
                if slot.map and slot.if_missing == "omit" and letter != "A"
                and slot.map not in self.texture_set.maps
            ),
            None,
        )  # fmt: skip

    def resolved(self, slot: Slot) -> Slot | None:
        """Return the slot with available maps; None if it has to be omitted."""
        if slot.segments:
            return self._segmented(slot)
        if slot.times:
            title = slot.times.map.facts.title.lower()
            if not self._has(slot.times.map, "derive", or_neutral=False):
                self.note("warning", f"no {title} map: nothing is multiplied")
                slot = slot.model_copy(update={"times": None})
        return slot if slot.map is None or self._has(slot.map, slot.if_missing) else None

    def _segmented(self, slot: Slot) -> Slot:
        """Return the segments with available maps; the last one gets its neutral value."""
        *parts, rest = slot.segments
        kept = [part for part in parts if part.map in self.texture_set.maps]
        self._has(rest.map, "derive" if slot.if_missing == "derive" else "neutral")
        return slot.model_copy(update={"segments": (*kept, rest)})

    def _has(self, kind: MapKind, if_missing: Missing, *, or_neutral: bool = True) -> bool:
        if kind in self.texture_set.maps:
            return True
        if if_missing == "stop":
            raise MissingMapError(
                f"{self.texture_set.name} has no {kind} map, which the target requires. "
                "Import or derive it, or set a constant"
            )
        if if_missing == "omit":
            return False
        derived = derive_missing(self.texture_set.maps, kind)
        if if_missing == "derive" and derived:
            usual = {one.name: one.default for one in get_operation(derived.operation).parameters}
            if usual.get("f0", self.dielectric_f0) != self.dielectric_f0:
                derived = derived.model_copy(update={"parameters": {"f0": self.dielectric_f0}})
            self.texture_set = self.texture_set.with_map(kind, derived)
            self.warn(f"derived:{kind}", f"{kind.facts.title} is derived with default settings")
        elif not or_neutral:
            return False
        else:
            neutral = Constant(value=kind.facts.neutral)
            self.texture_set = self.texture_set.with_map(kind, neutral)
            title = kind.facts.title.lower()
            self.warn(f"neutral:{kind}", f"no {title} map: filled with its neutral value")
        return True

    def note(self, weight: Weight, text: str, cause: str = "") -> None:
        """Add a message once."""
        if (remark := Remark(weight, text, cause)) not in self.remarks:
            self.remarks.append(remark)

    def warn(self, cause: str, text: str) -> None:
        """Add a warning, which can be dismissed by its cause."""
        self.note("warning", text, f"delivery.{cause}"[:_LONGEST_CAUSE])
