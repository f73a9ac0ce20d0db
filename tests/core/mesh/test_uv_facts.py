"""UVs that are looked at: what was planted is found, with its figures, and nothing else."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.mesh.islands import find_islands
from copper_sieve.core.mesh.mesh import Mesh, join_meshes, smooth_normals
from copper_sieve.core.mesh.uv_facts import check_uvs
from tests.core.mesh.solids import ball, box, floor


def rules(mesh: Mesh, **options: int) -> dict[str, tuple[str, str]]:
    """The text and evidence of each fact, by its rule."""
    return {one.rule: (one.text, one.evidence) for one in check_uvs(mesh, **options)[1]}


def two(left: tuple[float, ...], right: tuple[float, ...]) -> Mesh:
    """Two squares of a metre, with islands of their own."""
    return join_meshes([floor(1.0, uv=left), floor(1.0, uv=right, height=1.0)])  # type: ignore[arg-type]


def test_islands_by_hand() -> None:
    """A box of 1 x 2 x 3 m on six rectangles, largest first; density is texels by metres."""
    islands = find_islands(box((1.0, 2.0, 3.0)))
    assert (islands.counts == 2).all() and len(islands.counts) == 6 and not islands.turned.any()
    assert np.allclose(islands.shares, (1 / 3 - 0.02) * 0.48)
    assert np.allclose(sorted(islands.areas), [2, 2, 3, 3, 6, 6])
    assert np.allclose(sorted(islands.densities(1000)),
                       sorted(1000 * np.sqrt((1 / 3 - 0.02) * 0.48 / np.array([2, 2, 3, 3, 6, 6]))),
                       rtol=1e-5)  # fmt: skip
    assert np.allclose(islands.bounds[:, 2:] - islands.bounds[:, :2], [1 / 3 - 0.02, 0.48])


def test_a_clean_model_has_nothing_to_tell() -> None:
    assert rules(box((1, 1, 1)), mips=4) == {}
    assert rules(floor(1.0)) == {}


def test_no_uvs() -> None:
    bare = replace(floor(1.0), uvs=())
    islands, found = check_uvs(bare)
    assert islands is None and found[0].rule == "missing" and found[0].weight == "error"
    assert "the model has no UV sets" in found[0].text
    assert "the model has 1 UV set." in check_uvs(floor(1.0), 1)[1][0].text


def test_overlaps_are_measured() -> None:
    """The right half of the first lies under the left half of the second: a third of both."""
    found = rules(two((0, 0, 0.5, 1), (0.25, 0, 0.5, 1)))
    text, evidence = found["overlaps"]
    assert "33.3% of the used UV area is covered more than once" in text
    assert evidence == "262,144 of 786,432 texels, 4 triangles"
    assert "overlaps" not in rules(two((0, 0, 0.5, 1), (0.5, 0, 0.5, 1)))


def test_outside_and_its_tiles() -> None:
    text, evidence = rules(two((0, 0, 1, 1), (1.1, 2.1, 0.5, 0.5)))["outside"]
    assert "2 of 4 triangles are outside" in text
    assert evidence == "u 0.000 to 1.600, v 0.000 to 2.600; tiles 1, 2"


def test_mirrored_islands() -> None:
    found = rules(two((0, 0, 0.4, 1), (0.9, 0, -0.4, 1)))
    assert "1 of 2 UV islands are mirrored" in found["mirrored"][0]
    assert found["mirrored"][1] == "40.0% of the texture"


@pytest.mark.parametrize(("gap", "mips", "told"), [(8, 4, True), (8, 3, False), (1, 1, True)])
def test_gaps_for_mips(gap: int, mips: int, told: bool) -> None:
    """n mips need 2^n texels between islands."""
    left = 0.5 - gap / 1024
    found = rules(two((0, 0, left, 1), (0.5, 0, 0.5, 1)), mips=mips)
    assert ("gaps" in found) is told
    if told:
        assert found["gaps"][1].startswith(f"{gap} texel")
        assert f"Leave {2**mips}" in found["gaps"][0]


def test_density_that_differs() -> None:
    text, evidence = rules(two((0, 0, 0.5, 0.5), (0.6, 0.6, 0.1, 0.1)))["uneven_density"]
    assert "1 of 2 UV islands" in text and evidence.startswith("102 to 512 px/m at 1024")
    assert "uneven_density" not in rules(two((0, 0, 0.5, 0.5), (0.55, 0.55, 0.3, 0.3)))


def test_triangles_without_area() -> None:
    mesh = floor(1.0, 2)
    uv, places = mesh.uvs[0].copy(), mesh.positions.copy()
    uv[3] = uv[3, :1]
    places[5] = places[5, :1]
    text, evidence = rules(replace(mesh, uvs=(uv,), positions=places))["degenerate"]
    assert "2 of 8 triangles have no area" in text and evidence == "1 in 3D, 1 in UV space"


def test_hard_edges_that_one_island_holds() -> None:
    """Four sides of a cube beside each other as one strip: three edges in it, one where it ends."""
    cube = box((1, 1, 1))
    around = [cube.chosen(np.repeat([n == k for n in range(6)], 2)) for k in (0, 2, 1, 3)]
    placed = []
    for n, side in enumerate(around):
        left = side.uvs[0][..., 0] < side.uvs[0][..., 0].mean()
        top = side.positions[..., 1] > 0
        uv = np.stack([0.2 * n + np.where(left, 0, 0.2), np.where(top, 0.1, 0.3)], axis=-1)
        placed.append(replace(side, uvs=(np.round(uv, 4).astype(np.float32),)))
    mesh = join_meshes(placed)
    text, evidence = rules(mesh)["hard_edges"]
    assert text.startswith("3 hard edges aren't UV seams") and evidence.startswith("3 m of edges")
    soft = replace(mesh, normals=smooth_normals(mesh.positions))
    assert "hard_edges" not in rules(soft)


def test_a_ball_meets_itself_at_its_seam_only() -> None:
    assert set(rules(ball(1.0, rings=16))) <= {"degenerate"}
