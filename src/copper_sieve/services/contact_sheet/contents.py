"""Content of a contact sheet: every set lit, its maps, its files by channel."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from copper_sieve.core.codecs import read_picture
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import DeliveryError, NotFoundError, SieveError
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.resize import area_average
from copper_sieve.core.ingest.sources import thumbnail
from copper_sieve.core.models.manifest import FileEntry, Manifest
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.delivered import delivered_file
from copper_sieve.services.deliveries import get
from copper_sieve.services.delivery_worker import packing_of
from copper_sieve.services.sets import map_pictures
from copper_sieve.services.tray.lit import lit_maps_of
from copper_sieve.store.delivery_rows import StoredDelivery, StoredPart

_LIT_SIDE, _PICTURE_SIDE, _CHANNEL_SIDE = 320, 160, 72


@dataclass(frozen=True, slots=True)
class ContactSheetPicture:
    """A PNG with its caption."""

    words: str
    png: bytes


@dataclass(frozen=True, slots=True)
class ContactSheetFile:
    """A delivered file: its facts as text, and its channels if the file is unchanged on disk."""

    name: str
    facts: str
    picture: bytes | None
    channels: tuple[ContactSheetPicture, ...]


@dataclass(frozen=True, slots=True)
class ContactSheetPart:
    """A set and target.

    facts, origin : as text, empty if unknown
    """

    set_name: str
    target: str
    facts: str
    origin: str
    lit: bytes | None
    maps: tuple[ContactSheetPicture, ...]
    files: tuple[ContactSheetFile, ...]
    remarks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ContactSheet:
    """A delivery; its parts are computed while they are iterated."""

    delivery_id: int
    finished_at: datetime | None
    count: int
    parts: Iterator[ContactSheetPart]


def contact_sheet_of(context: Context, delivery_id: int) -> ContactSheet:
    """Return the contact sheet of a delivery.

    Raises NotFoundError, DeliveryError if it isn't finished.
    """
    delivery = get(context, delivery_id)
    done = [part for part in delivery.parts if part.manifest]
    if not done:
        raise DeliveryError(f"delivery {delivery_id} has no delivered files to show")
    parts = (_part(context, delivery, part) for part in done)
    return ContactSheet(delivery.id, delivery.finished_at, len(done), parts)


def _part(context: Context, delivery: StoredDelivery, part: StoredPart) -> ContactSheetPart:
    manifest = Manifest.model_validate(part.manifest)
    definition = SetDefinition.model_validate(part.definition)
    export, sizes = packing_of(context, part)
    lit: bytes | None = None
    maps: tuple[ContactSheetPicture, ...] = ()
    with suppress(SieveError):  # a set that can be computed no more still has its files
        lit = lit_maps_of(context, definition, sizes, _LIT_SIDE)
        pictures = map_pictures(context, definition, sizes)
        maps = tuple(
            ContactSheetPicture(f"{kind.facts.title}, {definition.maps[kind].how}", png)
            for kind, png in pictures.items()
        )
    return ContactSheetPart(
        set_name=manifest.set,
        target=manifest.target_title,
        facts=_facts(manifest, export),
        origin=_origin(manifest),
        lit=lit,
        maps=maps,
        files=tuple(_file(context, delivery.id, part, one, export) for one in manifest.files),
        remarks=manifest.remarks,
    )


def _facts(manifest: Manifest, export: ExportPlan) -> str:
    layout = export.geometry.sheet
    width = export.geometry.surface.tile_size / (layout.columns if layout else 1)
    density = export.size[0] / width
    return " · ".join(
        [
            f"{export.size[0]} × {export.size[1]} texels",
            f"{width:.3g} m wide",
            f"{density:.0f} px/m",
            f"normal {manifest.normal_y.label}",
        ]
    )


def _origin(manifest: Manifest) -> str:
    origin = manifest.origin
    if origin is None:
        return ""
    licence = f"licence: {origin.licence}" if origin.licence else "no license stated"
    return " · ".join(one for one in (f"from {origin.card}", licence, origin.where) if one)


def _file(
    context: Context, delivery_id: int, part: StoredPart, entry: FileEntry, export: ExportPlan
) -> ContactSheetFile:
    facts = (
        f"{entry.width} × {entry.height}, {entry.bits} bit, "
        f"{'sRGB' if entry.encoding is Encoding.SRGB else 'linear data'}, {_bytes(entry.bytes)}"
    )
    try:
        picture = read_picture(delivered_file(context, delivery_id, part.n, entry.name))[1]
    except (NotFoundError, SieveError) as error:
        return ContactSheetFile(entry.name, f"{facts}; {error.message}", None, ())
    planned = next((one for one in export.files if one.name == entry.name), None)
    words = {letter: slot.words() for letter, slot in planned.slots.items()} if planned else {}
    channels = tuple(
        ContactSheetPicture(f"{one.channel} {words.get(one.channel, one.map or '')}".strip(),
                     _channel(picture, one.channel))
        for one in entry.channels
    )  # fmt: skip
    return ContactSheetFile(
        entry.name, facts, encode_png(thumbnail(picture, _PICTURE_SIDE)), channels
    )


def _channel(picture: Picture, name: str) -> bytes:
    """Return the codes of a channel, reduced, in grayscale."""
    codes = area_average(picture.channel(name), _CHANNEL_SIDE)
    narrow = Picture(codes[:, :, None], ("Y",), Encoding.LINEAR)
    return encode_png(thumbnail(narrow, _CHANNEL_SIDE) if codes.dtype.kind == "f" else narrow)


def _bytes(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 1e6 else f"{count / 1e3:.0f} kB"
