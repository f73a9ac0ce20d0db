"""Every address of the API with whatever its own description allows, and with what it does not.

No answer may be an error of the server, and none a status that the description does not name.
"""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis import GenerationMode
from schemathesis.core.result import Ok

from copper_sieve.api.application import make_application
from copper_sieve.services import delivery_worker
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.conftest import MakePhoto

_EACH = 7  # requests of each kind to one address
_LISTS = ("set_ids", "target_ids")
_UNSENT = {"content-length", "host", "transfer-encoding"}


def _known(client: TestClient, context: Context, project: str, set_id: int) -> dict[str, Any]:
    """Path parameters that lead to something that is there."""
    body = {"set_ids": [set_id], "target_ids": ["orm-y-down"]}
    delivery = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
    delivery_worker.run(context, delivery["id"])
    part = client.get(f"/api/v1/deliveries/{delivery['id']}/parts/0").json()
    source = next(
        one["definition"]["source"]
        for one in client.get(f"/api/v1/sets/{set_id}").json()["maps"]
        if "source" in one["definition"]
    )
    return {
        "project": project, "set_id": set_id, "delivery_id": delivery["id"], "n": 0,
        "name": part["manifest"]["files"][0]["name"], "letter": "R", "kind": "height",
        "sha256": source, "target_id": "orm-y-down", "y": "up", "channel": "R",
        "set_ids": [set_id], "target_ids": ["orm-y-down", "separate-png"],
    }  # fmt: skip


def test_no_request_gets_a_server_error_or_an_undocumented_status(
    client: TestClient, context: Context, project: str, take_in: TakeIn, make_photo: MakePhoto,
    tmp_path: Path,
) -> None:  # fmt: skip
    taken = take_in(make_photo(size=(32, 32), seed=91))
    known = _known(client, context, project, taken["set_id"])
    description = make_application().openapi()
    schema = schemathesis.openapi.from_dict(description)
    operations = [one.ok() for one in schema.get_all_operations() if isinstance(one, Ok)]
    assert len(operations) > 40
    asked = itertools.count()
    found: list[str] = []
    for operation in operations:
        _fuzz(client, operation, known, asked, found)
    assert found == []
    assert next(asked) > 9 * len(operations)


def _fuzz(
    client: TestClient, operation: Any, known: dict[str, Any],
    asked: itertools.count[int], found: list[str],
) -> None:  # fmt: skip
    documented = set(operation.definition.raw["responses"])

    def send(case: Any, n: int) -> None:
        address = case.operation.path
        for name, value in (case.path_parameters or {}).items():
            there = known.get(name, value) if n % 2 else value
            address = address.replace("{" + name + "}", _quoted(there))
        headers = {k: v for k, v in (case.headers or {}).items() if k.lower() not in _UNSENT}
        sent: dict[str, Any] = {"params": _flat(case.query), "headers": headers}
        if isinstance(case.body, bytes | str):
            sent["content"] = case.body
        elif case.body is not None and type(case.body).__name__ != "NotSet":
            sent["json"] = case.body
            if isinstance(case.body, dict) and n % 2:
                there = {name: known[name] for name in case.body if name in ("set_id", *_LISTS)}
                sent["json"] = {**case.body, **there}
        try:
            answer = client.request(case.method, address, **sent)
        except (ValueError, TypeError, UnicodeError):  # nothing that HTTP can carry
            return
        if answer.status_code >= 500 or str(answer.status_code) not in documented:
            found.append(
                f"{case.method} {address[:200]} {str(sent)[:600]}: {answer.status_code} "
                f"{answer.text[:200]}"
            )

    modes = [GenerationMode.POSITIVE]
    if operation.body:  # an address alone is any text anyway
        modes.append(GenerationMode.NEGATIVE)
    for mode in modes:

        @settings(max_examples=_EACH, deadline=None, database=None, derandomize=True,
                  phases=[Phase.generate], suppress_health_check=list(HealthCheck))  # fmt: skip
        @given(case=operation.as_strategy(generation_mode=mode))
        def some(case: Any) -> None:
            if len(found) < 20:
                send(case, next(asked))

        try:
            some()
        except Exception as error:
            if type(error).__module__.startswith("copper_sieve"):
                raise
            if "Unsatisfiable" not in type(error).__name__:
                raise


def _quoted(value: Any) -> str:
    from urllib.parse import quote

    return quote(str(value).encode("utf-8", "replace"), safe="") or "x"


def _flat(query: Any) -> list[tuple[str, str]]:
    pairs = []
    for name, value in (query or {}).items():
        for one in value if isinstance(value, list) else [value]:
            pairs.append((str(name), str(one)))
    return pairs
