"""./sieve convert: the maps of one convention into those of another, as files."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from copper_sieve.core.codecs import CODECS
from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.sources import examine, imported_maps
from copper_sieve.core.models.naming import check_name, slug
from copper_sieve.core.models.texture_set import Imported
from copper_sieve.core.recognition.names import read_name
from copper_sieve.core.tools.convert import RULES, Rule, convert, get_rule
from copper_sieve.core.tools.repack import write_proven
from copper_sieve.settings import load_settings


def run(arguments: argparse.Namespace) -> int:
    """List the rules, or carry one out."""
    if arguments.list:
        _list(as_json=arguments.json)
        return 0
    if not arguments.files or not arguments.rule or not arguments.out:
        raise ParameterError("convert needs files, --rule and --out; see sieve convert --list")
    rule = get_rule(arguments.rule)
    limits = load_settings().limits
    pictures: dict[MapKind, Picture] = {}
    imported: dict[MapKind, Imported] = {}
    taken: dict[MapKind, Path] = {}
    stem = ""
    for path in arguments.files:
        kind, named = _role(path, rule)
        if kind in taken:
            raise PlanError(f"{path.name}: {taken[kind].name} is the {kind} map already; give one")
        facts, pictures[kind] = examine(path, limits)
        imported[kind] = imported_maps(facts, kind)[kind]
        taken[kind] = path
        stem = stem or named
    given = dict(item.partition("=")[::2] for item in arguments.param)
    made = convert(rule, pictures, imported, given)
    name = slug(arguments.set_name or stem)
    format_ = arguments.format or ("tiff" if rule.floating else "png")
    ending = CODECS[format_].ending
    paths = {kind: arguments.out / check_name(f"{name}_{kind}{ending}") for kind in made}
    for kind, path in paths.items():
        if any(path.exists() and path.samefile(one) for one in taken.values()):
            raise ParameterError(f"{path} would replace the file that it is made of ({kind}): "
                                 "give another folder to --out")  # fmt: skip
    arguments.out.mkdir(parents=True, exist_ok=True)
    for kind, picture in made.items():
        write_proven(paths[kind], picture, format_)
    if arguments.json:
        print(json.dumps(
            {
                "rule": rule.name,
                "set": name,
                "from": {kind: str(path) for kind, path in taken.items()},
                "files": [
                    {"map": kind, "path": str(paths[kind]), "encoding": picture.encoding,
                     "bits": 8 * picture.codes.dtype.itemsize, "proven": True}
                    for kind, picture in made.items()
                ],
            },
            indent=2,
        ))  # fmt: skip
    else:
        for kind, path in paths.items():
            print(f"{kind}: {path}")
    return 0


def _role(path: Path, rule: Rule) -> tuple[MapKind, str]:
    """Which of the rule's maps a file is, by its name; the only one where a rule takes one."""
    found = read_name(path.stem)
    kind = found.kind
    if kind is MapKind.BASE_COLOR and MapKind.DIFFUSE in rule.takes:
        kind = MapKind.DIFFUSE  # a specular set calls its color so, too
    if kind is MapKind.DIFFUSE and MapKind.BASE_COLOR in rule.takes:
        kind = MapKind.BASE_COLOR
    if kind is None and len(rule.takes) == 1:
        return rule.takes[0], path.stem
    if kind not in rule.takes:
        said = f"its name says {kind}" if kind else "its name does not say which map it is"
        raise PlanError(
            f"{path.name}: {said}; {rule.name} takes {', '.join(rule.takes)}, "
            "so let it end in one of these"
        )
    return kind, found.stem


def _list(*, as_json: bool) -> None:
    if as_json:
        print(json.dumps(
            [
                {
                    "rule": rule.name,
                    "title": rule.title,
                    "takes": rule.takes,
                    "gives": rule.gives,
                    "exact_on_codes": bool(rule.on_codes or rule.on_picture),
                    "parameters": {
                        name: {"default": one.default, "allowed": one.allowed(),
                               "meaning": one.meaning}
                        for name, one in rule.parameters.items()
                    },
                }
                for rule in RULES.values()
            ],
            indent=2,
        ))  # fmt: skip
        return
    for rule in RULES.values():
        print(f"{rule.name}: {', '.join(rule.takes)} -> {', '.join(rule.gives)}; {rule.title}")
