"""Time the delivery of a computed 4096 x 4096 set with six maps to two targets.

Compared with plain encoding of the same arrays by the fastest encoder of a common library at an
equal compression (file at most 10 % larger; otherwise the next setting).
"""

from __future__ import annotations

import resource
import shutil
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from statistics import median

import cv2
import numpy as np
import OpenImageIO as oiio  # noqa: N813
from PIL import Image

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.file_maps import FileMaps, graph_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.texture_set import Imported, SetDefinition, compose
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from copper_sieve.store.cache import MemoryCache

QUICK = (256, 1)

Encode = Callable[[np.ndarray, Path], None]
TARGETS = ("orm-y-down", "openpbr-separate")
SHA = {"base_color": "a" * 64, "normal_dx": "b" * 64, "glossiness": "c" * 64}


def by_pillow(codes: np.ndarray, path: Path) -> None:
    """TGA with runs."""
    image = Image.fromarray(codes[:, :, 0] if codes.shape[2] == 1 else codes)
    image.save(path, compression="tga_rle")


def by_openimageio(codes: np.ndarray, path: Path) -> None:
    """TGA with runs, or PNG at its fastest level that compresses."""
    spec = oiio.ImageSpec(codes.shape[1], codes.shape[0], codes.shape[2], str(codes.dtype))
    spec.attribute("compression", "rle" if path.suffix == ".tga" else "zip:1")
    spec.attribute("oiio:UnassociatedAlpha", 1)
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), spec)
    out.write_image(codes)
    out.close()


def by_opencv(codes: np.ndarray, path: Path) -> None:
    """PNG at its default."""
    order = codes[:, :, ::-1] if codes.shape[2] == 3 else codes
    cv2.imwrite(str(path), np.ascontiguousarray(order))


ENCODERS: dict[str, list[Encode]] = {
    ".tga": [by_pillow, by_openimageio],
    ".png": [by_opencv, by_openimageio],
}


def took(what: Callable[[], object], written: Path, *, rewrite: bool = True) -> float:
    """Return seconds; `rewrite`: delete the previous output first."""
    if rewrite and written.is_dir():
        shutil.rmtree(written)
    elif rewrite:
        written.unlink(missing_ok=True)
    began = time.perf_counter()
    what()
    return time.perf_counter() - began


def fastest(codes: np.ndarray, ours: Path, folder: Path) -> tuple[Encode, float]:
    """The fastest encoder whose file is not much larger than ours, and its size to ours."""
    found = []
    for n, encode in enumerate(ENCODERS[ours.suffix]):
        path = folder / f"mere{ours.suffix}"
        seconds = min(took(partial(encode, codes, path), path) for _ in range(3))
        found.append((seconds, n, path.stat().st_size / ours.stat().st_size))
    _, n, size = min([one for one in found if one[2] <= 1.1] or found)
    return ENCODERS[ours.suffix][n], size


Pictures = dict[str, Picture]


def copper(side: int) -> tuple[SetDefinition, Pictures]:
    """A set of drawn pictures, enlarged, and the pictures by their sources."""
    drawn = draw_hammered_copper()
    rng = np.random.default_rng(0)
    pictures = {}
    for word, sha in SHA.items():
        wide = cv2.resize(drawn[word].codes, (side, side), interpolation=cv2.INTER_CUBIC)
        grain = rng.normal(0, 2, (side, side, 1))  # of a camera; else runs would be too long
        wide = np.clip(wide.reshape(side, side, -1) + grain, 0, 255).astype(np.uint8)
        pictures[sha] = Picture(wide, drawn[word].channels, drawn[word].encoding)
    imported = {
        MapKind.BASE_COLOR: Imported(source=SHA["base_color"]),
        MapKind.NORMAL: Imported(source=SHA["normal_dx"], encoding="linear", normal_y="down"),
        MapKind.GLOSSINESS: Imported(source=SHA["glossiness"], channels="R", encoding="linear"),
    }
    return compose("copper", imported), pictures


def compare(
    target: str, texture_set: SetDefinition, pictures: Pictures, cache: MemoryCache, times: int
) -> None:
    """Print the time of a delivery relative to plain encoding."""
    sizes = {sha: one.size for sha, one in pictures.items()}
    export = plan_export(get_target(target), texture_set, sizes)
    graph = graph_of(export, sizes)
    rasters = evaluate(graph, pictures.__getitem__, cache=cache)  # computed already
    maps = FileMaps(export, rasters)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)

        out = folder / "out"
        run = partial(deliver, export, out, sizes=sizes, cache=cache, token="b",
                      load_source=pictures.__getitem__)  # fmt: skip
        run()  # compiled, and something to compare with
        mere, own = {}, {}
        for file in export.files:
            picture = maps.picture(file)
            ours = out / file.name
            encode, size = fastest(picture.codes, ours, folder)
            print(f"  {file.name:28} {encode.__name__}, {size:.2f} of our "
                  f"{ours.stat().st_size / 1e6:.0f} MB")  # fmt: skip
            path = folder / f"mere-{file.name}"
            mere[path] = partial(encode, picture.codes, path)
            path = folder / f"own-{file.name}"
            own[path] = partial(write_picture, path, picture, file.spec.writing)
        # Alternate, so that other load of the machine affects both equally.
        rounds = [
            (
                took(run, out),
                sum(took(what, path) for path, what in mere.items()),
                sum(took(what, path) for path, what in own.items()),
                took(run, out, rewrite=False),
            )
            for _ in range(times)
        ]
    whole, least, ours_alone, again = (median(one) for one in zip(*rounds, strict=True))
    ratios = sorted(one[0] / one[1] for one in rounds)
    print(
        f"{target}: delivered in {whole:.2f} s, mere encoding {least:.2f} s, ratio "
        f"{whole / least:.2f} (at most 1.5), from {ratios[0]:.2f} to {ratios[-1]:.2f}; "
        f"our encoding alone {ours_alone:.2f} s; over an earlier delivery {again:.2f} s"
    )


def main(side: int = 4096, times: int = 5) -> None:
    """Print a table."""
    texture_set, pictures = copper(side)
    cache = MemoryCache(6 * 1024**3)
    for target in TARGETS:
        compare(target, texture_set, pictures, cache, times)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(f"peak memory {peak:.1f} GB")
