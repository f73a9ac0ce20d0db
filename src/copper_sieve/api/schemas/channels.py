"""Channels of delivered files: against what they should hold, and in two deliveries."""

from __future__ import annotations

from typing import Literal

from copper_sieve.api.schemas.common import Answer, framed, png_url
from copper_sieve.services.channel_view import AMPLIFIED, ChannelView, Texels
from copper_sieve.services.history import ComparedChannel


class ChannelViewRead(Answer):
    """A channel of a delivered file: pictures (data URLs, PNG), and how far it is from what it
    should hold.

    map : what it was made of, before its changes; null for constants and shared channels
    difference : amplified so many times
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


class TexelsRead(Answer):
    """What stands before the values of a piece of a channel.

    width, height : of the whole channel; left, upper, columns, rows : of the piece
    top : the largest code where the values are codes, else null: values in [0, 1]
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


class ComparedFileRead(Answer):
    """A file of two deliveries; of a changed one, the channels whose codes differ."""

    name: str
    kind: Literal["same", "changed", "added", "gone"]
    channels: list[str]
    words: str


class ComparedPartRead(Answer):
    """One set for one target in an earlier and a later delivery; `maps` came out otherwise."""

    set_name: str
    target_id: str
    n: int | None
    other_n: int | None
    maps: list[str]
    files: list[ComparedFileRead]


class ComparedChannelRead(Answer):
    """A channel in two deliveries: data URLs; differences are shares of the stored range."""

    before: str
    after: str
    difference: str
    amplified: int
    largest: float
    mean: float


def texels_bytes(found: Texels) -> bytes:
    """A piece of a channel, as an answer."""
    rows, columns = next(iter(found.planes.values())).shape
    head = TexelsRead(
        width=found.width, height=found.height, left=found.left, upper=found.upper,
        columns=columns, rows=rows, top=found.top, planes=list(found.planes),
    )  # fmt: skip
    return framed(head, [one.astype("<f4").tobytes() for one in found.planes.values()])


def read_compared_channel(found: ComparedChannel) -> ComparedChannelRead:
    """The answer for a channel in two deliveries."""
    return ComparedChannelRead(
        before=png_url(found.before),
        after=png_url(found.after),
        difference=png_url(found.difference),
        amplified=found.amplified,
        largest=found.largest,
        mean=found.mean,
    )


def read_channel_view(view: ChannelView) -> ChannelViewRead:
    """The answer for one channel of a delivered file."""
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
