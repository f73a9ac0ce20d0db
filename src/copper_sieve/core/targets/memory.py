"""GPU memory of a file, and whether another distribution of channels needs less.

Block formats with a full mip chain: 4/3 of the first level.
"""

from __future__ import annotations

from dataclasses import dataclass

from copper_sieve.core.codecs.encoders.blocks import BLOCKS
from copper_sieve.core.models.slot import Slot

_MIPS = 4 / 3
# Bytes a texel by the number of channels: BC4, BC1, BC7 (or BC3); a normal without more is BC5.
_BLOCKS = {1: ("BC4", 0.5), 2: ("BC5", 1.0), 3: ("BC1", 0.5), 4: ("BC7", 1.0)}
_NORMAL = ("BC5", 1.0)
_PLAIN = 4.0


@dataclass(frozen=True, slots=True)
class Memory:
    """GPU memory of one file in bytes.

    blocks : in the suitable block format, named by `format`
    plain : four bytes per texel
    remark : advice, or ""
    """

    format: str
    blocks: int
    plain: int
    remark: str


def memory_of(slots: dict[str, Slot], width: int, height: int, block: str | None = None) -> Memory:
    """Return the GPU memory of a file.

    Parameters
    ----------
    slots : content of each channel
    width, height : texels
    block : block compression of a GPU file; None: the one that suits the channels
    """
    normal = len(slots) == 3 and all(s.map and s.component in "xyz" for s in slots.values())
    name, each = _NORMAL if normal else _BLOCKS.get(len(slots), _BLOCKS[4])
    if block:
        kept = BLOCKS[block]
        name = "RGBA8" if block == "none" else block.upper()
        each = kept.block_bytes / kept.side**2
    texels = width * height * _MIPS
    remark = ""
    if len(slots) == 4:
        remark = (
            "with alpha the file needs as much memory as two files without; two files have "
            "six channels for the same cost"
        )
    return Memory(name, round(texels * each), round(texels * _PLAIN), remark)
