"""./sieve sets and ./sieve deliver: list and deliver the sets of a server."""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
import urllib.error
import urllib.request
from typing import Any

from copper_sieve.core.errors import SetupError, UnknownTargetError

_LOOK_EVERY = 0.5  # seconds
_PATIENCE = 60.0  # seconds to wait for a response


def run(arguments: argparse.Namespace) -> int:
    """List the sets of a project, or deliver some of them."""
    server = Server(arguments.server, arguments.token)
    if arguments.command == "sets":
        return _sets(server, arguments)
    return _deliver(server, arguments)


class Server:
    """A running server, local or remote."""

    def __init__(self, address: str | None, token: str | None) -> None:
        given = address or os.environ.get("SIEVE_SERVER") or "http://127.0.0.1:8420"
        self.address = given.rstrip("/")
        self._token = token or os.environ.get("SIEVE_TOKEN", "")

    def call(self, path: str, body: dict[str, Any] | None = None) -> Any:
        """Return the response of an API call. Raises SetupError with the server's message."""
        headers = {"Content-Type": "application/json"}
        if self._token:
            headers["Authorization"] = f"Bearer {self._token}"
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, headers)
        try:
            with urllib.request.urlopen(request, timeout=_PATIENCE) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            raise SetupError(f"{self.address}: {_said(error)}") from error
        except (OSError, ValueError) as error:
            reason = getattr(error, "reason", error)
            raise SetupError(
                f"{self.address} is unreachable ({reason}). Start the server, or give its "
                "URL with --server"
            ) from error


def _said(error: urllib.error.HTTPError) -> str:
    if error.code == 401:
        return "the server requires a token. Give --token or set SIEVE_TOKEN"
    try:
        return str(json.load(error)["detail"])
    except (ValueError, KeyError, TypeError):
        return f"the server returned status {error.code}"


def _sets(server: Server, arguments: argparse.Namespace) -> int:
    rows = server.call(f"/api/v1/projects/{arguments.project}/tray")["rows"]
    words = (arguments.find or "").lower().split()
    rows = [row for row in rows if all(word in _text(row) for word in words)]
    if arguments.json:
        print(json.dumps(rows, indent=2))
        return 0
    for row in rows:
        states = ", ".join(f"{target} {state}" for target, state in _states(row).items())
        print(f"{row['name']}{f': {states}' if states else ''}")
    return 0


def _text(row: dict[str, Any]) -> str:
    return " ".join([row["name"], row["notes"], *row["tags"]]).lower()


def _states(row: dict[str, Any]) -> dict[str, str]:
    return dict(row["delivered"])


def _deliver(server: Server, arguments: argparse.Namespace) -> int:
    project = f"/api/v1/projects/{arguments.project}"
    cells = _cells(server, project, arguments)
    if not cells:
        print("[]" if arguments.json else "nothing to deliver: everything is up to date")
        return 0
    body = {
        "cells": cells,
        "delete_obsolete": arguments.delete_obsolete,
        "rewrite": arguments.rewrite,
    }
    delivery = server.call(f"{project}/deliveries", body)
    if not arguments.json:
        counts = delivery["counts"]
        print(f"delivery {delivery['id']}: {counts['parts']} parts, {counts['done']} unchanged")
    if arguments.no_wait:
        if arguments.json:
            print(json.dumps(delivery, indent=2))
        return 0
    done = _finished(server, delivery, quiet=arguments.json)
    if arguments.json:
        print(json.dumps(done, indent=2))
    else:
        written = sum(part["written"] for part in done["parts"])
        kept = sum(part["kept"] for part in done["parts"])
        print(f"{done['state']}: {written} files written, {kept} unchanged")
        for part in done["parts"]:
            if part["error"]:
                place = f"{part['set_name']} for {part['target_id']}"
                sys.stderr.write(f"sieve: {place}: {part['error']}\n")
    return 0 if done["state"] == "done" else 1


def _cells(server: Server, project: str, arguments: argparse.Namespace) -> list[dict[str, Any]]:
    """Return the selected cells: stale ones, or every named set for every named target."""
    rows = server.call(f"{project}/tray")["rows"]
    names = {row["name"]: row["id"] for row in rows}
    if unknown := [one for one in arguments.set if one not in names]:
        raise UnknownTargetError(f"project {arguments.project} has no set {unknown[0]}")
    ids = [names[one] for one in arguments.set] or list(names.values())
    if not arguments.stale:
        if not arguments.target:
            raise UnknownTargetError("give --target, or --stale to deliver all stale sets")
        return [{"set_id": one, "target_id": target} for one in ids for target in arguments.target]
    board = server.call(f"{project}/board")
    return [
        {"set_id": cell["set_id"], "target_id": cell["target_id"]}
        for cell in board
        if cell["state"] in ("stale", "failed")
        and cell["set_id"] in ids
        and (not arguments.target or cell["target_id"] in arguments.target)
    ]


def _finished(server: Server, delivery: dict[str, Any], *, quiet: bool) -> dict[str, Any]:
    shows = not quiet and sys.stderr.isatty()
    while delivery["state"] in ("queued", "running"):
        time.sleep(_LOOK_EVERY)
        delivery = server.call(f"/api/v1/deliveries/{delivery['id']}")
        if shows:
            sys.stderr.write(f"\r{delivery['progress']:.0%} {delivery['step'][:60]:60}")
    if shows:
        sys.stderr.write("\r" + " " * 70 + "\r")
    return delivery
