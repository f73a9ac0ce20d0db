"""./sieve token: print or rotate the access token of the local server."""

from __future__ import annotations

import argparse

from copper_sieve.api.access_token import AccessToken, rotate
from copper_sieve.core.errors import SetupError
from copper_sieve.settings import load_settings


def run(arguments: argparse.Namespace) -> int:
    """Print the token. Raises SetupError."""
    settings = load_settings()
    if not arguments.rotate:
        token = (
            AccessToken.chosen(settings.token)
            if settings.token
            else AccessToken.of_home(settings.home)
        )
        print(token.current())
        return 0
    if settings.token:
        raise SetupError(
            "the token is set with SIEVE_TOKEN, so it can't be rotated here. Set another "
            "SIEVE_TOKEN and restart the server: that ends all sessions"
        )
    print(rotate(settings.home))
    return 0
