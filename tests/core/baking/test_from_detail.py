"""Relief of a detailed model on a simple one, as a shader shows it, against the detail itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.baking.from_detail import Cage, match_parts, project_to_high_poly
from copper_sieve.core.baking.surface_samples import SurfaceSamples
from copper_sieve.core.errors import CancelledError, MeshError, ParameterError
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.raster import Float
from copper_sieve.core.lighting.shading import Material, shade
from copper_sieve.core.mesh.mesh import Mesh, join_meshes, unit
from copper_sieve.core.mesh.rasterization import blend_attributes, rasterize
from copper_sieve.core.mesh.tangents import tangents_of
from tests.core.mesh.solids import ball, box, floor, patch

_SIDE = 512


def waves(u: Float, v: Float) -> Float:
    """Bumps of a sphere, metres; none at its poles."""
    return 0.02 * np.sin(12 * np.pi * u) * np.sin(6 * np.pi * v) * np.sin(np.pi * v) ** 2


def riveted(pieces: int = 240) -> Mesh:
    """A plate of one metre with sixteen domes, slopes up to 57 degrees, all within its border."""

    def height(x: Float, z: Float) -> Float:
        a, b = (x * 4) % 1 - 0.5, (z * 4) % 1 - 0.5
        return 0.08 * np.clip(1 - (a * a + b * b) / 0.1, 0, None) ** 2

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        step = 1e-5
        slopes = [(height(u + du, v + dv) - height(u - du, v - dv)) / (2 * step)
                  for du, dv in ((step, 0), (0, step))]  # fmt: skip
        normals = np.stack([-slopes[0], np.ones_like(u), -slopes[1]], -1)
        places = np.stack([u - 0.5, height(u, v), v - 0.5], -1)
        return places, normals / np.linalg.norm(normals, axis=-1, keepdims=True)

    return patch(surface, pieces, pieces, None, "plate_high")


def with_uv(mesh: Mesh, how: str) -> Mesh:
    """The same with its island mirrored, turned by a quarter, or both."""
    u, v = mesh.uvs[0][..., 0], mesh.uvs[0][..., 1]
    placed = {"plain": (u, v), "mirrored": (1 - u, v), "turned": (v, 1 - u), "both": (v, u)}[how]
    return replace(mesh, uvs=(np.stack(placed, -1).astype(np.float32),))


def seen(baked: Float, low_poly: Mesh, high_poly: Mesh, offset: float) -> tuple[Float, Float]:
    """World normals at places of the simple model: as a shader has them, and the detail's."""
    drawn = SurfaceSamples.of(rasterize(low_poly.uvs[0], 251, 251, (0.31, 0.77)))
    group = match_parts(low_poly, high_poly, False)[0]
    on, met = project_to_high_poly(Cage.by_offset(low_poly, offset), group, drawn)
    drawn, on = drawn.chosen(met), on.chosen(met)
    wanted = unit(blend_attributes(high_poly.normals, on.triangles, on.weights))
    uv = blend_attributes(low_poly.uvs[0], drawn.triangles, drawn.weights) * baked.shape[0] - 0.5
    low = np.clip(np.floor(uv).astype(int), 0, baked.shape[0] - 2)
    part = np.clip(uv - low, 0, 1)
    x, y = low.T
    right, down = part[:, :1], part[:, 1:]
    rows = [baked[y + k, x] * (1 - right) + baked[y + k, x + 1] * right for k in (0, 1)]
    n = rows[0] * (1 - down) + rows[1] * down
    normal = blend_attributes(low_poly.normals, drawn.triangles, drawn.weights)
    tangent = blend_attributes(tangents_of(low_poly), drawn.triangles, drawn.weights)
    up = np.sign(tangent[:, 3:]) * np.cross(normal, tangent[:, :3])
    return unit(n[:, :1] * tangent[:, :3] + n[:, 1:2] * up + n[:, 2:] * normal), wanted


def differences(found: Float, wanted: Float) -> tuple[float, float]:
    """Mean angle in degrees, and mean CIEDE2000 of a grey half-gloss under the reference shader."""
    angle = np.degrees(np.arccos(np.clip((found * wanted).sum(1), -1, 1)))
    grey, rough = np.full((1, len(found), 3), 0.4), np.full((1, len(found), 1), 0.45)
    looks = [
        to_lab(shade(Material(grey, grey * 0 + 0.04, rough, one[None]))) for one in (found, wanted)
    ]
    return float(angle.mean()), float(delta_e_2000(*looks).mean())


@pytest.mark.parametrize("how", ["plain", "mirrored", "turned", "both"])
def test_a_bumpy_sphere_on_a_plain_one(how: str) -> None:
    low_poly = with_uv(ball(0.5, rings=24), how)
    high_poly = ball(0.5, rings=160, uv=None, swell=waves)
    options = BakeOptions(_SIDE, _SIDE, samples=1, offset=0.03)
    done = bake(low_poly, ["normal", "height"], options, high_poly)
    assert done.misses == 0 and done.height_range is not None
    found, wanted = seen(done.maps["normal"], low_poly, high_poly, 0.03)
    front = wanted[:, 2] > 0.3  # seen along z, away from the silhouette
    angle, color = differences(found[front], wanted[front])
    assert angle <= 0.5 and color <= 1
    # The height is the bumps' own, but for the facets of the simple sphere (2 mm of 20).
    metres = (done.maps["height"] - 0.5) * done.height_range
    v, u = (np.mgrid[:_SIDE, :_SIDE] + 0.5) / _SIDE
    x, y = {"plain": (u, v), "mirrored": (1 - u, v), "turned": (1 - v, u), "both": (v, u)}[how]
    assert np.abs(metres[..., 0] - waves(x, y))[64:-64].max() <= 0.006


