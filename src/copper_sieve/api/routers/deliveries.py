"""Deliveries: preview, create, follow, cancel, download."""

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
    BoardCellRead,
    CreatedDeliveryRead,
    DeliveredPartRead,
    DeliveryCreate,
    DeliveryPreviewRead,
    DeliveryRead,
    DiskStateRead,
    DryRunPartRead,
    SkippedRead,
    StaleFilesRead,
    read_delivered_part,
    read_delivery,
    read_delivery_preview,
    read_dry_run,
)
from copper_sieve.core.codecs import CODECS, read_picture
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.ingest.sources import thumbnail
from copper_sieve.services import board, delivered, deliveries, delivery_preview, history
from copper_sieve.services.channel_view import channel_planes, channel_view, piece_of
from copper_sieve.services.contact_sheet import page
from copper_sieve.services.contact_sheet.contents import contact_sheet_of
from copper_sieve.services.contact_sheet.picture import png as sheet_png
from copper_sieve.services.context import Context

_PACKED = {".glb", ".usdz", *(one.ending for one in CODECS.values() if one.packed)}
router = APIRouter(prefix="/api/v1", tags=["deliveries"])


@router.post("/projects/{project}/dry-runs")
def preview_files(project: str, body: DeliveryCreate, context: ContextDep) -> list[DryRunPartRead]:
    """List every file that a delivery would write, without computing or writing anything."""
    parts = delivery_preview.preview_files(context, project, body.pairs(), body.longer_side)
    return [read_dry_run(part) for part in parts]


@router.post("/projects/{project}/delivery-previews")
def preview_delivery(
    project: str, body: DeliveryCreate, context: ContextDep
) -> DeliveryPreviewRead:
    """Summarize a delivery of any number of parts: counts, and each message once."""
    return read_delivery_preview(
        delivery_preview.preview_delivery(context, project, body.pairs(), body.longer_side)
    )


@router.get("/projects/{project}/board")
def get_board(project: str, context: ContextDep, page: PageDep) -> list[BoardCellRead]:
    """Return the delivery state of each set and target; pairs without one were never delivered."""
    found = page.of(board.board(context, project), lambda one: f"{one.set_id} {one.target_id}")
    return [BoardCellRead.model_validate(one) for one in found]


@router.get("/projects/{project}/board/disk-states")
def get_disk_states(
    project: str, context: ContextDep, ids: Annotated[list[int], Query(max_length=200)]
) -> list[DiskStateRead]:
    """Return the cells of sets whose files were replaced, modified or deleted."""
    return [
        DiskStateRead.model_validate(one) for one in board.disk_states_of(context, project, ids)
    ]


@router.get("/projects/{project}/board/stale")
def get_stale_files(
    project: str, context: ContextDep, ids: Annotated[list[int], Query(max_length=200)]
) -> list[StaleFilesRead]:
    """Return the stale cells of sets with the number of files that would change."""
    return [StaleFilesRead.model_validate(one) for one in board.stale_files(context, project, ids)]


@router.post("/projects/{project}/deliveries", status_code=202)
def create_delivery(project: str, body: DeliveryCreate, context: ContextDep) -> CreatedDeliveryRead:
    """Create a delivery, which a worker carries out. Cells that can't be delivered are skipped."""
    skipped: list[deliveries.Skipped] = []
    created = deliveries.create_delivery(
        context, project, body.pairs(), body.options(), skipped.append
    )
    found = _read(context, created.id)
    return CreatedDeliveryRead(
        **found.model_dump(), skipped=[SkippedRead.model_validate(one) for one in skipped]
    )


@router.get("/projects/{project}/deliveries")
def list_deliveries(
    project: str,
    context: ContextDep,
    before: int | None = None,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
) -> list[DeliveryRead]:
    """List deliveries of a project, newest first.

    `before`: only deliveries before this id; a list shorter than `limit` is the last one.
    """
    found = delivered.summaries(context, project, before, limit)
    return [read_delivery(one) for one in found]


