"""The ICC profile that marks sRGB in formats without a color-space field."""

from __future__ import annotations

import struct
from functools import cache
from typing import Any, cast

from copper_sieve.core.image.raster import Encoding, Picture

_DATE = slice(24, 36)  # when a profile was made; fixed, so that the same picture is the same file


@cache
def srgb_profile() -> bytes:
    """Return an ICC profile of sRGB (IEC 61966-2-1), always with the same bytes."""
    from PIL import ImageCms

    made = ImageCms.ImageCmsProfile(cast(Any, ImageCms.createProfile("sRGB")))
    profile = bytearray(made.tobytes())
    profile[_DATE] = struct.pack(">6H", 2026, 1, 1, 0, 0, 0)
    return bytes(profile)


def profile_of(picture: Picture) -> bytes | None:
    """Return the profile to embed for a picture: sRGB for colors, None for data."""
    colors = picture.codes.shape[2] >= 3 and picture.encoding is Encoding.SRGB
    return srgb_profile() if colors else None
