"""Take in: what one file is, and the maps that a set gets from it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs import Limits, PictureSpec, read_picture
from copper_sieve.core.image.encoding import decode_color, linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.image.resize import fit_size, resize
from copper_sieve.core.pipeline.assay import file_sha256
from copper_sieve.core.presets.texture_set import Imported
from copper_sieve.core.recognition.names import normal_y_from_name


@dataclass(frozen=True, slots=True)
class SourceFacts:
    """A file that can be read: its identity, its spec, and if its alpha says anything."""

    sha256: str
    name: str
    bytes: int
    spec: PictureSpec
    cut_out: bool

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels."""
        return self.spec.width, self.spec.height


def examine(path: Path, limits: Limits, name: str | None = None) -> tuple[SourceFacts, Picture]:
    """Read a whole file once: its facts and its codes. Raises PictureError with the reason."""
    spec, picture = read_picture(path, limits)
    cut_out = False
    if "A" in picture.channels:
        alpha = picture.channel("A")
        cut_out = bool(alpha.min() != alpha.max())
    facts = SourceFacts(file_sha256(path), name or path.name, path.stat().st_size, spec, cut_out)
    return facts, picture


def imported_maps(
    facts: SourceFacts, kind: MapKind, normal_y: NormalY | None = None
) -> dict[MapKind, Imported]:
    """The maps that a file gives: itself, and opacity from an alpha that is not constant."""
    if kind is MapKind.OPACITY and facts.cut_out:
        return {kind: Imported(source=facts.sha256, channels="A")}
    grey = facts.spec.channels[0] == "Y"
    stated = normal_y or normal_y_from_name(Path(facts.name).stem) or NormalY.UP
    maps = {
        kind: Imported(
            source=facts.sha256,
            channels="R" if grey else "RGB",
            encoding=facts.spec.encoding,
            normal_y=stated,
        )
    }
    if kind is MapKind.BASE_COLOR and facts.cut_out:
        maps[MapKind.OPACITY] = Imported(source=facts.sha256, channels="A")
    return maps


def thumbnail(picture: Picture, side: int = 192) -> Picture:
    """A small 8-bit RGB copy for lists; float pictures are clipped to [0, 1] and sRGB-encoded."""
    codes = np.stack([picture.channel(name) for name in "RGB"], axis=2)
    linear = decode_color(codes, picture.encoding is Encoding.SRGB)
    width, height = fit_size(*picture.size, min(side, max(picture.size)))
    small = resize(Raster(linear, Meaning.COLOR), width, height).pixels
    return Picture(
        quantize(linear_to_srgb(np.clip(small, 0, 1)), 8), ("R", "G", "B"), Encoding.SRGB
    )
