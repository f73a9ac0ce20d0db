"""Overrides of a target in a project."""

from __future__ import annotations

from pydantic import Field, ValidationError

from copper_sieve.core.codecs import FORMATS
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.slot import Padding
from copper_sieve.core.targets.target_preset import FileSpec, SizeRule, TargetPreset


class TargetOptions(Model):
    """Overrides of a target.

    longer_side : texels of the longer side of every file with the target's size
    format : format of all files
    off : files that aren't written, by suffix, or by name pattern without one
    copy_to : URL of a second destination, with the same layout
    """

    longer_side: int | None = Field(default=None, ge=1, le=16384)
    format: str | None = None
    padding: Padding | None = None
    off: tuple[str, ...] = ()
    copy_to: str | None = Field(default=None, max_length=2000)

    def switched_off(self, preset: TargetPreset) -> set[MapKind]:
        """Return the maps of the files that aren't written."""
        files = [file for file in preset.files if name_of(file) in self.off]
        return {kind for file in files for slot in file.channels.values() for kind in slot.maps}

    def of(self, preset: TargetPreset) -> TargetPreset:
        """Apply the overrides to a target.

        Raises
        ------
        ParameterError : if the result is invalid
        """
        files = [file for file in preset.files if name_of(file) not in self.off]
        if not files:
            raise ParameterError(f"{preset.title} wouldn't write any files. Keep at least one file")
        held = preset.model_dump(mode="json")
        held["files"] = [
            file.model_dump(mode="json") if self.format is None else _as(file, self.format)
            for file in files
        ]
        if self.longer_side is not None:
            held["size"] = SizeRule(mode="fixed", longer_side=self.longer_side).model_dump()
        if self.padding is not None:
            held["padding"] = self.padding.model_dump(mode="json")
        try:
            return TargetPreset.model_validate(held)
        except ValidationError as error:
            reason = error.errors()[0]["msg"].removeprefix("Value error, ")
            raise ParameterError(f"invalid target {preset.title}: {reason}") from error


def name_of(file: FileSpec) -> str:
    """Return the name by which a file of a target is switched off."""
    return file.suffix or file.name


def _as(file: FileSpec, format_: str) -> dict[str, object]:
    """Return the file in another format, with the most similar supported settings."""
    held = file.model_dump(mode="json")
    if format_ == file.format:
        return held
    known = FORMATS.get(format_)
    if known is None:
        raise ParameterError(f"{format_} isn't an output format. Use {', '.join(FORMATS)}")
    bits = file.bits if file.bits in known.bits else max(known.bits)
    linear = bits in known.floating_bits
    held |= {
        "format": format_,
        "bits": bits,
        "encoding": Encoding.LINEAR if linear else file.encoding,
        "compression": None,
        "quality": None,
        "mips": file.mips and known.mips and (known.tiles is False or file.tiles),
        "tiles": file.tiles and known.tiles,
        "dither": file.dither and bits == 8,
    }
    return held
