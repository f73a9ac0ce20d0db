"""Deliveries and their parts, from the request to the verification."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, fields
from datetime import datetime
from pathlib import Path

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements
from copper_sieve.store.delivery_rows import (
    ActiveDelivery,
    Document,
    LatestPart,
    LightPart,
    NewPart,
    RequestedPart,
    StoredDelivery,
    StoredPart,
    VerifiedPart,
    WrittenPart,
)

_SQL = statements("deliveries")
_SMALL = 8  # parts: somebody waits for so few


def add_delivery(connection: Transaction, project_id: int, parts: Sequence[NewPart]) -> int:
    """Store a waiting delivery with its parts; return its id."""
    row = connection.execute(_SQL["insert_delivery"], {"project_id": project_id}).fetchone()
    assert row is not None
    rows = [
        {
            **{
                one.name: getattr(part, one.name)
                for one in fields(NewPart)
                if one.name != "disk_state"
            },
            "delivery_id": row["id"],
            "n": n,
            "small": len(parts) <= _SMALL,
            "definition": Json(part.definition),
            "preset": Json(part.preset),
            "folder": part.folder,
            "manifest": None if part.disk_state is None else Json(part.disk_state.manifest),
            "assay": None if part.disk_state is None else Json(part.disk_state.assay),
            "stamps": None if part.disk_state is None else Json(part.disk_state.stamps),
            "kept": 0 if part.disk_state is None else part.disk_state.kept,
        }
        for n, part in enumerate(parts)
    ]
    with connection.cursor() as cursor:
        cursor.executemany(_SQL["insert_part"], rows)
    return int(row["id"])


def under_way(connection: Transaction, project_id: int) -> list[ActiveDelivery]:
    """Return the deliveries of a project that wait or run, newest first, without their parts."""
    rows = connection.execute(_SQL["under_way"], {"project_id": project_id})
    return [
        ActiveDelivery(
            StoredDelivery.from_row(row, ()), float(row["recent"]), float(row["span"] or 0)
        )
        for row in rows
    ]


def get_delivery(connection: Transaction, delivery_id: int) -> StoredDelivery:
    """Return a delivery with its parts. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return _with_parts(connection, [row])[0]


