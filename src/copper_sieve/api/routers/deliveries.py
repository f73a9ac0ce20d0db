"""Deliveries: dry run, ask, watch, cancel, fetch."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from zipstream import ZIP_DEFLATED, ZIP_STORED, ZipStream

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.channels import (
    ChannelViewRead,
    ComparedChannelRead,
    ComparedPartRead,
    TexelsRead,
    read_channel_view,
    read_compared_channel,
    texels_bytes,
)
from copper_sieve.api.schemas.deliveries import (
    AskedRead,
    BoardCellRead,
    DeliveredPartRead,
    DeliveryCreate,
    DeliveryRead,
    DryRunPartRead,
    LookRead,
    LyingRead,
    SkippedRead,
    StaleFilesRead,
    read_delivered_part,
    read_delivery,
    read_dry_run,
    read_look,
)
from copper_sieve.core.codecs import CODECS, read_picture
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.ingest.sources import thumbnail
from copper_sieve.services import board, delivered, deliveries, history
from copper_sieve.services.channel_view import channel_planes, channel_view, piece_of
from copper_sieve.services.context import Context
from copper_sieve.services.dry_run import dry_run as dry_run_of
from copper_sieve.services.dry_run import look as look_at
from copper_sieve.services.sheet import page
from copper_sieve.services.sheet.contents import sheet
from copper_sieve.services.sheet.picture import png as sheet_png

_PACKED = {".glb", ".usdz", *(one.ending for one in CODECS.values() if one.packed)}
router = APIRouter(prefix="/api/v1", tags=["deliveries"])


@router.post("/projects/{project}/dry-runs")
def dry_run(project: str, body: DeliveryCreate, context: ContextDep) -> list[DryRunPartRead]:
    """Every file a delivery would write; nothing is computed or written."""
    parts = dry_run_of(context, project, body.pairs(), body.longer_side)
    return [read_dry_run(part) for part in parts]


@router.post("/projects/{project}/looks")
def look(project: str, body: DeliveryCreate, context: ContextDep) -> LookRead:
    """A dry run of any number of parts in short: figures, and each cause once."""
    return read_look(look_at(context, project, body.pairs(), body.longer_side))


@router.get("/projects/{project}/board")
def board_of(project: str, context: ContextDep, page: PageDep) -> list[BoardCellRead]:
    """How each set stands with each target; what is not told was never delivered."""
    found = page.of(board.board(context, project), lambda one: f"{one.set_id} {one.target_id}")
    return [BoardCellRead.model_validate(one) for one in found]


@router.get("/projects/{project}/board/lying")
def lying(
    project: str, context: ContextDep, ids: Annotated[list[int], Query(max_length=200)]
) -> list[LyingRead]:
    """The cells of some sets whose files were replaced, changed by hand or taken away."""
    return [LyingRead.model_validate(one) for one in board.lying(context, project, ids)]


@router.get("/projects/{project}/board/stale")
def stale_files(
    project: str, context: ContextDep, ids: Annotated[list[int], Query(max_length=200)]
) -> list[StaleFilesRead]:
    """The stale cells of some sets: how many of their files would come out otherwise."""
    return [StaleFilesRead.model_validate(one) for one in board.stale_files(context, project, ids)]


@router.post("/projects/{project}/deliveries", status_code=202)
def ask(project: str, body: DeliveryCreate, context: ContextDep) -> AskedRead:
    """Ask for a delivery; a worker carries it out. Cells that can't be delivered are skipped."""
    skipped: list[deliveries.Skipped] = []
    asked = deliveries.ask(context, project, body.pairs(), body.wish(), skipped.append)
    found = _read(context, asked.id)
    return AskedRead(
        **found.model_dump(), skipped=[SkippedRead.model_validate(one) for one in skipped]
    )


@router.get("/projects/{project}/deliveries")
def project_deliveries(
    project: str,
    context: ContextDep,
    before: int | None = None,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
) -> list[DeliveryRead]:
    """List deliveries of a project, newest first.

    `before`: only those before this delivery; a list of less than `limit` is the last one.
    """
    found = delivered.told_of_all(context, project, before, limit)
    return [read_delivery(one) for one in found]


