"""The kettle: two versions of the same parts, clean UVs, and maps of the one on the other."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

import copper_sieve as cs
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.mesh.mesh import Mesh, face_normals
from copper_sieve.core.mesh.uv_facts import check_uvs
from copper_sieve.demo.kettle import CEDAR, COPPER, write_kettle
from tests.core.test_documents import gltf_report


@pytest.fixture(scope="module")
def models(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    return write_kettle(tmp_path_factory.mktemp("kettle"))


def outwards(mesh: Mesh) -> float:
    """The share of triangles whose normals and order of corners agree."""
    return float(((face_normals(mesh.positions) * mesh.normals.sum(1)).sum(1) > 0).mean())


def test_both_versions_are_whole(models: tuple[Path, Path]) -> None:
    simple, high_poly = (read_model(path) for path in models)
    assert simple.material_names == high_poly.material_names == (COPPER, CEDAR)
    assert [name.removesuffix("_low") for name in simple.part_names] == [
        name.removesuffix("_high") for name in high_poly.part_names
    ]
    assert simple.count < 3000 and 400_000 < high_poly.count < 500_000
    assert outwards(simple) == 1 and outwards(high_poly) > 0.999
    assert gltf_report(models[0])["issues"]["numErrors"] == 0
    for name in (COPPER, CEDAR):
        rules = {one.rule for one in check_uvs(simple.of_material(name), mips=3)[1]}
        assert rules <= {"uneven_density"}


def test_the_relief_comes_through(models: tuple[Path, Path]) -> None:
    """Blows of a millimetre on the copper, ridges on the cedar; hardly a ray misses."""
    for material, most in ((COPPER, 0.006), (CEDAR, 0.008)):
        done = cs.bake(
            models[0], ["normal", "height", "curvature"], material=material, high_poly=models[1],
            options=cs.BakeOptions(256, 256, samples=1, match_by_name=True),
        )  # fmt: skip
        assert done.baked.misses < 0.01 * done.baked.samples
        assert done.baked.height_range is not None and 0.001 < done.baked.height_range < most * 2
        tilted = done.baked.maps["normal"][done.baked.covered][:, 2]
        assert np.degrees(np.arccos(np.clip(tilted, -1, 1))).mean() > 3
        assert not any("move the cage" in said for said in done.remarks)


def test_materials_over_each_other_are_told(models: tuple[Path, Path]) -> None:
    done = cs.bake(models[0], ["position"], options=cs.BakeOptions(64, 64, samples=1))
    assert "the UV islands of hammered_copper, cedar overlap" in done.remarks[0]
