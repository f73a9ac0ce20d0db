"""Import of a model: a single file, or a zip archive with the files that it refers to."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path, PurePosixPath

from copper_sieve.core.codecs.meshes.limits import MODEL_ENDINGS, ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import ModelTooLargeError, NotAModelError, PictureTooLargeError
from copper_sieve.core.ingest.unpack import archive_errors, files_in
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.untrusted_paths import inside_archive


def read_model_file(
    path: Path,
    into: Path,
    limits: ModelLimits | None = None,
    on_progress: Callable[[float], None] = lambda _: None,
) -> Mesh:
    """Return the triangles of a model file, or of the single model in an archive.

    Parameters
    ----------
    path : of the file
    into : existing empty folder for the contents of an archive
    limits : largest size of the file and the mesh
    on_progress : called with the completed share, [0, 1], if the format allows it

    Raises
    ------
    MeshError
    """
    return read_model(model_in(path, into, limits or ModelLimits()), limits, on_progress)


def model_in(path: Path, into: Path, limits: ModelLimits) -> Path:
    """Return the path of a model: the file itself, or the unpacked one from an archive.

    Raises
    ------
    NotAModelError : if the archive contains no model, or several
    ModelTooLargeError
    """
    if not zipfile.is_zipfile(path):
        return path
    try:
        with archive_errors(path.name, NotAModelError), zipfile.ZipFile(path) as archive:
            entries = files_in(archive, path)
            expanded = sum(one.file_size for one in entries)
            if expanded > limits.max_bytes:
                raise ModelTooLargeError(
                    f"{path.name} would expand to {expanded / 1e6:.0f} MB; the limit "
                    f"is {limits.max_bytes / 1e6:.0f} MB. Remove unneeded files, or "
                    "raise SIEVE_MAX_MODEL_BYTES"
                )
            models = [one for one in entries if _is_model(one.filename)]
            if len(models) != 1:
                held = ", ".join(PurePosixPath(one.filename).name for one in models[:6]) or "none"
                raise NotAModelError(
                    f"{path.name} must contain one model ({', '.join(MODEL_ENDINGS)}); it "
                    f"contains {held}"
                )
            for entry in entries:
                _unpack(archive, entry, into)
    except PictureTooLargeError as error:  # of the archive's own checks
        raise ModelTooLargeError(error.message) from error
    return into / inside_archive(models[0].filename)


def _is_model(name: str) -> bool:
    inner = inside_archive(name)
    hidden = inner.name.startswith(".") or "__MACOSX" in inner.parts
    return inner.suffix.lower() in MODEL_ENDINGS and not hidden


def _unpack(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, into: Path) -> None:
    target = into / inside_archive(entry.filename)
    target.parent.mkdir(parents=True, exist_ok=True)
    with archive.open(entry) as source, target.open("wb") as file:
        shutil.copyfileobj(source, file, 1 << 20)
