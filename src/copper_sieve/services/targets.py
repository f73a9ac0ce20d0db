"""Targets: the built-in ones and people's own; trying one on a set before anything is written."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.codecs.png_writing import encode_png
from copper_sieve.core.errors import ConflictError, SieveError, UnknownTargetError
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.pipeline.evaluate import evaluate
from copper_sieve.core.pipeline.file_maps import FileMaps
from copper_sieve.core.pipeline.pack import pack
from copper_sieve.core.pipeline.packed import PackedFile, Packing
from copper_sieve.core.pipeline.plan import plan
from copper_sieve.core.pipeline.proof import BEFORE, Proof, prove
from copper_sieve.core.presets.catalog import builtin_targets
from copper_sieve.core.presets.memory import Memory, memory_of
from copper_sieve.core.presets.target_preset import TargetPreset
from copper_sieve.core.presets.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store import targets
from copper_sieve.store.database import Row, Transaction
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import get_set

_PICTURE_SIDE = 160
_WORKING_SIDE = 512


@dataclass(frozen=True, slots=True)
class Target:
    """A preset; `version` is 0 for a built-in one, which cannot be changed."""

    preset: TargetPreset
    version: int


@dataclass(frozen=True, slots=True)
class TriedFile:
    """A file that the target would write of a set.

    picture : PNG of its R, G, B (or grey); alpha : PNG of its A, None without
    """

    file: PackedFile
    memory: Memory
    picture: bytes
    alpha: bytes | None


@dataclass(frozen=True, slots=True)
class TriedProof:
    """The set's material and the target's under one shader (PNG), and how different they look.

    mean, largest : CIEDE2000
    """

    before: bytes
    after: bytes
    mean: float
    largest: float


@dataclass(frozen=True, slots=True)
class Trial:
    """A target tried on a set: its files, or what is in the way."""

    files: tuple[TriedFile, ...]
    packing: Packing | None
    error: str | None
    proof: TriedProof | None = None


def all_targets(connection: Transaction) -> dict[str, Target]:
    """Every target by id: the built-in ones, then people's own."""
    found = {id: Target(preset, 0) for id, preset in builtin_targets().items()}
    for row in targets.list_targets(connection):
        found[row["id"]] = _target(row)
    return found


def find_target(connection: Transaction, target_id: str) -> TargetPreset:
    """The preset of that id. Raises UnknownTargetError that lists what there is."""
    found = all_targets(connection)
    if target_id not in found:
        raise UnknownTargetError(
            f"there is no target {target_id}; choose one of {', '.join(found)}"
        )
    return found[target_id].preset


def list_all(context: Context) -> list[Target]:
    """Every target, the built-in ones first."""
    with context.database.transaction() as connection:
        return list(all_targets(connection).values())


def add(context: Context, preset: TargetPreset) -> Target:
    """Keep a new target. Raises ConflictError where its id is taken."""
    if preset.id in builtin_targets():
        raise ConflictError(f"{preset.id} is a built-in target: choose another id")
    with context.database.transaction() as connection:
        return _target(targets.add_target(connection, preset))


def change(context: Context, version: int, preset: TargetPreset) -> Target:
    """Change an own target. Raises ConflictError, UnknownTargetError."""
    if preset.id in builtin_targets():
        raise ConflictError(f"{preset.id} is built in: copy it, and change the copy")
    with context.database.transaction() as connection:
        return _target(targets.update_target(connection, version, preset))


def forget(context: Context, target_id: str) -> None:
    """Take an own target out; what was delivered stays. Raises UnknownTargetError."""
    with context.database.transaction() as connection:
        targets.delete_target(connection, target_id)


def try_on(context: Context, preset: TargetPreset, set_id: int) -> Trial:
    """What a target would write of a set, with small pictures of it. Raises NotFoundError."""
    with context.database.transaction() as connection:
        texture_set = SetDefinition.model_validate(get_set(connection, set_id)["definition"])
        sizes = source_sizes(connection, texture_set.sources())
    try:
        packing = pack(preset, texture_set, sizes)
        side = min(_PICTURE_SIDE, max(packing.size))
        small = pack(preset, texture_set, sizes, longer_side=side)
        wanted = dict.fromkeys(
            (*small.wanted, *(kind for kind in BEFORE if kind in small.texture_set.maps))
        )
        graph = plan(
            small.texture_set, sizes, wanted=wanted, longer_side=side,
            working_side=_WORKING_SIDE, reduction=small.reduction,
        )  # fmt: skip
        rasters = evaluate(graph, context.load_source, cache=context.memory)
    except SieveError as error:
        return Trial((), None, error.message)
    files, pictures = [], {}
    maps = FileMaps(small, rasters)
    for whole, reduced in zip(packing.files, small.files, strict=True):
        picture = pictures[reduced.name] = maps.picture(reduced)
        alpha = picture.codes[:, :, 3:] if picture.codes.shape[2] == 4 else None
        files.append(
            TriedFile(
                whole,
                memory_of(whole.slots, *whole.size, whole.spec.block),
                _png(picture.codes[:, :, :3]),
                None if alpha is None else _png(alpha),
            )
        )
    return Trial(tuple(files), packing, None, _proved(prove(small, rasters, pictures)))


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


def _target(row: Row) -> Target:
    return Target(TargetPreset.model_validate(row["definition"]), row["version"])
