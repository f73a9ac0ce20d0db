"""Limits the memory of concurrent decoding: small files can contain huge pictures.

The decoded size is known from the spec before decoding. Pictures above the limit are rejected;
others wait until they fit together.
"""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from pathlib import Path

from copper_sieve.core.codecs.spec import Limits, PictureSpec
from copper_sieve.core.errors import PictureTooLargeError

MOST_CHANNELS = 4  # that are kept of a file


def decoded_bytes(spec: PictureSpec) -> int:
    """Return the memory of a picture's codes in bytes."""
    each = 4 if spec.floating or spec.bit_depth > 16 else 1 if spec.bit_depth <= 8 else 2
    return spec.width * spec.height * min(len(spec.channels), MOST_CHANNELS) * each


def check_decoded(path: Path, spec: PictureSpec, limits: Limits) -> None:
    """Check that a decoded picture fits the limit, before decoding it.

    Raises
    ------
    PictureTooLargeError
    """
    size = decoded_bytes(spec)
    if size > limits.max_decoded:
        raise PictureTooLargeError(
            f"{path.name} is {size / 1e6:.0f} MB when decoded ({spec.width} x "
            f"{spec.height}); the limit is {limits.max_decoded / 1e6:.0f} MB. Reduce "
            "it, or raise SIEVE_MAX_DECODED"
        )


class Gate:
    """Limits the bytes in progress; a single larger item is allowed alone."""

    def __init__(self) -> None:
        self._under_way: list[int] = []
        self._changed = threading.Condition()

    @contextlib.contextmanager
    def taking(self, size: int, most: int) -> Iterator[None]:
        """Wait until `size` bytes are available, then reserve them during the `with` block."""
        with self._changed:
            while self._under_way and sum(self._under_way) + size > most:
                self._changed.wait()
            self._under_way.append(size)
        try:
            yield
        finally:
            with self._changed:
                self._under_way.remove(size)
                self._changed.notify_all()


decoding = Gate()
