"""./sieve convert: convert maps between conventions."""

from __future__ import annotations

import argparse
import json

from copper_sieve.cli.progress import progress
from copper_sieve.core.codecs import CODECS
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.models.naming import check_name, slug
from copper_sieve.core.tools.convert import RULES
from copper_sieve.core.tools.repack import write_verified
from copper_sieve.library.pictures import convert
from copper_sieve.settings import load_settings


def run(arguments: argparse.Namespace) -> int:
    """List the rules, or apply one."""
    if arguments.list:
        _list(as_json=arguments.json)
        return 0
    if not arguments.files or not arguments.rule or not arguments.out:
        raise ParameterError("convert requires files, --rule and --out; see sieve convert --list")
    with progress(f"converting with {arguments.rule}", quiet=arguments.json):
        found = convert(
            arguments.rule, *arguments.files, limits=load_settings().limits,
            parameters=dict(item.partition("=")[::2] for item in arguments.param),
        )  # fmt: skip
    rule, made, taken = found.rule, found.pictures, found.taken
    name = slug(arguments.set_name or found.set_name)
    format_ = arguments.format or ("tiff" if rule.floating else "png")
    ending = CODECS[format_].ending
    paths = {kind: arguments.out / check_name(f"{name}_{kind}{ending}") for kind in made}
    for kind, path in paths.items():
        if any(path.exists() and path.samefile(one) for one in taken.values()):
            raise ParameterError(f"{path} would overwrite its own source file "
                                 f"({kind}). Choose another folder with --out")  # fmt: skip
    arguments.out.mkdir(parents=True, exist_ok=True)
    for kind, picture in made.items():
        write_verified(paths[kind], picture, format_)
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
