"""Built-in and user-defined targets, and their preview with a set."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import ConflictError, SieveError, UnknownTargetError
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.export.file_maps import FileMaps, quantized_as_written
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Sizes
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.texture_set import SetDefinition, SurfaceSpec
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.core.targets.memory import Memory, memory_of
from copper_sieve.core.targets.target_preset import SizeRule, TargetPreset
from copper_sieve.core.tools.conversion_check import LIT, Proof, check_conversion, lit_maps
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.environments import for_shader
from copper_sieve.services.islands import coverage_of, known_models
from copper_sieve.store import targets
from copper_sieve.store.database import Transaction
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.targets import OwnTarget
from copper_sieve.store.texture_sets import get_set

_PICTURE_SIDE, _LIT_SIDE = 160, 512
_WORKING_SIDE = 512


@dataclass(frozen=True, slots=True)
class Target:
    """A preset; `version` is 0 for a built-in one, which can't be changed."""

    preset: TargetPreset
    version: int


@dataclass(frozen=True, slots=True)
class TriedFile:
    """A file that the target would write for a set.

    picture : PNG of its R, G, B (or gray); alpha : PNG of its A, None without
    """

    file: PackedFile
    memory: Memory
    picture: bytes
    alpha: bytes | None


@dataclass(frozen=True, slots=True)
class TriedProof:
    """The set's material and the target's under one shader (PNG), and their color difference.

    mean, largest : CIEDE2000
    """

    before: bytes
    after: bytes
    mean: float
    largest: float


@dataclass(frozen=True, slots=True)
class Trial:
    """Preview of a target with a set: its files, or the reason why it isn't possible."""

    files: tuple[TriedFile, ...]
    export: ExportPlan | None
    error: str | None
    proof: TriedProof | None = None


def all_targets(connection: Transaction) -> dict[str, Target]:
    """Return every target by id: the built-in ones, then user-defined ones."""
    found = {id: Target(preset, 0) for id, preset in builtin_targets().items()}
    for kept in targets.list_targets(connection):
        found[kept.preset.id] = _target(kept)
    return found


def find_target(connection: Transaction, target_id: str) -> TargetPreset:
    """Return the preset with an id. Raises UnknownTargetError, which lists the known ones."""
    found = all_targets(connection)
    if target_id not in found:
        raise UnknownTargetError(f"there is no target {target_id}. Available: {', '.join(found)}")
    return found[target_id].preset


def list_all(context: Context) -> list[Target]:
    """Return all targets, the built-in ones first."""
    with context.database.transaction() as connection:
        return list(all_targets(connection).values())


def add(context: Context, preset: TargetPreset) -> Target:
    """Store a new target. Raises ConflictError if its id is taken."""
    if preset.id in builtin_targets():
        raise ConflictError(f"{preset.id} is the id of a built-in target. Choose another id")
    with context.database.transaction() as connection:
        return _target(targets.add_target(connection, preset))


def change(context: Context, target_id: str, version: int, preset: TargetPreset) -> Target:
    """Change a user-defined target; with another id it is renamed, and its delivery folder changes.

    Delivered files stay in their folder and still count as this target's. Raises ConflictError,
    UnknownTargetError.
    """
    if target_id in builtin_targets():
        raise ConflictError(f"{target_id} is built in. Duplicate it and edit the copy")
    if preset.id != target_id and preset.id in builtin_targets():
        raise ConflictError(f"{preset.id} is the id of a built-in target. Choose another id")
    with context.database.transaction() as connection:
        if preset.id != target_id:
            targets.rename_target(connection, target_id, version, preset.id)
        return _target(targets.update_target(connection, version, preset))


def delete_target(context: Context, target_id: str) -> None:
    """Delete a custom target; delivered files stay. Raises UnknownTargetError."""
    with context.database.transaction() as connection:
        targets.delete_target(connection, target_id)


@dataclass(frozen=True, slots=True)
class LitProof:
    """Maps of the set, and maps read back from the target's files, for a lit view: PNG by kind."""

    before: dict[MapKind, bytes]
    after: dict[MapKind, bytes]
    surface: SurfaceSpec
    aspect: float


@dataclass(frozen=True, slots=True)
class _Small:
    """A target packed at small size for a set, with its maps and pictures of its files.

    For a set with tiles, the first tile is used.
    """

    export: ExportPlan
    rasters: dict[MapKind, Raster]
    pictures: dict[str, Picture]


