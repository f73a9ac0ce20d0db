"""./sieve attach: embed delivered textures in a model."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from copper_sieve.cli import options
from copper_sieve.core.errors import ParameterError
from copper_sieve.library.attaching import attach


def run(arguments: argparse.Namespace) -> int:
    """Write the model with the textures of each delivery in its material."""
    named = [word.partition("=") for word in arguments.deliveries]
    deliveries: dict[str, Path] | list[Path] = [Path(word) for word in arguments.deliveries]
    if any(mark and not Path(f"{name}={folder}").exists() for name, mark, folder in named):
        if not all(mark for _, mark, _ in named):
            raise ParameterError("several deliveries: assign each to a material with NAME=DIR")
        deliveries = {name: Path(folder) for name, _, folder in named}
    remarks = attach(
        arguments.model, deliveries, arguments.out, uv_set=arguments.uv, tangents=arguments.tangents
    )
    options.print_remarks(remarks)
    if arguments.json:
        print(json.dumps({"out": str(arguments.out), "remarks": list(remarks)}, indent=2))
    else:
        print(arguments.out)
    return 0
