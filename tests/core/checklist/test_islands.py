"""Planted faults of a model's UVs are findings of the sets that are made for it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.checklist.check import check_set
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from copper_sieve.core.models.finding import TITLES, Finding
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import Constant, SetDefinition
from copper_sieve.store.cache import MemoryCache
from tests.core.mesh.solids import floor

SHA = "a" * 64


def _no_pictures(sha256: str) -> Picture:
    raise AssertionError(sha256)


def found(model: Mesh, **more: object) -> dict[str, Finding]:
    """What is found in a set of one color on a model, by rule."""
    tie = ModelLink.model_validate({"source": SHA, **more})
    one = SetDefinition(
        name="one", maps={MapKind.BASE_COLOR: Constant(value=(0.5, 0.5, 0.5))}, model=tie
    )
    told = check_set(one, {}, _no_pictures, MemoryCache(1 << 20), load_model=lambda _: model)
    return {finding.rule: finding for finding in told}


def _beside(first: Mesh, second: Mesh) -> Mesh:
    return join_meshes([first, replace(second, positions=second.positions + np.float32([3, 0, 0]))])


LEFT, RIGHT = (0.05, 0.05, 0.4, 0.9), (0.55, 0.05, 0.4, 0.9)


def test_whole_islands_are_no_finding() -> None:
    assert found(_beside(floor(1.0, uv=LEFT), floor(1.0, uv=RIGHT))) == {}


def test_planted_faults_are_told_with_their_figures() -> None:
    over = found(_beside(floor(1.0, uv=LEFT), floor(1.0, uv=LEFT)))["uv_overlaps"]
    assert (over.weight, over.fix, over.kind) == ("warning", None, MapKind.BASE_COLOR)
    assert over.text.startswith("100.0% of the used UV area")
    assert "4 triangles" in over.evidence
    turned = floor(1.0, uv=RIGHT)
    flipped = turned.uvs[0].copy()
    flipped[..., 0] = 1.5 - flipped[..., 0]
    mirrored = found(_beside(floor(1.0, uv=LEFT), replace(turned, uvs=(flipped,))))
    assert "1 of 2 UV islands are mirrored" in mirrored["uv_mirrored"].text
    outside = floor(1.0, uv=(0.6, 0.05, 0.9, 0.9))
    assert found(outside)["uv_outside"].weight == "warning"
    assert found(replace(floor(1.0), uvs=()))["uv_missing"].weight == "error"


def test_only_the_islands_of_its_own_material_count() -> None:
    one = replace(floor(1.0, uv=LEFT), material_names=("one",))
    other = replace(floor(1.0, uv=LEFT), material_names=("other",))
    both = _beside(one, other)
    assert "uv_overlaps" in found(both)
    assert found(both, material="one") == {}


@pytest.mark.parametrize("rule", [rule for rule in TITLES if rule.startswith("uv_")])
def test_every_rule_of_uvs_has_a_title(rule: str) -> None:
    assert TITLES[rule]  # type: ignore[index]
