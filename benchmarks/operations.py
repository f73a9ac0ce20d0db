"""Time each operation in passes, next to a plain implementation.

A pass is one float32 read and write of a picture of that size: ratios are comparable between
machines. Each value is the median of the runs, with the pass measured before each. The plain
implementation uses NumPy, SciPy and OpenCV (benchmarks/plainly.py) and runs once.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import cv2
import numpy as np

from benchmarks.plainly import PLAINLY
from copper_sieve.core.image.blue_noise import dithered_codes
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.padding import pad_coverage
from copper_sieve.core.image.raster import Raster
from copper_sieve.core.image.reduction import mip_chain
from copper_sieve.core.operations import OPERATIONS, Operation, SurfaceContext
from copper_sieve.core.operations.color.ranges import value_from_range
from copper_sieve.core.operations.normal.blend_normals import blend_normals

QUICK = (256, 1)

SURFACE = SurfaceContext.of(1.0, 0.02, wrap=True)


def seconds(work: Callable[[], object]) -> float:
    """Wall time of one call."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def photo(side: int) -> np.ndarray:
    """A bumpy picture in linear light, (side, side, 3) float32."""
    rng = np.random.default_rng(1)
    r, c = np.mgrid[0:side, 0:side].astype(np.float32) / side
    waves = 0.4 + 0.2 * np.sin(190 * c) * np.cos(170 * r)
    waves += 0.05 * rng.standard_normal((side, side), dtype=np.float32)
    return np.repeat(np.clip(waves, 0, 1)[:, :, None], 3, axis=2).astype(np.float32)


class Bench:
    """Prints a line per measured thing."""

    def __init__(self, side: int, runs: int) -> None:
        self._source = np.zeros((side, side), dtype=np.float32)
        self._target = np.empty_like(self._source)
        self._runs = runs

    def one_pass(self) -> None:
        """The yardstick."""
        np.copyto(self._target, self._source)

    def line(self, name: str, work: Callable[[], object], plain: Callable[[], object]) -> None:
        """Measure ours and the straightforward version."""
        work()  # compiled, and its memory touched, before it is timed
        pairs = [(seconds(self.one_pass), seconds(work)) for _ in range(self._runs)]
        taken = np.median([mine for _, mine in pairs])
        ratio = np.median([mine / single for single, mine in pairs])
        other = seconds(plain)
        single = np.median([single for single, _ in pairs])
        print(
            f"{name:32} {taken * 1000:6.0f} ms {ratio:6.1f} passes   plainly {other * 1000:7.0f} ms"
            f" {other / single:7.1f} passes   {other / taken:6.1f} x",
            flush=True,
        )


def main(side: int = 4096, runs: int = 5) -> None:
    """Print a line per operation."""
    color = photo(side)
    maps: dict[str, np.ndarray] = {"photo": color, "picture": color, MapKind.BASE_COLOR: color}
    maps[MapKind.GLOSSINESS] = maps[MapKind.SPECULAR_LEVEL] = maps["map"] = np.ascontiguousarray(
        color[:, :, :1]
    )
    print(f"{side} x {side}, median of {runs} runs")
    bench = Bench(side, runs)
    # Bakes have a separate benchmark.
    waiting = [
        one for one in OPERATIONS.values()
        if one.compute is not value_from_range and not one.takes_from and not one.blends
    ]  # fmt: skip
    # One operation represents all of its kind.
    waiting += [OPERATIONS["value_from_range"], OPERATIONS["value_from_parts"]]
    while waiting:  # each after its inputs
        operation = next(one for one in waiting if _needs(one) <= set(maps))
        waiting.remove(operation)
        operation = operation.making(operation.kinds[0])
        inputs = {name: maps[name] for name in operation.inputs}
        inputs |= {slot.name: _filling(slot, maps) for slot in operation.slots if slot.required}
        colors = {p.name: "#807060" for p in operation.parameters if p.form == "colors"}
        settled = operation.resolve(colors)
        made: dict[str, np.ndarray] = {}

        def work(operation: Operation = operation, settled: dict = settled,  # type: ignore[type-arg]
                 inputs: dict = inputs, made: dict = made) -> None:  # type: ignore[type-arg]  # fmt: skip
            made["it"] = operation.compute(inputs, settled, SURFACE)

        def plain(operation: Operation = operation, settled: dict = settled,  # type: ignore[type-arg]
                  inputs: dict = inputs) -> object:  # type: ignore[type-arg]  # fmt: skip
            return PLAINLY[operation.name](inputs, settled, SURFACE)

        bench.line(operation.name, work, plain)
        maps.setdefault(operation.kinds[0], made["it"])
    normal = maps[MapKind.NORMAL]
    other = np.ascontiguousarray(normal[::-1])
    bench.line("blend of two normal maps", lambda: blend_normals(normal, other, weight=0.5),
               lambda: PLAINLY["blend"]({"a": normal, "b": other}, {}, SURFACE))  # fmt: skip
    height = maps[MapKind.HEIGHT]
    bench.line("quantise to 8 bits", lambda: quantize(height, 8),
               lambda: PLAINLY["quantize"]({"v": height}, {}, SURFACE))  # fmt: skip
    bench.line("the same with dither", lambda: dithered_codes(height[:, :, 0]),
               lambda: PLAINLY["dither"]({"v": height}, {}, SURFACE))  # fmt: skip
    covered = cv2.GaussianBlur(color[:, :, 0], (0, 0), 3) > 0.4
    holes = {"v": covered.astype(np.float32), "color": color}
    bench.line("padding of a color", lambda: pad_coverage(color, covered, wrap=True),
               lambda: PLAINLY["pad"](holes, {}, SURFACE))  # fmt: skip
    rough = maps[MapKind.ROUGHNESS]
    chain = {
        MapKind.NORMAL: Raster(normal, Meaning.NORMAL),
        MapKind.ROUGHNESS: Raster(rough, Meaning.DATA),
    }
    bench.line("mips of normal and roughness", lambda: list(mip_chain(chain)),
               lambda: PLAINLY["mips"]({"normal": normal, "rough": rough}, {}, SURFACE),
               )  # fmt: skip


def _needs(operation: Operation) -> set[str]:
    shapes = {slot.takes for slot in operation.slots if slot.required}
    return set(operation.inputs) | (shapes & {MapKind.HEIGHT, MapKind.NORMAL})


def _filling(slot, maps: dict[str, np.ndarray]) -> np.ndarray:  # type: ignore[no-untyped-def]
    if slot.takes in (MapKind.HEIGHT, MapKind.NORMAL):
        return maps[slot.takes]
    return maps["map"] if len(slot.takes.facts.components) == 1 else maps["photo"]
