"""What each format can hold, and how a picture is to be written in it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Format:
    """What a format can hold.

    bits, channels : depths and channel counts; floating_bits : the depths that are floating point
    compressions : the ways it knows, the usual one first; none where there is no choice
    lossy : those of them that change the codes, or True where all do
    mips, tiles : if it can hold smaller levels, and texels in tiles; quality : if it takes one
    """

    ending: str
    bits: tuple[int, ...]
    channels: tuple[int, ...]
    compressions: tuple[str, ...] = ()
    lossy: tuple[str, ...] | bool = ()
    floating_bits: tuple[int, ...] = ()
    mips: bool = False
    tiles: bool = False
    quality: bool = False

    def loses(self, compression: str | None = None) -> bool:
        """If what is written so comes back changed."""
        if isinstance(self.lossy, bool):
            return self.lossy
        return (compression or (self.compressions or ("",))[0]) in self.lossy


@dataclass(frozen=True, slots=True)
class Writing:
    """How a picture is written; None: as usual for its format.

    bits : of floating point files, 16 or 32; quality : 1 to 100
    """

    format: str
    bits: int | None = None
    compression: str | None = None
    quality: int | None = None
    tiles: bool = False


_GPU = ("bc7", "bc5", "bc4", "bc3", "bc1")
FORMATS: dict[str, Format] = {
    "png": Format(".png", (8, 16), (1, 3, 4)),
    "tga": Format(".tga", (8,), (1, 3, 4), ("rle", "none")),
    "tiff": Format(
        ".tif", (8, 16, 32), (1, 2, 3, 4), ("deflate", "none"),
        floating_bits=(32,), mips=True, tiles=True,
    ),
    "exr": Format(
        ".exr", (16, 32), (1, 2, 3, 4), ("zip", "piz", "zips", "rle", "none", "dwaa"), ("dwaa",),
        floating_bits=(16, 32), mips=True, tiles=True,
    ),
    "hdr": Format(".hdr", (32,), (3,), lossy=True, floating_bits=(32,)),
    "webp": Format(".webp", (8,), (3, 4), ("lossless", "lossy"), ("lossy",), quality=True),
    "jpeg": Format(".jpg", (8,), (1, 3), lossy=True, quality=True),
    "dds": Format(".dds", (8,), (1, 2, 3, 4), (*_GPU, "none"), _GPU, mips=True),
    "ktx2": Format(".ktx2", (8,), (1, 2, 3, 4), (*_GPU, "none"), _GPU, mips=True),
}  # fmt: skip
BY_ENDING = {
    ".png": "png",
    ".tga": "tga",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".exr": "exr",
    ".webp": "webp",
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".hdr": "hdr",
    ".dds": "dds",
    ".ktx2": "ktx2",
}
