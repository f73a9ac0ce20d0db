"""Checklist findings: a problem, its measurement, and its fix."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import MapDefinition, SetDefinition, SurfaceSpec

Weight = Literal["info", "warning", "error"]
Rule = Literal[
    "transfer_curve", "channel_order", "swapped_channels", "green_direction", "mixed_green",
    "inverted_relief", "vector_length",
    "looks_like_glossiness", "looks_like_roughness", "implausible_color", "dark_metal",
    "clipped_roughness", "not_tileable", "sizes_differ",
    "uv_missing", "uv_overlaps", "uv_outside", "uv_mirrored", "uv_gaps", "uv_uneven_density",
    "uv_degenerate", "uv_hard_edges",
]  # fmt: skip

FORMER_RULES: dict[str, Rule] = {
    "wrong_curve": "transfer_curve", "swizzled": "channel_order", "exchanged": "swapped_channels",
    "green_turned": "green_direction", "mixed": "mixed_green", "inside_out": "inverted_relief",
    "off_length": "vector_length", "not_a_tile": "not_tileable", "uv_no_uvs": "uv_missing",
    "uv_thin_gaps": "uv_gaps", "uv_hard_edges_joined": "uv_hard_edges",
}  # fmt: skip

TITLES: dict[Rule, str] = {
    "transfer_curve": "wrong transfer curve",
    "channel_order": "wrong channel order",
    "swapped_channels": "red and green swapped",
    "green_direction": "wrong green direction",
    "mixed_green": "mixed green directions",
    "inverted_relief": "inverted relief",
    "vector_length": "vectors not of unit length",
    "looks_like_glossiness": "looks like glossiness",
    "looks_like_roughness": "looks like roughness",
    "implausible_color": "implausible albedo",
    "dark_metal": "dark metal",
    "clipped_roughness": "clipped roughness",
    "not_tileable": "not tileable",
    "sizes_differ": "different sizes",
    "uv_missing": "model without UVs",
    "uv_overlaps": "overlapping UVs",
    "uv_outside": "UVs outside the 0–1 range",
    "uv_mirrored": "mirrored islands",
    "uv_gaps": "UV islands too close",
    "uv_uneven_density": "uneven texel density",
    "uv_degenerate": "zero-area triangles",
    "uv_hard_edges": "hard edges without UV seam",
}


def present_key(key: str) -> str:
    """Return the current form of a stored finding key."""
    rule, mark, kind = key.partition(":")
    return f"{FORMER_RULES.get(rule, rule)}{mark}{MapKind.present_name(kind)}"


class Fix(Model):
    """A change of the set that fixes a finding; other fields stay unchanged.

    title : description
    maps : new map definitions; None removes a map
    """

    title: str
    maps: dict[MapKind, MapDefinition | None] = Field(default_factory=dict)
    surface: SurfaceSpec | None = None
    prepare: Preparation | None = None

    def applied(self, texture_set: SetDefinition) -> SetDefinition:
        """Apply the fix to a set; previous map definitions are kept as alternatives."""
        shelf = dict(texture_set.shelf)
        maps = dict(texture_set.maps)
        for kind, way in self.maps.items():
            before = maps.get(kind)
            if way is None:
                maps.pop(kind, None)
            else:
                maps[kind] = way
            if before is not None and before != way:
                others = (one for one in shelf.get(kind, ()) if one not in (way, before))
                shelf[kind] = (before, *others)
        update = {
            "maps": maps,
            "shelf": shelf,
            "surface": self.surface or texture_set.surface,
            "prepare": self.prepare or texture_set.prepare,
        }
        return texture_set.model_copy(update=update)


class Finding(Model):
    """A detected problem of a set.

    text : description
    evidence : measurement; uncertain conclusions are labelled as guesses
    """

    rule: Rule
    kind: MapKind
    weight: Weight
    text: str
    evidence: str
    fix: Fix | None = None

    @property
    def key(self) -> str:
        """Return the key by which the finding of a set is ignored."""
        return f"{self.rule}:{self.kind}"

    @property
    def title(self) -> str:
        """Return the title of its rule."""
        return TITLES[self.rule]
