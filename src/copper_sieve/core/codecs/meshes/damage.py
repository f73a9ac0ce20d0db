"""Convert exceptions of reading a glTF file to model errors."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from copper_sieve.core.codecs.gltf_file import UNREADABLE
from copper_sieve.core.errors import DamagedModelError, PictureError


@contextmanager
def reported_as_damaged(name: str) -> Iterator[None]:
    """Convert exceptions of `GltfFile` in the `with` block to DamagedModelError."""
    try:
        yield
    except PictureError as error:
        raise DamagedModelError(error.message) from error
    except RecursionError as error:
        raise DamagedModelError(f"{name} is nested too deeply. Export it again") from error
    except UNREADABLE as error:
        raise DamagedModelError(
            f"{name} isn't a valid glTF file ({str(error)[:200]}). Export it again"
        ) from error