def preview_target(
    context: Context, preset: TargetPreset, set_id: int, environment_id: int | None = None
) -> Trial:
    """Preview the files that a target would write for a set, with thumbnails. Raises NotFoundError.

    environment_id : lights the comparison; None: three lights
    """
    around = None if environment_id is None else for_shader(context, environment_id)
    texture_set, sizes, coverage = _set_of(context, set_id)
    try:
        export = plan_export(preset, texture_set, sizes, coverage=coverage).of_first_tile()
        small = _packed_small(context, preset, texture_set, sizes, coverage, _PICTURE_SIDE)
    except SieveError as error:
        return Trial((), None, error.message)
    files = []
    for whole, reduced in zip(export.files, small.export.files, strict=True):
        codes = small.pictures[reduced.name].codes
        files.append(
            TriedFile(
                whole,
                memory_of(whole.slots, *whole.size, whole.spec.block),
                _png(codes[:, :, :3]),
                _png(codes[:, :, 3:]) if codes.shape[2] == 4 else None,
            )
        )
    with computing:
        proof = check_conversion(small.export, small.rasters, small.pictures, around)
    return Trial(tuple(files), export, None, _proved(proof))


def lit_proof(context: Context, preset: TargetPreset, set_id: int) -> LitProof:
    """Return the maps of a proof for two lit views.

    Raises NotFoundError and the errors of an export.
    """
    texture_set, sizes, coverage = _set_of(context, set_id)
    small = _packed_small(context, preset, texture_set, sizes, coverage, _LIT_SIDE)
    with computing:
        before, after = lit_maps(small.export, small.rasters, small.pictures)
        shown = [{kind: encode_png(displayed(one)) for kind, one in maps.items()}
                 for maps in (before, after)]  # fmt: skip
    width, height = small.export.size
    return LitProof(shown[0], shown[1], small.export.texture_set.surface, width / height)


def _set_of(context: Context, set_id: int) -> tuple[SetDefinition, Sizes, Coverage | None]:
    with context.database.transaction() as connection:
        texture_set = get_set(connection, set_id).definition()
        coverage = coverage_of(context, texture_set, known_models(connection, [texture_set]))
        return texture_set, source_sizes(connection, texture_set.sources()), coverage


def _packed_small(  # noqa: PLR0917
    context: Context,
    preset: TargetPreset,
    texture_set: SetDefinition,
    sizes: Sizes,
    coverage: Coverage | None,
    most: int,
) -> _Small:
    whole = plan_export(preset, texture_set, sizes, coverage=coverage)
    # With equal sizes, so that decoded files can be compared with the maps.
    files = [one.model_copy(update={"size": SizeRule()}) for one in preset.files]
    even = preset.model_copy(update={"files": tuple(files)})
    side = min(most, max(whole.size))
    small = plan_export(even, texture_set, sizes, longer_side=side, coverage=coverage)
    small = small.of_first_tile()
    wanted = dict.fromkeys(
        (*small.wanted, *(kind for kind in LIT if kind in small.texture_set.maps))
    )
    graph = plan(
        small.texture_set, sizes, wanted=wanted, longer_side=small.computed,
        compute_side=max(_WORKING_SIDE, side), reduction=small.reduction,
        geometry=small.geometry,
    )  # fmt: skip
    rasters = evaluate(graph, context.load_source, context.load_model, cache=context.memory)
    small = small.with_depth(rasters.depth)
    maps = FileMaps(small, rasters)
    pictures = {
        file.name: quantized_as_written(maps.picture(file), file.spec) for file in small.files
    }
    if sheet := small.geometry.sheet:
        first = sheet.numbers[0]
        cut = {
            kind: Raster(sheet.cut(one.pixels, first), one.meaning) for kind, one in rasters.items()
        }
        return _Small(small, cut, pictures)
    return _Small(small, rasters, pictures)


def _proved(proof: Proof | None) -> TriedProof | None:
    if proof is None:
        return None
    before, after = (_png(quantize(linear_to_srgb(np.clip(one, 0, 1)), 8))
                     for one in (proof.before, proof.after))  # fmt: skip
    return TriedProof(before, after, proof.mean, proof.largest)


def _png(codes: np.ndarray) -> bytes:
    if codes.dtype == np.float32:
        codes = quantize(codes, 8)
    elif codes.dtype != np.uint8:
        codes = quantize(codes / np.float32(65535), 8)
    names = ("Y",) if codes.shape[2] == 1 else ("R", "G", "B")
    return encode_png(Picture(np.ascontiguousarray(codes), names, Encoding.LINEAR))


def _target(kept: OwnTarget) -> Target:
    return Target(kept.preset, kept.version)
