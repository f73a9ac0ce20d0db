"""The demo's pictures and surroundings: the same every time, and good for what they show."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import pytest

from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.texture_set import Imported, SetDefinition
from copper_sieve.demo.environments import SURROUNDINGS
from copper_sieve.demo.kettle_sets import KETTLE_SETS
from copper_sieve.demo.lantern_row import SCENARIOS, scenario_set
from copper_sieve.demo.noren import NOREN_SET
from copper_sieve.demo.yard_wall import WALL_SET
from copper_sieve.services import projects
from copper_sieve.services.context import Context
from copper_sieve.services.tray import changes
from copper_sieve.services.tray.apply import change, undo
from copper_sieve.store.projects import get_project
from copper_sieve.store.texture_sets import list_sets
from tests.core.rooms import drawn

ROOT = Path(__file__).resolve().parents[2]


def _set_of(name: str, pictures: dict[str, Picture]) -> tuple[SetDefinition, dict[str, Picture]]:
    shas = {word: f"{i:064x}" for i, word in enumerate(pictures)}
    taken = {word: Imported(source=sha) for word, sha in shas.items()}
    return scenario_set(name, taken), {shas[word]: picture for word, picture in pictures.items()}


@pytest.mark.parametrize("name", sorted(SCENARIOS))
def test_a_scenario_is_drawn_alike_and_computes_to_a_full_set(name: str) -> None:
    pictures = drawn(name)
    for word, picture in SCENARIOS[name].draw().items():
        np.testing.assert_array_equal(picture.codes, pictures[word].codes)
    texture_set, by_sha = _set_of(name, pictures)
    sizes = {sha: picture.size for sha, picture in by_sha.items()}
    maps = evaluate(plan(texture_set, sizes, longer_side=64), by_sha.__getitem__)
    usual = {MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.ROUGHNESS, MapKind.METALLIC}
    assert usual | {MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION} <= set(maps)
    assert all(np.isfinite(raster.pixels).all() for raster in maps.values())
    assert (
        maps[MapKind.NORMAL].pixels[:, :, :2].std() > 0.002
    )  # there is relief, also on a polished counter


@pytest.mark.parametrize("name", sorted(set(SCENARIOS) - {"tatami_weave"}))
def test_the_tiles_have_no_seam(name: str) -> None:
    for picture in drawn(name).values():
        codes = picture.codes.astype(int)
        for axis in (0, 1):
            steps = np.abs(np.diff(codes, axis=axis, append=np.take(codes, [0], axis=axis)))
            rows = steps.mean(axis=(1 - axis, 2))
            assert rows[-1] <= np.percentile(rows[:-1], 99) * 1.5 + 1


def test_the_demo_is_filled_once_and_keeps_what_people_did(context: Context) -> None:
    from copper_sieve.demo.lantern_row import fill_demo

    fill_demo(context, with_pictures=True)
    with context.database.transaction() as connection:
        project = get_project(connection, "lantern-row")
        kept = {one.name: one.id for one in list_sets(connection, project.id)}
    ids = [kept["lace_blind"]]
    wanted = changes.Rename(do="rename", name="window_lace")
    change(context, "lantern-row", ids, wanted, dry=False)
    gone = [kept["paper_lantern"]]
    change(context, "lantern-row", gone, changes.Delete(do="delete"), dry=False)
    fill_demo(context, with_pictures=True)  # the renamed and the thrown away one do not come again
    with context.database.transaction() as connection:
        names = {one.name for one in list_sets(connection, project.id)}
    assert names == {*SCENARIOS, *KETTLE_SETS, WALL_SET, NOREN_SET, "window_lace"} - {
        "lace_blind",
        "paper_lantern",
    }
    projects.change(context, "lantern-row", deleted=True)
    fill_demo(context, with_pictures=True)  # nor does a whole project
    projects.change(context, "lantern-row", deleted=False)
    for _ in range(2):
        undo(context, "lantern-row", again=False)
    with context.database.transaction() as connection:
        project = get_project(connection, "lantern-row")
        kept = list_sets(connection, project.id)
    assert [one.name for one in kept] == sorted([*SCENARIOS, *KETTLE_SETS, WALL_SET, NOREN_SET])
    sets = {one.name: one.definition() for one in kept}
    normal = sets["hammered_copper"].maps[MapKind.NORMAL]
    assert isinstance(normal, Imported)
    assert normal.normal_y is NormalY.DOWN
    packed = [sets["terrazzo_counter"].maps[k] for k in (MapKind.ROUGHNESS, MapKind.METALLIC)]
    assert [one.channels for one in packed if isinstance(one, Imported)] == ["R", "G"]


@pytest.mark.parametrize("name", sorted(SURROUNDINGS))
def test_the_shipped_surroundings_are_what_the_script_draws(name: str) -> None:
    shipped = cv2.imread(
        str(ROOT / "web/public/environments" / f"{name}.hdr"), cv2.IMREAD_UNCHANGED
    )
    drawn = SURROUNDINGS[name]()[:, :, ::-1]
    # The format keeps eight bits for each color, as shares of the strongest one.
    assert np.abs(shipped - drawn).max() <= drawn.max() / 128
    assert (np.abs(shipped - drawn) <= drawn.max(axis=2, keepdims=True) / 100 + 1e-4).all()
