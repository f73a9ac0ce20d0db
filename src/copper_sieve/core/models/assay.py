"""The result of an assay: every file reopened, every channel compared."""

from __future__ import annotations

from pydantic import AliasChoices, Field

from copper_sieve.core.models.base import Model


class ChannelCheck(Model):
    """One channel compared with its expected content; for lossy files, with that before writing.

    largest, mean : differences in codes; None if only a checksum is available
    """

    channel: str
    holds: str
    ok: bool
    largest: int | float | None
    mean: float | None


class FileCheck(Model):
    """One file: its channels, and descriptions of its problems.

    reader : library that read it back; own_reader : read by the code that wrote it
    """

    name: str
    ok: bool
    reader: str = ""
    own_reader: bool = False
    channels: tuple[ChannelCheck, ...] = ()
    problems: tuple[str, ...] = ()


class Assay(Model):
    """Verification of a delivered folder. `unknown` are files that aren't in the manifest."""

    set: str
    target: str
    ok: bool
    files: tuple[FileCheck, ...]
    unknown: tuple[str, ...] = Field(default=(), validation_alias=AliasChoices("unknown", "strays"))

    def own_readers(self) -> list[str]:
        """Return the files that could only be read back with the code that wrote them."""
        return [file.name for file in self.files if file.own_reader]

    def problems(self) -> list[str]:
        """Return all problems, one line each, with file and channel."""
        return [f"{file.name}: {text}" for file in self.files for text in file.problems]
