"""A detailed model that is the simple one subdivided: places are found by UVs, not by rays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.demo.patches import patch
from tests.core.baking.test_from_detail import waves
from tests.core.mesh.solids import ball, floor

_WHOLE = (0.0, 0.0, 1.0, 1.0)
_BY_UVS = BakeOptions(128, 128, samples=1, match_by_uvs=True)


def folded(pieces: int, uv: tuple[float, float, float, float] | None = _WHOLE) -> Mesh:
    """A sheet of one metre whose waves lean over so far that one hides the other from above."""

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        x = u - 0.5 + 0.12 * np.sin(6 * np.pi * u)
        return np.stack([x, rise(u), v - 0.5], -1), np.array([0.0, 1.0, 0.0])

    return patch(surface, pieces, 2, uv, "sheet")


def rise(u: Float) -> Float:
    """Metres above the plate."""
    return 0.1 * np.sin(6 * np.pi * u + 1)


def test_folds_that_no_ray_reaches() -> None:
    done = bake(floor(1.0), ["height", "normal"], _BY_UVS, folded(512))
    assert done.misses == 0 and done.rays == 0 and done.offset is None
    assert done.height_range is not None
    metres = (done.maps["height"][64, :, 0] - 0.5) * done.height_range
    wanted = rise((np.arange(128) + 0.5) / 128)
    assert np.abs(metres - wanted).max() < 2e-4
    by_rays = bake(floor(1.0), ["height"], replace(_BY_UVS, match_by_uvs=False, offset=0.3),
                   folded(512))  # fmt: skip
    assert by_rays.height_range is not None
    seen = (by_rays.maps["height"][64, :, 0] - 0.5) * by_rays.height_range
    assert np.abs(seen - wanted).max() > 0.05


def test_bumps_of_a_sphere() -> None:
    """Its own formula comes back at every texel, but for the facets of the simple one (2 mm)."""
    done = bake(ball(0.5, rings=24), ["height"], _BY_UVS, ball(0.5, rings=192, swell=waves))
    assert done.height_range is not None and done.misses == 0
    v, u = (np.mgrid[:128, :128] + 0.5) / 128
    metres = (done.maps["height"][..., 0] - 0.5) * done.height_range
    assert np.abs(metres - waves(u, v)).max() <= 0.006


def test_of_several_materials_in_one_square_each_finds_its_own() -> None:
    def two(high: float) -> Mesh:
        named = [
            replace(floor(1.0, pieces=4, height=n * 0.5 + high * (n + 1)), material_names=(name,))
            for n, name in enumerate(("copper", "cedar"))
        ]
        return join_meshes(named)

    done = bake(two(0), ["height"], replace(_BY_UVS, height_range=1.0), two(0.01),
                material="cedar")  # fmt: skip
    assert np.allclose(done.maps["height"] - 0.5, 0.02, atol=1e-5)


def test_parts_that_lie_on_each_other_are_told_by_name() -> None:
    def two(high: float, version: str) -> Mesh:
        named = [
            replace(floor(1.0, height=n * 0.1 + high * (n + 1)), part_names=(name + version,))
            for n, name in enumerate(("lid", "base"))
        ]
        return join_meshes(named if version == "_low" else named[::-1])

    options = replace(_BY_UVS, height_range=1.0)
    mixed = bake(two(0, "_low"), ["height"], options, two(0.01, "_high")).maps["height"]
    assert np.allclose(mixed - 0.5, 0.12, atol=1e-5)  # the lid finds the base, first in its file
    named = replace(options, match_by_name=True)
    apart = bake(two(0, "_low"), ["height"], named, two(0.01, "_high")).maps["height"]
    assert np.allclose(apart - 0.5, 0.01, atol=1e-5)


def test_what_its_uvs_leave_empty_is_counted() -> None:
    def three_quarters(u: Float, v: Float) -> tuple[Float, Float]:
        flat = np.stack([0.75 * u - 0.5, 0 * u + 0.01, v - 0.5], -1)
        return flat, np.array([0.0, 1.0, 0.0])

    part = patch(three_quarters, 4, 4, (0.0, 0.0, 0.75, 1.0), "part")
    done = bake(floor(1.0), ["height"], _BY_UVS, part)
    assert done.misses == 128 * 32 and done.missed is not None
    assert (done.missed[:, 96:] == 1).all() and not done.missed[:, :96].any()


@pytest.mark.parametrize(
    ("uv", "says"),
    [
        ((0.0, 0.0, 0.3, 0.3), "differ from those of the low-poly model"),
        ((3.0, 0.0, 1.0, 1.0), "differ from those of the low-poly model"),
    ],
)
def test_other_uvs_are_refused(uv: tuple[float, float, float, float], says: str) -> None:
    with pytest.raises(MeshError, match=says):
        bake(floor(1.0), ["height"], _BY_UVS, floor(1.0, pieces=8, uv=uv))
    with pytest.raises(MeshError, match="has no UV set 1"):
        bake(floor(1.0), ["height"], _BY_UVS, replace(floor(1.0), uvs=()))


def test_mirrored_uvs_are_refused() -> None:
    other = floor(1.0, pieces=8)
    turned = replace(other, uvs=(1 - other.uvs[0],))
    with pytest.raises(MeshError, match="Match by rays instead"):
        bake(floor(1.0), ["height"], _BY_UVS, turned)


def test_maps_taken_by_rays_keep_their_keys() -> None:
    tie = ModelLink(source="a" * 64, high_poly="b" * 64)
    assert "match_by_uvs" not in tie.content()
    assert tie.model_copy(update={"match_by_uvs": True}).content()["match_by_uvs"] is True
