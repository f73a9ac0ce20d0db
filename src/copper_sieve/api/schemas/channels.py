"""Channels of delivered files, compared with their source and between deliveries."""

from __future__ import annotations

from typing import Literal

from copper_sieve.api.schemas.common import ResponseModel, framed, png_url
from copper_sieve.services.channel_view import AMPLIFIED, ChannelView, Texels
from copper_sieve.services.history import ComparedChannel


class ChannelViewRead(ResponseModel):
    """A channel of a delivered file: pictures (data URLs, PNG), and the difference from its source.

    map : source map before changes; null for constants and shared channels
    difference : amplified by this factor
    largest, mean : in codes
    """

    words: str
    held: str
    expected: str
    map: str | None
    difference: str
    amplified: int
    largest: float
    mean: float


class TexelsRead(ResponseModel):
    """Header of the texel values of a channel.

    width, height : of the whole channel; left, upper, columns, rows : of the excerpt
    top : largest code if the values are codes, else null: values in [0, 1]
    planes : the states whose values follow, each `rows` x `columns` float32, little endian
    """

    width: int
    height: int
    left: int
    upper: int
    columns: int
    rows: int
    top: int | None
    planes: list[str]


class ComparedFileRead(ResponseModel):
    """A file in two deliveries; for a changed file, the channels whose codes differ."""

    name: str
    kind: Literal["same", "changed", "added", "gone"]
    channels: list[str]
    words: str


class ComparedPartRead(ResponseModel):
    """One set and target in an earlier and a later delivery; `maps` lists the maps that differ."""

    set_name: str
    target_id: str
    n: int | None
    other_n: int | None
    maps: list[str]
    files: list[ComparedFileRead]


class ComparedChannelRead(ResponseModel):
    """A channel in two deliveries: data URLs; differences are shares of the stored range."""

    before: str
    after: str
    difference: str
    amplified: int
    largest: float
    mean: float


def texels_bytes(found: Texels) -> bytes:
    """Return texel values as a response."""
    rows, columns = next(iter(found.planes.values())).shape
    head = TexelsRead(
        width=found.width, height=found.height, left=found.left, upper=found.upper,
        columns=columns, rows=rows, top=found.top, planes=list(found.planes),
    )  # fmt: skip
    return framed(head, [one.astype("<f4").tobytes() for one in found.planes.values()])


def read_compared_channel(found: ComparedChannel) -> ComparedChannelRead:
    """Return the response for a channel in two deliveries."""
    return ComparedChannelRead(
        before=png_url(found.before),
        after=png_url(found.after),
        difference=png_url(found.difference),
        amplified=found.amplified,
        largest=found.largest,
        mean=found.mean,
    )


def read_channel_view(view: ChannelView) -> ChannelViewRead:
    """Return the response for a channel of a delivered file."""
    return ChannelViewRead(
        words=view.words,
        held=png_url(view.held),
        expected=png_url(view.expected),
        map=None if view.map is None else png_url(view.map),
        difference=png_url(view.difference),
        amplified=AMPLIFIED,
        largest=view.largest,
        mean=view.mean,
    )
