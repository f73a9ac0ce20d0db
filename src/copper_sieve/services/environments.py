"""Environments: import, conversion to lighting, removal."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from copper_sieve.core.codecs import read_picture, write_picture
from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import ShapeError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.encoding import decode_color
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.panorama import brightest_direction, check_panorama, from_mirror_ball
from copper_sieve.core.image.raster import Encoding, Float, Picture, Raster
from copper_sieve.core.image.resize import resize
from copper_sieve.core.ingest.sources import file_facts, thumbnail
from copper_sieve.core.lighting.environment import LEVELS, Environment
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services.context import Context
from copper_sieve.services.progress import UNTOLD, Progress
from copper_sieve.store import environments as store
from copper_sieve.store.disk_use import delete_unused
from copper_sieve.store.environments import EnvironmentKind, StoredEnvironment
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import add_source

MEAN_LIGHT = 0.5  # mean luminance of the built-in environments, also used by the lit view
LIGHT_WIDTH = 1024  # width of the lighting in texels
_BRIGHTEST = np.float32(65504)


def import_environment(  # noqa: PLR0917
    context: Context, project_slug: str, path: Path, name: str, kind: EnvironmentKind,
    progress: Progress = UNTOLD,
) -> StoredEnvironment:  # fmt: skip
    """Store a panorama, or the photo of a mirror ball cropped to it.

    Raises PictureError, ShapeError with the file's name; then nothing is stored.
    """
    renamed = path.with_name(safe_file_name(name))
    path.rename(renamed)
    progress.report(0.05, f"Reading {renamed.name}")
    spec, picture = read_picture(renamed, context.settings.limits)
    width, height = picture.size
    progress.report(0.4, f"Computing the lighting of {width} × {height} texels")
    try:
        with computing:
            lamp, strength, mean = brightest_direction(_small(picture, kind))
    except ShapeError as error:
        raise ShapeError(f"{renamed.name}: {error.message}") from error
    progress.report(0.8, "Storing the file")
    sha256, size = file_sha256(renamed), renamed.stat().st_size
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        add_source(
            connection, renamed, sha256=sha256, name=renamed.name,
            facts=file_facts(spec, renamed.name, size), thumbnail=encode_png(thumbnail(picture)),
        )  # fmt: skip
        kept = store.add_environment(
            connection, project.id, sha256, renamed.name, kind, lamp, strength, mean
        )
        progress.finish(connection, {"environment_id": kept.id})
        return kept


def of_project(context: Context, project_slug: str) -> list[StoredEnvironment]:
    """Return the environments of a project by name. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return store.list_environments(connection, get_project(connection, project_slug).id)


def light_of(context: Context, environment_id: int) -> bytes:
    """Return the lighting as a Radiance HDR file, 1024 x 512. Raises NotFoundError."""
    with context.database.transaction() as connection:
        kept = store.get_environment(connection, environment_id)
    picture = context.load_source(kept.sha256)
    with computing:
        light = _small(picture, kept.kind)
    with context.incoming() as folder:
        path = folder / "light.hdr"
        write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
        return path.read_bytes()


def for_shader(context: Context, environment_id: int) -> Environment:
    """Return an environment for the reference shader, normalized in brightness; cached.

    Raises NotFoundError.
    """
    with context.database.transaction() as connection:
        kept = store.get_environment(connection, environment_id)
    strength = MEAN_LIGHT / max(kept.mean, 1e-6)
    names = [f"surrounding {kept.sha256} {kept.kind} {n}" for n in range(1 + LEVELS)]
    held = [context.memory.get(name) for name in names]
    there = [one for one in held if one is not None]
    if len(there) == len(names):
        return Environment(there[0], tuple(there[1:]))
    picture = context.load_source(kept.sha256)
    with computing:
        made = Environment.of(_small(picture, kept.kind), strength=strength)
    for name, pixels in zip(names, (made.harmonics, *made.levels), strict=True):
        context.memory.put(name, pixels)
    return made


def delete(context: Context, environment_id: int) -> None:
    """Remove an environment from its project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        sha256 = store.delete_environment(connection, environment_id)
        delete_unused(connection, seconds=0, only=[sha256])


def _small(picture: Picture, kind: EnvironmentKind) -> Float:
    """Return (512, 1024, 3) float32 in linear light, finite."""
    width, height = picture.size
    if kind == "panorama":
        check_panorama(width, height)
    names = "RGB" if {"R", "G", "B"} <= set(picture.channels) else "YYY"
    codes = np.stack([picture.channel(one) for one in names], axis=2)
    if codes.dtype == np.float32:
        codes = np.nan_to_num(codes, nan=0.0, posinf=float(_BRIGHTEST), neginf=0.0)
        codes = np.clip(codes, 0, _BRIGHTEST)
    light = decode_color(codes, picture.encoding is Encoding.SRGB)
    if kind == "mirror_ball":
        return from_mirror_ball(np.ascontiguousarray(light), LIGHT_WIDTH)
    raster = Raster(np.ascontiguousarray(light), Meaning.COLOR)
    return np.ascontiguousarray(resize(raster, LIGHT_WIDTH, LIGHT_WIDTH // 2).pixels)