def delivery_summary(
    connection: Transaction, delivery_id: int
) -> tuple[StoredDelivery, list[LightPart]]:
    """Return a delivery without its parts, and short forms of these. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return _light(connection, [row])[0]


def delivery_summaries(
    connection: Transaction, project_id: int, *, before: int | None, most: int
) -> list[tuple[StoredDelivery, list[LightPart]]]:
    """Return deliveries of a project without their parts, newest first, and the parts in short.

    before : only deliveries before this one; most : maximum number
    """
    parameters = {"project_id": project_id, "before": before, "most": most}
    rows = connection.execute(_SQL["list_deliveries"], parameters).fetchall()
    return _light(connection, rows)


def _light(
    connection: Transaction, rows: list[Row]
) -> list[tuple[StoredDelivery, list[LightPart]]]:
    parts: dict[int, list[LightPart]] = {row["id"]: [] for row in rows}
    for part in connection.execute(_SQL["light_parts"], {"ids": list(parts)}):
        parts[part["delivery_id"]].append(LightPart.from_row(part))
    return [(StoredDelivery.from_row(row, ()), parts[row["id"]]) for row in rows]


def parts_of(connection: Transaction, ids: Sequence[int]) -> list[StoredPart]:
    """Return all parts of deliveries with all fields."""
    return [
        StoredPart.from_row(row) for row in connection.execute(_SQL["list_parts"], {"ids": ids})
    ]


def get_part(connection: Transaction, delivery_id: int, n: int) -> StoredPart:
    """Return a part. Raises NotFoundError."""
    row = connection.execute(_SQL["get_part"], {"delivery_id": delivery_id, "n": n}).fetchone()
    if row is None:
        raise NotFoundError(f"delivery {delivery_id} has no part {n}")
    return StoredPart.from_row(row)


def verified_in_folder(
    connection: Transaction, folder: Path, manifest_name: str
) -> VerifiedPart | None:
    """Return the verification result of the latest delivery into a folder."""
    parameters = {"folder": folder, "manifest_name": manifest_name}
    row = connection.execute(_SQL["verified_in_folder"], parameters).fetchone()
    return None if row is None else VerifiedPart.from_row(row)


def verified_in_folders(
    connection: Transaction, folders: Collection[Path]
) -> dict[tuple[Path, str], VerifiedPart]:
    """Return the verification results of the latest deliveries into folders.

    The keys are folder and name of the manifest.
    """
    parameters = {"folders": list(folders)}
    rows = connection.execute(_SQL["verified_in_folders"], parameters)
    return {(row["folder"], row["manifest_name"]): VerifiedPart.from_row(row) for row in rows}


def _with_parts(connection: Transaction, rows: list[Row]) -> list[StoredDelivery]:
    parts: dict[int, list[StoredPart]] = {}
    for part in parts_of(connection, [row["id"] for row in rows]):
        parts.setdefault(part.delivery_id, []).append(part)
    return [StoredDelivery.from_row(row, parts.get(row["id"], ())) for row in rows]


def latest_parts(
    connection: Transaction, project_id: int, ids: Collection[int] | None = None
) -> list[LatestPart]:
    """Return the latest complete part of each set and target, of `ids` or of all sets."""
    parameters = {"project_id": project_id, "ids": None if ids is None else list(ids)}
    return [
        LatestPart.from_row(row) for row in connection.execute(_SQL["latest_parts"], parameters)
    ]


def part_preset(connection: Transaction, part: LatestPart) -> Document:
    """Return the preset of a part as JSON."""
    parameters = {"delivery_id": part.delivery_id, "n": part.n}
    row = connection.execute(_SQL["part_preset"], parameters).fetchone()
    return dict(row["preset"]) if row else {}


def find_by_idempotency_key(
    connection: Transaction, set_id: int | None, target_id: str, delivery_id: int | None = None
) -> int:
    """Return how often a set was requested for a target before that delivery; None: in total."""
    row = connection.execute(
        _SQL["find_by_idempotency_key"],
        {"set_id": set_id, "target_id": target_id, "before": delivery_id},
    ).fetchone()
    return int(row["n"]) if row else 0


def project_of(connection: Transaction, delivery_id: int) -> int:
    """Return the project id of a delivery. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return int(row["project_id"])


def requested_parts(connection: Transaction, ids: Collection[int]) -> dict[tuple[int, str], int]:
    """Return how often each set was requested for each target."""
    rows = connection.execute(_SQL["requested_parts"], {"ids": list(ids)})
    return {(row["set_id"], row["target_id"]): row["n"] for row in rows}


def latest_requested(connection: Transaction, project_id: int) -> list[RequestedPart]:
    """Return the latest delivery of each set and target of a project that wasn't cancelled."""
    rows = connection.execute(_SQL["latest_requested"], {"project_id": project_id})
    return [RequestedPart(**row) for row in rows]


def latest_whole(
    connection: Transaction, project_id: int, ids: Collection[int]
) -> list[StoredPart]:
    """Return the latest complete part of each of these sets for each target."""
    rows = connection.execute(_SQL["latest_whole"], {"project_id": project_id, "ids": list(ids)})
    return [StoredPart.from_row(row) for row in rows]


def written_to(connection: Transaction, folders: Collection[Path]) -> list[WrittenPart]:
    """Return every part that was delivered into one of these folders, newest first."""
    rows = connection.execute(_SQL["written_to"], {"folders": list(folders)})
    return [WrittenPart.from_row(row) for row in rows]


@dataclass(frozen=True, slots=True)
class DonePart:
    """Folder and time of a delivered part."""

    folder: Path
    manifest_name: str
    finished_at: datetime


def finished_since(connection: Transaction, since: datetime | None) -> list[DonePart]:
    """Return the folders of parts that were delivered since a time, or of all."""
    rows = connection.execute(_SQL["finished_since"], {"since": since})
    return [DonePart(**row) for row in rows]
