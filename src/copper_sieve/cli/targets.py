"""./sieve targets: list the built-in targets."""

from __future__ import annotations

import argparse
import json

from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.core.targets.table import targets_table


def run(arguments: argparse.Namespace) -> int:
    """Print the targets as a list, as JSON, or as the page in docs."""
    if arguments.table:
        print(targets_table(), end="")
        return 0
    presets = builtin_targets().values()
    if arguments.json:
        print(json.dumps({"targets": [p.model_dump(mode="json") for p in presets]}, indent=2))
    else:
        for preset in presets:
            print(f"{preset.id:24} {preset.title}: {preset.note}")
    return 0
