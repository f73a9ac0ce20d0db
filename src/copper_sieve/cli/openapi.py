"""./sieve openapi: print the OpenAPI document, from which the front end's types are generated."""

from __future__ import annotations

import argparse
import json

from copper_sieve.api.application import make_application


def openapi_text() -> str:
    """Return the OpenAPI document in the format stored with the front end."""
    return json.dumps(make_application().openapi(), indent=1, ensure_ascii=False) + "\n"


def run(arguments: argparse.Namespace) -> int:
    """Print the document."""
    del arguments
    print(openapi_text(), end="")
    return 0
