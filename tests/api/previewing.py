"""Reading the previews' answer: a length, a JSON text, the codes."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from fastapi.testclient import TestClient


@dataclass(frozen=True)
class Seen:
    """One previewed map."""

    key: str
    codes: np.ndarray | None


def preview(client: TestClient, set_id: int, **body: object) -> dict[str, Seen]:
    """Ask for previews; every byte of the answer belongs to one map."""
    answer = client.post(f"/api/sets/{set_id}/previews", json=body)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "application/octet-stream"
    length = int.from_bytes(answer.content[:4], "little")
    head = json.loads(answer.content[4 : 4 + length])
    at, found = 4 + length, {}
    for kind, one in head["maps"].items():
        codes = None
        if one["bytes"]:
            flat = np.frombuffer(answer.content, np.uint8, one["bytes"], at)
            codes = flat.reshape(one["height"], one["width"], one["channels"])
        found[kind] = Seen(one["key"], codes)
        at += one["bytes"]
    assert at == len(answer.content)
    return found
