"""Files to codes and back, one module per format; a spec comes before the pixels."""

from copper_sieve.core.codecs.codec import Codec, Format, Writing
from copper_sieve.core.codecs.reading import compression_loss, read_picture, read_spec, reopen
from copper_sieve.core.codecs.registry import CODECS, FORMATS, writer_for_suffix
from copper_sieve.core.codecs.spec import DEFAULT_LIMITS, Limits, PictureSpec
from copper_sieve.core.codecs.writing import write_picture

__all__ = [
    "CODECS",
    "DEFAULT_LIMITS",
    "FORMATS",
    "Codec",
    "Format",
    "Limits",
    "PictureSpec",
    "Writing",
    "compression_loss",
    "read_picture",
    "read_spec",
    "reopen",
    "write_picture",
    "writer_for_suffix",
]
