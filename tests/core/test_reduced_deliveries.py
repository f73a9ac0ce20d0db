"""Deliveries smaller than their set: planned so that the surface looks the same, keyed apart."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from copper_sieve.core.codecs import DEFAULT_LIMITS, Writing, write_picture
from copper_sieve.core.graph.evaluate import evaluate, picture_to_map
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import vectors_to_encoded
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.reduction import Reduction, reduce_picture
from copper_sieve.core.ingest.sources import examine, imported_maps, measured_green
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition
from tests.core.recognition.maps import encoded, normals, relief
from tests.core.test_reduction import bumps

SIDE = 64
SHAS = {kind: f"{n:064x}" for n, kind in enumerate(MapKind)}


def as_set(**maps: np.ndarray) -> tuple[SetDefinition, dict[str, Picture]]:
    """A set of imported maps of 8-bit codes, and its pictures."""
    imported: dict[Any, Any] = {}
    pictures = {}
    for name, codes in maps.items():
        kind = MapKind(name)
        wide = codes if codes.ndim == 3 else codes[:, :, None]
        color = kind is MapKind.BASE_COLOR
        names = ("Y",) if wide.shape[2] == 1 else ("R", "G", "B")
        encoding = Encoding.SRGB if color else Encoding.LINEAR
        pictures[SHAS[kind]] = Picture(wide, names, encoding)
        channels = "R" if wide.shape[2] == 1 else "RGB"
        imported[kind] = Imported(source=SHAS[kind], channels=channels, encoding=encoding)
    return SetDefinition(name="one", maps=imported), pictures


def result(
    texture_set: SetDefinition,
    pictures: dict[str, Picture],
    kind: MapKind,
    side: int,
    how: Reduction = "appearance",
) -> np.ndarray:
    sizes = {sha: one.size for sha, one in pictures.items()}
    graph = plan(texture_set, sizes, wanted=[kind], longer_side=side, reduction=how)
    return evaluate(graph, pictures.__getitem__)[kind].pixels


def key(texture_set: SetDefinition, kind: MapKind, side: int, how: Reduction) -> str:
    sizes = dict.fromkeys(SHAS.values(), (SIDE, SIDE))
    graph = plan(texture_set, sizes, wanted=[kind], longer_side=side, reduction=how)
    return graph.outputs[kind]


def codes_of_normals(slope: float) -> np.ndarray:
    return np.round(vectors_to_encoded(bumps(slope, SIDE)) * 255).astype(np.uint8)


def test_a_smaller_roughness_takes_what_the_normals_lose() -> None:
    rough = np.full((SIDE, SIDE), 60, np.uint8)
    texture_set, pictures = as_set(normal=codes_of_normals(0.25), roughness=rough)
    plain = result(texture_set, pictures, MapKind.ROUGHNESS, 8, "plain")
    seen = result(texture_set, pictures, MapKind.ROUGHNESS, 8)
    np.testing.assert_allclose(plain, 60 / 255, atol=1e-5)
    assert seen.mean() > 60 / 255 + 0.2
    alone, only = as_set(roughness=rough)  # without normals nothing is lost
    np.testing.assert_allclose(result(alone, only, MapKind.ROUGHNESS, 8), 60 / 255, atol=1e-5)
    whole = result(texture_set, pictures, MapKind.ROUGHNESS, SIDE)
    np.testing.assert_allclose(whole, 60 / 255, atol=1e-6)


def test_a_derived_roughness_is_reduced_the_same_way() -> None:
    gloss = np.full((SIDE, SIDE), 200, np.uint8)
    texture_set, pictures = as_set(normal=codes_of_normals(0.25), glossiness=gloss)
    derived = Derived(operation="roughness_from_glossiness")
    texture_set = texture_set.with_map(MapKind.ROUGHNESS, derived)
    rough = result(texture_set, pictures, MapKind.ROUGHNESS, 8)
    smooth = result(texture_set, pictures, MapKind.GLOSSINESS, 8)
    np.testing.assert_allclose(rough, 1 - smooth, atol=1e-5)


def test_a_smaller_opacity_keeps_its_coverage() -> None:
    grains = (np.random.default_rng(0).random((SIDE, SIDE)) > 0.8).astype(np.uint8) * 255
    texture_set, pictures = as_set(opacity=grains)
    due = (grains > 0).mean()
    assert (result(texture_set, pictures, MapKind.OPACITY, 16, "plain") >= 0.5).mean() < due / 2
    found = result(texture_set, pictures, MapKind.OPACITY, 16)
    assert (found >= 0.5).mean() == pytest.approx(due, abs=0.01)


@pytest.mark.parametrize("side", [16, 24, 100, 128])
def test_pixel_art_is_read_without_mixing_at_any_size(side: int) -> None:
    art = np.random.default_rng(0).choice([0, 80, 255], (SIDE, SIDE, 3)).astype(np.uint8)
    texture_set, pictures = as_set(base_color=art, height=art[:, :, 0])
    found = result(texture_set, pictures, MapKind.HEIGHT, side, "nearest")
    assert found.shape == (side, side, 1)
    assert {round(float(v) * 255) for v in np.unique(found)} == {0, 80, 255}
    color = result(texture_set, pictures, MapKind.BASE_COLOR, side, "nearest")
    assert len(np.unique(color)) == 3


def test_ways_of_reducing_have_keys_of_their_own_where_they_differ() -> None:
    texture_set, _ = as_set(
        normal=codes_of_normals(0.1), roughness=np.zeros((SIDE, SIDE), np.uint8),
        base_color=np.zeros((SIDE, SIDE, 3), np.uint8),
    )  # fmt: skip
    for kind in (MapKind.ROUGHNESS, MapKind.BASE_COLOR):
        plain, seen, art = (
            key(texture_set, kind, 16, how) for how in ("plain", "appearance", "nearest")
        )
        assert art not in (plain, seen)
        assert (plain == seen) == (kind is MapKind.BASE_COLOR)
    whole = {key(texture_set, MapKind.ROUGHNESS, SIDE, how) for how in ("plain", "appearance")}
    assert len(whole) == 1


def test_larger_results_are_interpolated_within_their_range() -> None:
    texture_set, pictures = as_set(roughness=codes_of_normals(0.3)[:, :, 0])
    imported = texture_set.maps[MapKind.ROUGHNESS]
    assert isinstance(imported, Imported)
    raster = picture_to_map(pictures[imported.source], MapKind.ROUGHNESS, imported)
    wide = reduce_picture({MapKind.ROUGHNESS: raster}, 2 * SIDE, 2 * SIDE)[MapKind.ROUGHNESS]
    assert wide.size == (2 * SIDE, 2 * SIDE)
    assert raster.pixels.min() <= wide.pixels.min() <= wide.pixels.max() <= raster.pixels.max()


@pytest.mark.parametrize("ending", ["dds", "ktx2", "tif"])
def test_a_normal_of_two_channels_comes_in_with_its_direction(tmp_path: Path, ending: str) -> None:
    """x and y alone, as targets for GPUs write them, are told and z is built again."""
    codes = encoded(normals(relief("pebbles", 3, 256), 0.5, down=True))
    how = Writing(ending.replace("tif", "tiff"), compression="bc5" if ending != "tif" else None)
    path = tmp_path / f"wall_normal.{ending}"
    write_picture(path, Picture(codes[:, :, :2].copy(), ("R", "G"), Encoding.LINEAR), how)
    facts, picture = examine(path, DEFAULT_LIMITS)
    assert facts.two_channels
    green = measured_green(path, facts, picture)
    (imported,) = imported_maps(facts, MapKind.NORMAL, green).values()
    assert (imported.channels, imported.normal_y) == ("RG", "down")
    vectors = picture_to_map(picture, MapKind.NORMAL, imported).pixels
    np.testing.assert_allclose(np.linalg.norm(vectors, axis=2), 1, atol=1e-3)
    due = codes.astype(float) / 127.5 - 1
    assert np.abs(vectors[:, :, 2] - due[:, :, 2]).mean() < 0.02


def test_sizes_of_a_chain_fit_the_pictures_of_another_library() -> None:
    smooth = cv2.GaussianBlur(np.random.default_rng(1).random((SIDE, SIDE, 3)), (0, 0), 3)
    codes = (smooth * 255).astype(np.uint8)
    texture_set, pictures = as_set(base_color=codes)
    found = result(texture_set, pictures, MapKind.BASE_COLOR, SIDE // 4)
    light = (codes / 255.0) ** 2.2  # near enough to the curve to see if light was averaged
    due = light.reshape(SIDE // 4, 4, SIDE // 4, 4, 3).mean(axis=(1, 3))
    assert np.abs(found - due).max() < 0.02
