"""Earlier deliveries: compare two, or repeat one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from copper_sieve.core.errors import DeliveryError, SieveError
from copper_sieve.core.export.reuse import replaced_files
from copper_sieve.core.image.encoding import dequantize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.manifest import FileEntry, Manifest
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.channel_view import (
    AMPLIFIED,
    Planes,
    channel_png,
    computed,
    kept_planes,
)
from copper_sieve.services.context import Context
from copper_sieve.services.deliveries import get
from copper_sieve.services.delivery_worker import packing_of
from copper_sieve.services.tray.lit import lit_maps_of
from copper_sieve.store import deliveries
from copper_sieve.store.delivery_rows import NewPart, StoredDelivery, StoredPart
from copper_sieve.store.sources import source_sizes

Kind = Literal["same", "changed", "added", "gone"]
_LIT_SIDE = 512


@dataclass(frozen=True, slots=True)
class ComparedFile:
    """A file of two deliveries.

    channels : letters with different codes; empty if only bytes, size or kind differ
    words : other differences
    """

    name: str
    kind: Kind
    channels: tuple[str, ...] = ()
    words: str = ""


@dataclass(frozen=True, slots=True)
class ComparedPart:
    """A set and target in an earlier and a later delivery; `n` is None if one doesn't have it.

    maps : titles of the maps that differ
    """

    set_name: str
    target_id: str
    n: int | None
    other_n: int | None
    maps: tuple[str, ...]
    files: tuple[ComparedFile, ...]


def compare(context: Context, delivery_id: int, other_id: int) -> list[ComparedPart]:
    """Compare a later delivery (`other_id`) with an earlier one; only differences are returned.

    Uses the manifests; nothing is computed. Raises NotFoundError.
    """
    parts, others = (_by_cell(get(context, one)) for one in (delivery_id, other_id))
    found = []
    for key in dict.fromkeys([*parts, *others]):
        one = _compared(parts.get(key), others.get(key))
        if any(file.kind != "same" for file in one.files) or one.maps:
            found.append(one)
    return found


def _by_cell(delivery: StoredDelivery) -> dict[tuple[object, str], StoredPart]:
    """Return the delivered parts by set and target; a renamed set is the same."""
    return {
        (part.set_id or part.set_name, part.target_id): part
        for part in delivery.parts
        if part.manifest
    }


def _compared(part: StoredPart | None, other: StoredPart | None) -> ComparedPart:
    shown = other or part
    assert shown is not None
    before = Manifest.model_validate(part.manifest) if part else None
    after = Manifest.model_validate(other.manifest) if other else None
    old = {one.name: one for one in before.files} if before else {}
    new = {one.name: one for one in after.files} if after else {}
    maps = []
    if before and after:
        for name in dict.fromkeys([*before.maps, *after.maps]):
            old_map, new_map = before.maps.get(name), after.maps.get(name)
            if old_map is None or new_map is None or old_map.content_key != new_map.content_key:
                maps.append(name.replace("_", " "))
    files = [_file(name, old.get(name), new.get(name)) for name in dict.fromkeys([*old, *new])]
    return ComparedPart(
        shown.set_name, shown.target_id, part.n if part else None, other.n if other else None,
        tuple(maps), tuple(files),
    )  # fmt: skip


def _file(name: str, old: FileEntry | None, new: FileEntry | None) -> ComparedFile:
    if old is None or new is None:
        return ComparedFile(name, "added" if old is None else "gone")
    if old.sha256 == new.sha256:
        return ComparedFile(name, "same")
    words = []
    if (old.width, old.height) != (new.width, new.height):
        words.append(f"{old.width} x {old.height} became {new.width} x {new.height}")
    if old.bits != new.bits:
        words.append(f"{old.bits} bit changed to {new.bits} bit")
    if old.encoding is not new.encoding:
        words.append(f"{old.encoding} became {new.encoding}")
    digests = {one.channel: one.codes_digest for one in old.channels}
    letters = [one.channel for one in new.channels if digests.get(one.channel) != one.codes_digest]
    letters += [one for one in digests if one not in {other.channel for other in new.channels}]
    return ComparedFile(name, "changed", tuple(letters), ", ".join(words))


@dataclass(frozen=True, slots=True)
class ComparedChannel:
    """PNGs of a channel in two deliveries, computed from the sets of that time.

    difference : amplified; largest, mean : share of the stored range, 0 to 1
    """

    before: bytes
    after: bytes
    difference: bytes
    amplified: int
    largest: float
    mean: float


PartAt = tuple[int, int]  # a delivery and the number of a part of it


def compare_channel(
    context: Context, earlier: PartAt, later: PartAt, name: str, letter: str
) -> ComparedChannel:
    """Compare a channel of a file in two deliveries.

    Raises NotFoundError if one doesn't have it.
    """
    planes = compared_planes(context, earlier, later, name, letter)
    old, new = planes.values["before"], planes.values["after"]
    apart: Float = np.abs(new - old)
    return ComparedChannel(
        before=channel_png(old),
        after=channel_png(new),
        difference=channel_png(np.minimum(apart * AMPLIFIED, 1)),
        amplified=AMPLIFIED,
        largest=float(apart.max()),
        mean=float(apart.mean()),
    )


def compared_planes(
    context: Context, earlier: PartAt, later: PartAt, name: str, letter: str
) -> Planes:
    """Return the channel of both as stored values in [0, 1], in the later one's size.

    Raises as `compare_channel`.
    """

    def make() -> Planes:
        old, new = (
            dequantize(computed(context, _part(context, *at), name, letter).codes)
            for at in (earlier, later)
        )
        if old.shape != new.shape:
            old = np.asarray(cv2.resize(old, new.shape[::-1], interpolation=cv2.INTER_AREA))
        return Planes("in two deliveries", {"before": old, "after": new}, None)

    return kept_planes(context, f"{earlier} {later} {name} {letter}", make)


def _part(context: Context, delivery_id: int, n: int) -> StoredPart:
    with context.database.transaction() as connection:
        return deliveries.get_part(connection, delivery_id, n)


def lit_part(context: Context, delivery_id: int, n: int) -> bytes:
    """Return a PNG of a delivered set under the reference light. Raises NotFoundError."""
    definition = SetDefinition.model_validate(_part(context, delivery_id, n).definition)
    with context.database.transaction() as connection:
        sizes = source_sizes(connection, definition.sources())
    return lit_maps_of(context, definition, sizes, _LIT_SIDE)


def repeat(context: Context, delivery_id: int) -> StoredDelivery:
    """Create a delivery of the sets and targets of another one, in their state at that time.

    Raises NotFoundError, DeliveryError if a part can't be delivered; then nothing is created.
    """
    earlier = get(context, delivery_id)
    memory = []
    for part in earlier.parts:
        try:
            export, _ = packing_of(context, part)
            memory.append(export.memory)
            states = replaced_files(part.folder, export, part.manifest_name)
        except SieveError as error:
            raise DeliveryError(f"{part.set_name} for {part.target_id}: {error.message}") from error
        if foreign := [name for name, state in states.items() if state == "foreign"]:
            raise DeliveryError(
                f"{foreign[0]} already exists in {part.folder} and wasn't written by a "
                "delivery. Move it"
            )
    with context.database.transaction() as connection:
        project_id = deliveries.project_of(connection, delivery_id)
        new_id = deliveries.add_delivery(
            connection,
            project_id,
            [
                NewPart(part.set_id, part.target_id, part.definition, part.preset,
                        part.longer_side, part.folder, part.manifest_name, expected)
                for part, expected in zip(earlier.parts, memory, strict=True)
            ],
        )  # fmt: skip
        context.enqueue(connection, new_id)
    return get(context, new_id)
