"""Import: facts about a file, and the maps that it contributes to a set."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs import Limits, PictureSpec, compression_loss, read_picture
from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.detection.classify import (
    likely_green_direction,
    recognize_picture,
    stated_green_direction,
)
from copper_sieve.core.detection.content import measure_content
from copper_sieve.core.detection.light import LightEstimate, estimate_light
from copper_sieve.core.detection.names import normal_y_from_name
from copper_sieve.core.detection.tiling import Tiling, measure_tiling
from copper_sieve.core.image.encoding import decode_color, linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.image.resize import area_average, fit_size, resize
from copper_sieve.core.models.assignment import Assignment, imports_of
from copper_sieve.core.models.file_facts import FileFacts, LightFacts, TilingFacts
from copper_sieve.core.models.texture_set import Imported, SurfaceSpec

_GUIDES = (MapKind.BASE_COLOR, MapKind.DIFFUSE)


@dataclass(frozen=True, slots=True)
class SourceFacts:
    """A readable file: identity, facts, and measurements of its values.

    cut_out : alpha isn't constant
    two_channels : as normals, it has no z
    tiling : tileable directions
    light : direction of the light
    """

    sha256: str
    name: str
    bytes: int
    spec: PictureSpec
    cut_out: bool
    two_channels: bool = False
    tiling: Tiling | None = None
    light: LightEstimate | None = None

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels."""
        return self.spec.width, self.spec.height

    def file_facts(self) -> FileFacts:
        """Return the stored form of the file facts."""
        return file_facts(self.spec, self.name, self.bytes).model_copy(
            update={
                "cut_out": self.cut_out,
                "tiling": tiling_facts(self.tiling) if self.tiling else None,
                "light": light_facts(self.light) if self.light else None,
            }
        )


def file_facts(spec: PictureSpec, name: str, size: int) -> FileFacts:
    """Return the facts of a file before its picture is analyzed; size in bytes."""
    return FileFacts(
        file_name=name,
        format=spec.format,
        width=spec.width,
        height=spec.height,
        channels=tuple(spec.channels),
        bit_depth=spec.bit_depth,
        floating=spec.floating,
        encoding=spec.encoding,
        encoding_source=spec.encoding_source,
        bytes=size,
    )


def tiling_facts(tiling: Tiling) -> TilingFacts:
    """Return the stored form: numbers with three decimals."""
    return TilingFacts(
        wrap=tiling.wrap.spec,
        across=round(tiling.across, 3),
        down=round(tiling.down, 3),
        text=tiling.text(),
    )


def light_facts(light: LightEstimate) -> LightFacts:
    """Return the stored form: whole degrees."""
    return LightFacts(
        azimuth=round(light.azimuth), strength=round(light.strength, 2), lit=light.lit
    )


def examine(path: Path, limits: Limits, name: str | None = None) -> tuple[SourceFacts, Picture]:
    """Read a file once; return its facts and codes.

    Raises
    ------
    PictureError : with the reason
    """
    spec, picture = read_picture(path, limits)
    facts = SourceFacts(
        file_sha256(path), name or path.name, path.stat().st_size, spec,
        is_cut_out(picture), _has_two_channels(picture), measure_tiling(picture),
        estimate_light(picture),
    )  # fmt: skip
    return facts, picture


def imported_maps(
    facts: SourceFacts, kind: MapKind, normal_y: NormalY | None = None
) -> dict[MapKind, Imported]:
    """Return the maps of a file with an assigned type; see `imports_of`."""
    stated = normal_y or normal_y_from_name(Path(facts.name).stem)
    assignment = Assignment(
        set_name="one", map=kind, normal_y=stated, two_channels=facts.two_channels
    )
    return imports_of(
        assignment, facts.sha256, facts.spec.channels, facts.spec.encoding, cut_out=facts.cut_out
    )


def surface_of_sources(facts: Iterable[tuple[MapKind, SourceFacts]]) -> SurfaceSpec:
    """Return the surface of a new set: tileable like its base color or largest picture."""
    best = max(facts, key=lambda one: leading_source(one[0], *one[1].size), default=None)
    tiling = best[1].tiling if best else None
    return SurfaceSpec(wrap=tiling.wrap.spec if tiling else False)


def leading_source(kind: object, width: int, height: int) -> tuple[bool, int]:
    """Return the priority of a picture for a new set's surface: color first, then size."""
    return kind in _GUIDES, width * height


def measured_green(path: Path, facts: SourceFacts, picture: Picture) -> NormalY | None:
    """Return the green direction as measured, or else as the name states; None if unknown."""
    loss = compression_loss(path, facts.spec.format)
    return stated_green_direction(recognize_picture(Path(facts.name).stem, picture, loss=loss))


def likely_green(path: Path, facts: SourceFacts, picture: Picture) -> tuple[NormalY, str]:
    """Return the green direction to use, and a description of the guess, or "" if there is none."""
    loss = compression_loss(path, facts.spec.format)
    return likely_green_direction(recognize_picture(Path(facts.name).stem, picture, loss=loss))


def is_cut_out(picture: Picture) -> bool:
    """Return True if the alpha channel isn't constant."""
    if "A" not in picture.channels:
        return False
    alpha = picture.channel("A")
    return bool(alpha.min() != alpha.max())


def _has_two_channels(picture: Picture) -> bool:
    if "B" not in picture.channels:
        return False
    blue = picture.channel("B")
    return bool(blue.min() == blue.max()) and measure_content(picture).vectors == "two_channels"


def thumbnail(picture: Picture, side: int = 192) -> Picture:
    """Return a small 8-bit RGB copy; floating-point pictures are clipped and sRGB-encoded."""
    # Where so many texels become one, averaging codes instead of light is seen by nobody.
    codes = np.stack([area_average(picture.channel(name), 8 * side) for name in "RGB"], axis=2)
    linear = decode_color(codes, picture.encoding is Encoding.SRGB)
    width, height = fit_size(*picture.size, min(side, max(picture.size)))
    small = resize(Raster(linear, Meaning.COLOR), width, height).pixels
    return Picture(
        quantize(linear_to_srgb(np.clip(small, 0, 1)), 8), ("R", "G", "B"), Encoding.SRGB
    )