@router.get("/deliveries/{delivery_id}")
def get_delivery(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Return a delivery with the progress of its parts and the state of its files on disk."""
    return _read(context, delivery_id)


@router.get("/deliveries/{delivery_id}/parts/{n}")
def get_delivery_part(delivery_id: int, n: int, context: ContextDep) -> DeliveredPartRead:
    """Return the files of a part, its verification report, and a byte comparison of the files on
    disk.
    """
    return read_delivered_part(*delivered.delivered_part(context, delivery_id, n))


@router.post("/deliveries/{delivery_id}/repetitions", status_code=202)
def repeat_delivery(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Repeat a delivery with the sets and targets of that time."""
    return _read(context, history.repeat(context, delivery_id).id)


@router.get("/deliveries/{delivery_id}/comparisons/{other_id}")
def compare_deliveries(
    delivery_id: int, other_id: int, context: ContextDep
) -> list[ComparedPartRead]:
    """Compare two deliveries; only parts that differ are returned."""
    found = history.compare(context, delivery_id, other_id)
    return [ComparedPartRead.model_validate(one) for one in found]


@router.get(
    "/deliveries/{delivery_id}/parts/{n}/comparisons/{other_id}/{other_n}/files/{name}/channels/{letter}"
)
def compare_delivery_channel(  # noqa: PLR0917
    delivery_id: int, n: int, other_id: int, other_n: int, name: str, letter: str,
    context: ContextDep,
) -> ComparedChannelRead:  # fmt: skip
    """Compare a channel of a file in two deliveries, computed from the sets of that time."""
    found = history.compare_channel(context, (delivery_id, n), (other_id, other_n), name, letter)
    return read_compared_channel(found)


@router.get("/deliveries/{delivery_id}/parts/{n}/lit.png", response_class=Response)
def get_part_picture(delivery_id: int, n: int, context: ContextDep) -> Response:
    """Render the set of a part, as delivered, under the reference light."""
    data = history.lit_part(context, delivery_id, n)
    return Response(data, 200, IMMUTABLE, "image/png")


@router.post("/deliveries/{delivery_id}/cancel")
def cancel_delivery(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Cancel the waiting and running parts of a delivery; delivered parts stay."""
    return _read(context, deliveries.cancel(context, delivery_id).id)


@router.post("/deliveries/{delivery_id}/retry", status_code=202)
def retry_delivery(delivery_id: int, context: ContextDep) -> DeliveryRead:
    """Retry the failed and cancelled parts of a delivery."""
    return _read(context, deliveries.retry(context, delivery_id).id)


def _read(context: Context, delivery_id: int) -> DeliveryRead:
    return read_delivery(delivered.summary_of(context, delivery_id))


@router.get("/deliveries/{delivery_id}/files.zip", response_class=StreamingResponse)
def get_delivery_zip(delivery_id: int, context: ContextDep) -> StreamingResponse:
    """Stream all files of the delivery as a zip archive.

    Parts whose files were replaced or deleted are skipped and listed in `MISSING.txt`.
    """
    found = delivered.delivered_files(context, delivery_id)
    stream = ZipStream(compress_type=ZIP_DEFLATED, compress_level=1)
    if found.missing:
        stream.add("\n".join(found.missing).encode() + b"\n", "MISSING.txt")
    for path, name in found.files:
        packed = path.suffix in _PACKED  # already compressed
        way = ZIP_STORED if packed else ZIP_DEFLATED
        stream.add(delivered.contents(path), name, size=path.stat().st_size, compress_type=way)
    headers = {"Content-Disposition": f'attachment; filename="delivery-{delivery_id:04d}.zip"'}
    return StreamingResponse(iter(stream), 200, headers, "application/zip")


@router.get("/deliveries/{delivery_id}/sheet.html", response_class=StreamingResponse)
def get_contact_sheet(delivery_id: int, context: ContextDep) -> StreamingResponse:
    """Return the contact sheet as a single HTML page without scripts or external files."""
    return StreamingResponse(
        page.html(contact_sheet_of(context, delivery_id)), media_type="text/html"
    )


@router.get("/deliveries/{delivery_id}/sheet.png", response_class=Response)
def get_contact_sheet_picture(delivery_id: int, context: ContextDep) -> Response:
    """Return the contact sheet of the first 24 parts as a picture."""
    return Response(sheet_png(contact_sheet_of(context, delivery_id)), media_type="image/png")


@router.get("/deliveries/{delivery_id}/parts/{n}/files/{name}/picture.png", response_class=Response)
def get_file_picture(delivery_id: int, n: int, name: str, context: ContextDep) -> Response:
    """Return a thumbnail of a delivered file, read from the file (without alpha)."""
    path = delivered.delivered_file(context, delivery_id, n, name)
    small = thumbnail(read_picture(path)[1])
    return Response(encode_png(small), 200, {"Cache-Control": "no-cache"}, "image/png")


@router.get("/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}")
def get_file_channel(
    delivery_id: int, n: int, name: str, letter: str, context: ContextDep
) -> ChannelViewRead:
    """Compare a channel of a delivered file with its source map."""
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
def get_channel_texels(  # noqa: PLR0917
    delivery_id: int, n: int, name: str, letter: str, context: ContextDep, left: _AT = 0,
    upper: _AT = 0, columns: _PIECE = 256, rows: _PIECE = 256,
) -> Response:  # fmt: skip
    """Return texel values of a channel of a delivered file: `held` in the file, `expected`, and the
    source `map`.
    """
    planes = channel_planes(context, delivery_id, n, name, letter)
    found = piece_of(planes, left, upper, columns, rows)
    return Response(texels_bytes(found), media_type="application/octet-stream")


@router.get(
    "/deliveries/{delivery_id}/parts/{n}/comparisons/{other_id}/{other_n}/files/{name}/channels/{letter}"
    "/texels",
    response_class=Response,
    responses=_TEXELS,
)
def get_compared_texels(  # noqa: PLR0917
    delivery_id: int, n: int, other_id: int, other_n: int, name: str, letter: str,
    context: ContextDep, left: _AT = 0, upper: _AT = 0, columns: _PIECE = 256, rows: _PIECE = 256,
) -> Response:  # fmt: skip
    """Return texel values of a channel in two deliveries: `before` and `after`."""
    planes = history.compared_planes(context, (delivery_id, n), (other_id, other_n), name, letter)
    found = piece_of(planes, left, upper, columns, rows)
    return Response(texels_bytes(found), media_type="application/octet-stream")