@pytest.mark.parametrize("how", ["plain", "mirrored", "turned", "both"])
def test_rivets_on_a_plate(how: str) -> None:
    low_poly, high_poly = with_uv(floor(1.0), how), riveted()
    done = bake(low_poly, ["normal"], BakeOptions(_SIDE, _SIDE, samples=4), high_poly)
    assert done.misses == 0 and done.offset is not None and 0.08 <= done.offset <= 0.14
    found, wanted = seen(done.maps["normal"], low_poly, high_poly, done.offset)
    from_above = [0, 2, 1]
    angle, color = differences(found[:, from_above], wanted[:, from_above])
    assert angle <= 0.5 and color <= 1


def test_what_the_rays_miss_is_counted_and_shown() -> None:
    half = patch(lambda u, v: (np.stack([u / 2 - 0.5, 0 * u + 0.01, v - 0.5], -1),
                               np.array([0.0, 1, 0])), 4, 4, None)  # fmt: skip
    options = BakeOptions(64, 64, samples=1, offset=0.05)
    done = bake(floor(1.0), ["normal", "height"], options, half)
    assert done.misses == 64 * 32 and done.samples == 64 * 64
    assert done.missed is not None and (done.missed[:, 32:] == 1).all()
    assert (done.missed[:, :32] == 0).all()
    assert np.allclose(done.maps["height"], done.maps["height"][0, 0])  # misses are padded


def test_a_cage_of_ones_own_and_names_that_belong_together() -> None:
    def named(height: float, name: str, uv: tuple[float, float, float, float] | None) -> Mesh:
        return replace(floor(1.0, uv=uv, height=height), part_names=(name,))

    low_poly = join_meshes(
        [named(0, "lid_low", (0, 0, 0.5, 1)), named(-0.02, "base_low", (0.5, 0, 0.5, 1))]
    )
    high = join_meshes([named(0.004, "lid_high", None), named(-0.018, "base_high", None)])
    options = BakeOptions(64, 32, samples=1, offset=0.05, height_range=0.2)
    together = bake(low_poly, ["height"], options, high).maps["height"]
    assert np.allclose((together[8, [8, 40], 0] - 0.5) * 0.2, [0.004, 0.024], atol=1e-5)
    match_by_name = bake(low_poly, ["height"], replace(options, match_by_name=True), high).maps[
        "height"
    ]
    assert np.allclose((match_by_name[8, [8, 40], 0] - 0.5) * 0.2, [0.004, 0.002], atol=1e-5)
    # A cage that starts under the lid sees the base alone.
    under = replace(low_poly, positions=low_poly.positions - np.float32([0, 0.001, 0]))
    own = bake(low_poly, ["height"], options, high, cage=under)
    assert own.offset is None and own.misses > 0
    with pytest.raises(MeshError, match="the cage has 2 triangles but the model has 4"):
        bake(low_poly, ["height"], options, high, cage=floor(1.0))


def test_what_cannot_be_taken_is_said() -> None:
    with pytest.raises(ParameterError, match="unknown map wear"):
        bake(floor(1.0), ["wear"])
    with pytest.raises(ParameterError, match="normal requires a high-poly model"):
        bake(floor(1.0), ["normal"])
    with pytest.raises(ParameterError, match="has no vertex colors"):
        bake(floor(1.0), ["base_color"], high_poly=floor(1.0))
    with pytest.raises(MeshError, match="the model has no UV sets, but set 1 was requested"):
        bake(replace(floor(1.0), uvs=()), ["position"])
    with pytest.raises(MeshError, match="no UVs in tile 3, 0"):
        bake(floor(1.0), ["position"], BakeOptions(16, 16, tile=(3, 0)))
    with pytest.raises(ParameterError, match=r"samples = 5 is out of range"):
        BakeOptions(samples=5)
    with pytest.raises(
        ParameterError, match=r"max_distance = -1 is out of range\. Use meters greater than 0"
    ):
        BakeOptions(max_distance=-1)


def test_it_tells_how_far_it_is_and_stops_when_told() -> None:
    told: list[float] = []
    bake(box((1, 1, 1)), ["ambient_occlusion"], BakeOptions(64, 64), on_progress=told.append)
    assert told == sorted(told) and told[-1] == 1
    with pytest.raises(CancelledError):
        bake(box((1, 1, 1)), ["ambient_occlusion"], BakeOptions(64, 64), is_cancelled=lambda: True)


def test_masks_have_a_color_a_name_and_no_mixtures() -> None:
    left, right = floor(1.0, uv=(0, 0, 0.503, 1)), floor(1.0, uv=(0.503, 0, 0.497, 1))
    mesh = join_meshes(
        [
            replace(left, part_names=("a",), material_names=("copper",)),
            replace(right, part_names=("b",), material_names=("cedar",)),
        ]
    )
    done = bake(mesh, ["material_id", "part_id"], BakeOptions(64, 64, samples=16))
    assert list(done.colors["material_id"]) == ["copper", "cedar"]
    assert len(np.unique(done.maps["material_id"].reshape(-1, 3), axis=0)) == 2
    assert len(set(done.colors["part_id"].values())) == 2


def test_colors_of_corners_come_along() -> None:
    painted = replace(floor(1.0), colors=np.full((2, 3, 3), [0.2, 0.4, 0.6], dtype=np.float32))
    done = bake(floor(1.0), ["base_color"], BakeOptions(16, 16), painted)
    assert np.allclose(done.maps["base_color"], [0.2, 0.4, 0.6], atol=1e-6)
