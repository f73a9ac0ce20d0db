"""Files to codes and back, one module per family of formats; a spec comes before the pixels."""

from copper_sieve.core.codecs.formats import FORMATS, Writing
from copper_sieve.core.codecs.reading import read_picture, read_spec, reopen
from copper_sieve.core.codecs.spec import DEFAULT_LIMITS, Limits, PictureSpec
from copper_sieve.core.codecs.writing import write_picture

__all__ = [
    "DEFAULT_LIMITS",
    "FORMATS",
    "Limits",
    "PictureSpec",
    "Writing",
    "read_picture",
    "read_spec",
    "reopen",
    "write_picture",
]
