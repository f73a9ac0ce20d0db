"""Reading the previews' answer: a length, a JSON text, the codes."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi.testclient import TestClient


@dataclass(frozen=True)
class Seen:
    """One previewed map."""

    key: str
    codes: np.ndarray | None


def preview(client: TestClient, set_id: int, **body: object) -> dict[str, Seen]:
    """Ask for previews; every byte of the answer belongs to one map."""
    content, length, head = _answer(client, set_id, body)
    at, found = 4 + length, {}
    for kind, one in head["maps"].items():
        codes = None
        if one["bytes"]:
            flat = np.frombuffer(content, np.uint8, one["bytes"], at)
            codes = flat.reshape(one["height"], one["width"], one["channels"])
        found[kind] = Seen(one["key"], codes)
        at += one["bytes"]
    assert at == len(content)
    return found


def preview_head(client: TestClient, set_id: int, **body: object) -> dict[str, Any]:
    """Ask for previews; what stands before the codes."""
    return _answer(client, set_id, body)[2]


def _answer(
    client: TestClient, set_id: int, body: dict[str, object]
) -> tuple[bytes, int, dict[str, Any]]:
    answer = client.post(f"/api/v1/sets/{set_id}/previews", json=body)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "application/octet-stream"
    length = int.from_bytes(answer.content[:4], "little")
    return answer.content, length, json.loads(answer.content[4 : 4 + length])
