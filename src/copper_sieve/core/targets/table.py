"""The documentation page of the built-in targets, generated from their definitions."""

from __future__ import annotations

from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.core.targets.target_preset import FileSpec, TargetPreset

_HEAD = """# Files of the built-in targets

Generated from the presets with `./sieve targets --table`. `{set}` is the name of the set. A file in
brackets is skipped if the set has no such map; so is alpha with opacity.
"""


def targets_table() -> str:
    """Return a Markdown page with a section per target and a row per file."""
    return "\n".join([_HEAD, *(_section(one) for one in builtin_targets().values())])


def _section(preset: TargetPreset) -> str:
    workflow = preset.workflow.replace("_", "/")
    lines = [
        f"## `{preset.id}`: {preset.title}",
        "",
        preset.note,
        "",
        f"Workflow {workflow}, normals {NormalY(preset.normal_y).label}.",
        "",
        "| file | format | channels |",
        "| --- | --- | --- |",
        *(_row(file) for file in preset.files),
        *(f"| {d.name}{d.ending} | document | the textures above |" for d in preset.documents),
        "",
    ]
    return "\n".join(lines)


def _row(file: FileSpec) -> str:
    maps = "_".join(dict.fromkeys(k.value for s in file.channels.values() for k in s.maps))
    name = file.name.replace("{suffix}", file.suffix).replace("{map}", maps)
    optional = any(s.if_missing == "omit" for c, s in file.channels.items() if c != "A")
    holds = " · ".join(f"{letter} {slot.words()}" for letter, slot in file.channels.items())
    facts = [f"{file.format} {file.bits}", file.block or file.compression or ""]
    facts += ["tiles"] * file.tiles + ["mips"] * file.mips + ["dither"] * file.dither
    facts.append("sRGB" if file.encoding is Encoding.SRGB else "data")
    kind = ", ".join(fact for fact in facts if fact)
    shown = f"[{name}]" if optional else name
    return f"| {shown} | {kind} | {holds} |"
