"""Block compression for GPUs: 4 x 4 texels as BC1, BC3, BC4, BC5 or BC7, with etcpak."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from copper_sieve.core.codecs.codec import Format, Loss, Writing
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

if TYPE_CHECKING:
    import etcpak


@dataclass(frozen=True, slots=True)
class BlockFormat:
    """A GPU texture format.

    dxgi, vulkan : numbers for data and for sRGB in DDS (DXGI_FORMAT) and KTX2 (VkFormat); None: not
        available
    block_bytes : per 4 x 4 texels, or per texel if `side` is 1
    model : of the Khronos data format descriptor
    samples : channel, bit offset, bits
    """

    channels: tuple[int, ...]
    block_bytes: int
    dxgi: tuple[int, int | None]
    vulkan: tuple[int, int | None]
    model: int
    samples: tuple[tuple[int, int, int], ...]
    side: int = 4

    def numbers(self, encoding: Encoding) -> tuple[int, int]:
        """Return the DXGI and Vulkan format numbers for an encoding."""
        at = 1 if encoding is Encoding.SRGB else 0
        return self.dxgi[at] or self.dxgi[0], self.vulkan[at] or self.vulkan[0]

    def length(self, width: int, height: int) -> int:
        """Return the size of one level in bytes."""
        return -(-width // self.side) * -(-height // self.side) * self.block_bytes


_ALPHA = 15
BLOCKS: dict[str, BlockFormat] = {
    "bc7": BlockFormat((3, 4), 16, (98, 99), (145, 146), 134, ((0, 0, 128),)),
    "bc5": BlockFormat((2,), 16, (83, None), (141, None), 132, ((0, 0, 64), (1, 64, 64))),
    "bc4": BlockFormat((1,), 8, (80, None), (139, None), 131, ((0, 0, 64),)),
    "bc3": BlockFormat((4,), 16, (77, 78), (137, 138), 130, ((_ALPHA, 0, 64), (0, 64, 64))),
    "bc1": BlockFormat((3,), 8, (71, 72), (131, 132), 128, ((0, 0, 64),)),
    "none": BlockFormat((3, 4), 4, (28, 29), (37, 43), 1,
                        ((0, 0, 8), (1, 8, 8), (2, 16, 8), (_ALPHA, 24, 8)), side=1),
}  # fmt: skip


# What both containers hold.
BLOCK_FORMAT = Format(
    bits=(8,), channels=(1, 2, 3, 4), compressions=tuple(BLOCKS),
    lossy=tuple(name for name in BLOCKS if name != "none"), mips=True, blocks=True,
)  # fmt: skip


def loss_in_blocks(_: Path) -> Loss:
    """Return the loss of block compression."""
    return "heavy"


def check_block(picture: Picture, how: Writing) -> str:
    """Return the block compression for a picture.

    Raises
    ------
    WriteError : if the compression doesn't support the picture's channels or bit depth
    """
    name = how.compression or next(iter(BLOCKS))
    count = picture.codes.shape[2]
    if picture.codes.dtype != np.uint8 or count not in BLOCKS[name].channels:
        fit = " or ".join(map(str, BLOCKS[name].channels))
        raise WriteError(
            f"{name} in {how.format} supports {fit} channel(s) with 8 bits. Choose another "
            "compression"
        )
    return name


def compress(codes: Codes, name: str) -> bytes:
    """Compress one level, (H, W, C) uint8; incomplete blocks repeat the border."""
    texels = _as_rgba(codes)
    if name == "none":
        return texels.tobytes()
    down, right = -texels.shape[0] % 4, -texels.shape[1] % 4
    texels = np.ascontiguousarray(np.pad(texels, ((0, down), (0, right), (0, 0)), mode="edge"))
    height, width = texels.shape[:2]
    import etcpak

    if name == "bc7":
        return bytes(etcpak.compress_bc7(texels.tobytes(), width, height, _plain_bc7()))
    return bytes(getattr(etcpak, f"compress_{name}")(texels.tobytes(), width, height))


def _plain_bc7() -> etcpak.BC7CompressBlockParams:
    """Weight all channels equally; the default favors visible color, which is wrong for data."""
    import etcpak

    settings = etcpak.BC7CompressBlockParams()
    settings.m_perceptual = False
    settings.init_linear_weights()
    settings.m_max_partitions = 0
    return settings


def _as_rgba(codes: Codes) -> Codes:
    height, width, count = codes.shape
    texels = np.zeros((height, width, 4), dtype=np.uint8)
    texels[:, :, 3] = 255
    texels[:, :, :count] = codes
    return texels
