"""Former names of operations, parameters and choices in stored sets, recipes and scripts."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

_OPERATIONS = {
    "normal_from_shots": "normal_from_captures",
    "base_color_from_shots": "base_color_from_captures",
    "roughness_from_shots": "roughness_from_captures",
    "doubt_from_shots": "uncertainty_from_captures",
    "f0_from_shots": "f0_from_captures",
    "normal_from_detailed_model": "normal_from_high_poly",
    "height_from_detailed_model": "height_from_high_poly",
    "base_color_from_detailed_model": "base_color_from_high_poly",
}
# Operations that were registered once for each kind of map.
_ONE_PER_KIND = (
    (re.compile("bent_normal_from_parts"), "normal_from_parts"),
    (re.compile(r"(?!height_|normal_|value_)\w+_from_parts"), "value_from_parts"),
    (re.compile(r"(?!value_)\w+_from_range"), "value_from_range"),
    (re.compile(r"(?:detail_mask|mask_[1-4])_from_part_heights"), "mask_from_part_heights"),
    (re.compile(r"(?:detail_mask|mask_[1-4])(_from_model_\w+)"), r"mask\1"),
)
_PARAMETERS = {
    "about": "adjustment",
    "alone": "isolate_parts",
    "by": "pattern",
    "calm": "degrain",
    "crisp": "high_frequency",
    "curve_radius": "edge_radius",
    "detailed": "high_poly",
    "edge_fade": "flatten_borders",
    "even": "denoise",
    "evenness": "delight",
    "finest": "fine",
    "fit": "full_range",
    "forms": "very_coarse",
    "from_share": "start",
    "glints": "highlights",
    "ground": "ground_plane",
    "guessed": "fill_uncertain",
    "hollow": "feature_size",
    "hollows": "cavities",
    "least": "output_min",
    "level": "flatten",
    "light_counts": "use_lightness",
    "light_from": "light_direction",
    "light_is": "bright_areas",
    "light_scale": "lighting_scale",
    "limit": "plausible_range",
    "metres": "range_m",
    "middle": "median",
    "mix_by": "blend_mode",
    "mix_invert": "invert_second",
    "most": "output_max",
    "of": "select_by",
    "others": "exclude",
    "own_color": "picture_colors",
    "patch": "patch_size",
    "reach": "max_distance",
    "reading": "conversion",
    "shapes": "coarse",
    "shift": "offset",
    "soft": "low_frequency",
    "take": "mode",
    "texture": "medium",
    "thick": "white_at",
    "way": "direction",
    "white": "gray_point",
    "worn": "worn_areas",
}
_CHOICES = {
    ("blend_mode", "adding"): "add",
    ("blend_mode", "highest"): "max",
    ("blend_mode", "lowest"): "min",
    ("blend_mode", "adding slopes"): "add slopes",
    ("blend_mode", "turning"): "reorient",
    ("pattern", "evenly"): "even",
    ("pattern", "a map"): "map",
}
_INPUTS = {"mixed_in": "second", "drawn": "mask_source"}


def current_operation(name: str) -> str:
    """Return the current name of an operation."""
    for former, present in _ONE_PER_KIND:
        if found := former.fullmatch(name):
            return found.expand(present)
    return _OPERATIONS.get(name, name)


def current_parameters(given: Mapping[str, Any]) -> dict[str, Any]:
    """Return parameters with current names and choices."""
    named = {_PARAMETERS.get(name, name): value for name, value in given.items()}
    return {
        name: _CHOICES.get((name, value), value) if isinstance(value, str) else value
        for name, value in named.items()
    }


def current_inputs(given: Mapping[str, Any]) -> dict[str, Any]:
    """Return the inputs of an operation by their current names."""
    return {_INPUTS.get(name, name): value for name, value in given.items()}
