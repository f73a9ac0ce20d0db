"""Running one operation on arrays, and fields whose results are known."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np

from copper_sieve.core.baking import OnModel
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.operations import Operation, SurfaceContext, get_operation
from copper_sieve.core.operations.measured.from_captures import MEASURED
from tests.core.mesh.solids import ball

TILE = SurfaceContext.of(tile_size=1.0, depth=0.05, wrap=True)


def run(
    name: str,
    source: np.ndarray,
    surface: SurfaceContext = TILE,
    *,
    also: dict[str, np.ndarray] | None = None,
    **given: object,
) -> np.ndarray:
    """Compute with `source` as the first input (or required slot) and `also` as further ones."""
    operation = get_operation(name)
    first = operation.inputs[0] if operation.inputs else operation.slots[0].name
    inputs = {first: source, **(also or {})}
    return operation.compute(inputs, operation.resolve(given), surface)


@cache
def two_balls() -> tuple[Mesh, Mesh]:
    """A coarse ball, and a finer one with colors that lies a little above it."""
    fine = ball(0.51, rings=24)
    return ball(0.5, rings=12), replace(fine, colors=np.full_like(fine.positions, 0.25))


def on_ball(surface: SurfaceContext, shape: tuple[int, int]) -> SurfaceContext:
    """The same surface on a ball with a detailed version, for operations that take from a model."""
    simple, high_poly = two_balls()
    model = OnModel(simple, shape[1], shape[0], high_poly=high_poly)
    return replace(surface, model=model)


def any_inputs(
    operation: Operation, shape: tuple[int, int], seed: int = 0
) -> dict[str, np.ndarray]:
    """Random pixels for every input and every slot of an operation."""
    rng = np.random.default_rng(seed)
    kinds = {kind.value: kind for kind in operation.inputs}
    operation = operation.making(operation.kinds[0])
    kinds |= {slot.name: slot.takes for slot in operation.slots}
    found = {name: random_map(rng, kind, shape) for name, kind in kinds.items()}
    if operation.takes_from == "captures":
        kinds = {"normal": MapKind.NORMAL, "color": MapKind.BASE_COLOR, "rough": MapKind.ROUGHNESS,
                 "uncertainty": MapKind.UNCERTAINTY, "confidence": MapKind.UNCERTAINTY,
                 "f0": MapKind.F0}  # fmt: skip
        each = [random_map(rng, kind, shape) for kind in kinds.values()]
        found[MEASURED] = np.concatenate(each, axis=2, dtype=np.float32)
    return found


def random_map(rng: np.random.Generator, kind: MapKind, shape: tuple[int, int]) -> np.ndarray:
    """Random pixels of a kind: unit vectors with z >= 0 for normals."""
    pixels = rng.random((*shape, len(kind.facts.components)))
    if kind.facts.meaning is Meaning.NORMAL:
        pixels[:, :, :2] = pixels[:, :, :2] * 2 - 1
        pixels /= np.linalg.norm(pixels, axis=2, keepdims=True)
    return pixels.astype(np.float32)


def angles(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Degrees between unit vectors."""
    return np.degrees(np.arccos(np.clip((a * b).sum(axis=2), -1, 1)))


def slopes(normals: np.ndarray) -> np.ndarray:
    """x/z and y/z."""
    return normals[:, :, :2] / normals[:, :, 2:]


def grey(values: np.ndarray) -> np.ndarray:
    """(H, W) as a grey picture in linear light."""
    return np.repeat(values[:, :, None], 3, axis=2).astype(np.float32)


def band_limited(seed: int, side: int, *, wrap: bool = True) -> np.ndarray:
    """A smooth random field in [0, 1], (side, side) float32; cut out of a larger one to end."""
    whole = side if wrap else 2 * side
    rng = np.random.default_rng(seed)
    spectrum = np.fft.rfft2(rng.normal(size=(whole, whole)))
    f = np.hypot(np.fft.fftfreq(whole)[:, None], np.fft.rfftfreq(whole)[None])
    spectrum *= np.where((f > 0) & (f < 0.15), np.maximum(f, 1 / whole) ** -1.5, 0)
    field = np.fft.irfft2(spectrum, s=(whole, whole))[:side, :side]
    return ((field - field.min()) / np.ptp(field)).astype(np.float32)