@router.get("/deliveries/{delivery_id}")
def one_delivery(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """One delivery: how far each part is, and if its files lie there still."""
    return _read(context, delivery_id)


@router.get("/deliveries/{delivery_id}/parts/{n}")
def one_part(delivery_id: int, n: int, context: ContextDep) -> DeliveredPartRead:
    """What a part wrote, its assay, and if its files lie there byte for byte as it wrote them."""
    return read_delivered_part(*delivered.delivered_part(context, delivery_id, n))


@router.post("/deliveries/{delivery_id}/again", status_code=202)
def deliver_again(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Ask for a delivery once more, of the sets and targets as they were then."""
    return _read(context, history.again(context, delivery_id).id)


@router.get("/deliveries/{delivery_id}/compared/{other_id}")
def compare(delivery_id: int, other_id: int, context: ContextDep) -> list[ComparedPartRead]:
    """What a later delivery (`other_id`) wrote otherwise: only the parts that differ."""
    found = history.compare(context, delivery_id, other_id)
    return [ComparedPartRead.model_validate(one) for one in found]


@router.get(
    "/deliveries/{delivery_id}/parts/{n}/compared/{other_id}/{other_n}/files/{name}/channels/{letter}"
)
def compare_channel(  # noqa: PLR0917
    delivery_id: int, n: int, other_id: int, other_n: int, name: str, letter: str,
    context: ContextDep,
) -> ComparedChannelRead:  # fmt: skip
    """A channel of a file in two deliveries, computed anew from the sets as they were then."""
    found = history.compare_channel(context, (delivery_id, n), (other_id, other_n), name, letter)
    return read_compared_channel(found)


@router.get("/deliveries/{delivery_id}/parts/{n}/lit.png", response_class=Response)
def lit_part(delivery_id: int, n: int, context: ContextDep) -> Response:
    """The set of a part as it was delivered, under the reference light."""
    data = history.lit_part(context, delivery_id, n)
    return Response(data, 200, IMMUTABLE, "image/png")


@router.post("/deliveries/{delivery_id}/cancel")
def cancel(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Stop a delivery: parts that wait or run are given up; what was delivered stays."""
    return _read(context, deliveries.cancel(context, delivery_id).id)


@router.post("/deliveries/{delivery_id}/retry", status_code=202)
def retry(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Try the parts of a delivery again that failed or were cancelled."""
    return _read(context, deliveries.retry(context, delivery_id).id)


def _read(context: Context, delivery_id: int) -> DeliveryRead:
    return read_delivery(delivered.told(context, delivery_id))


@router.get("/deliveries/{delivery_id}/files.zip", response_class=StreamingResponse)
def files(delivery_id: int, context: ContextDep) -> StreamingResponse:
    """Everything the delivery wrote, as a zip that is made while it is sent.

    Parts whose files were replaced or removed are left out and listed in `MISSING.txt`.
    """
    found = delivered.delivered_files(context, delivery_id)
    stream = ZipStream(compress_type=ZIP_DEFLATED, compress_level=1)
    if found.missing:
        stream.add("\n".join(found.missing).encode() + b"\n", "MISSING.txt")
    for path, name in found.files:
        packed = path.suffix in _PACKED  # these gain nothing from another packing
        way = ZIP_STORED if packed else ZIP_DEFLATED
        stream.add(delivered.contents(path), name, size=path.stat().st_size, compress_type=way)
    headers = {"Content-Disposition": f'attachment; filename="delivery-{delivery_id:04d}.zip"'}
    return StreamingResponse(iter(stream), 200, headers, "application/zip")


@router.get("/deliveries/{delivery_id}/sheet.html", response_class=StreamingResponse)
def sheet_page(delivery_id: int, context: ContextDep) -> StreamingResponse:
    """The contact sheet as one page that holds everything: no script, nothing from outside."""
    return StreamingResponse(page.html(sheet(context, delivery_id)), media_type="text/html")


@router.get("/deliveries/{delivery_id}/sheet.png", response_class=Response)
def sheet_picture(delivery_id: int, context: ContextDep) -> Response:
    """The contact sheet of its first 24 parts as a picture."""
    return Response(sheet_png(sheet(context, delivery_id)), media_type="image/png")


@router.get("/deliveries/{delivery_id}/parts/{n}/files/{name}/picture.png", response_class=Response)
def picture(delivery_id: int, n: int, name: str, context: ContextDep) -> Response:
    """A small picture of a delivered file, read from the file itself (without its alpha)."""
    path = delivered.delivered_file(context, delivery_id, n, name)
    small = thumbnail(read_picture(path)[1])
    return Response(encode_png(small), 200, {"Cache-Control": "no-cache"}, "image/png")


@router.get("/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}")
def channel(
    delivery_id: int, n: int, name: str, letter: str, context: ContextDep
) -> ChannelViewRead:
    """A channel of a delivered file against the map that it was made of."""
    return read_channel_view(channel_view(context, delivery_id, n, name, letter))


_PIECE = Annotated[int, Query(ge=1, le=1024)]
_AT = Annotated[int, Query(ge=0, le=65536)]
_TEXELS: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/octet-stream": {}}, "model": TexelsRead}
}


@router.get(
    "/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}/texels",
    response_class=Response,
    responses=_TEXELS,
)
def channel_texels(  # noqa: PLR0917
    delivery_id: int, n: int, name: str, letter: str, context: ContextDep, left: _AT = 0,
    upper: _AT = 0, columns: _PIECE = 256, rows: _PIECE = 256,
) -> Response:  # fmt: skip
    """A piece of a channel of a delivered file, texel by texel: `held` in the file, `expected`, and
    the `map` before its changes."""
    planes = channel_planes(context, delivery_id, n, name, letter)
    found = piece_of(planes, left, upper, columns, rows)
    return Response(texels_bytes(found), media_type="application/octet-stream")


@router.get(
    "/deliveries/{delivery_id}/parts/{n}/compared/{other_id}/{other_n}/files/{name}/channels/{letter}"
    "/texels",
    response_class=Response,
    responses=_TEXELS,
)
def compared_texels(  # noqa: PLR0917
    delivery_id: int, n: int, other_id: int, other_n: int, name: str, letter: str,
    context: ContextDep, left: _AT = 0, upper: _AT = 0, columns: _PIECE = 256, rows: _PIECE = 256,
) -> Response:  # fmt: skip
    """A piece of a channel in two deliveries, texel by texel: `before` and `after`."""
    planes = history.compared_planes(context, (delivery_id, n), (other_id, other_n), name, letter)
    found = piece_of(planes, left, upper, columns, rows)
    return Response(texels_bytes(found), media_type="application/octet-stream")
