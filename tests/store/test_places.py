"""Stored paths hold when a server moves, and nothing outside of its folders is read."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from copper_sieve.services import delivered, deliveries, delivery_worker, destinations
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_source
from copper_sieve.settings import Settings
from copper_sieve.store.database import Database
from copper_sieve.store.delivery_locations import DeliveryLocations, adopt
from copper_sieve.store.delivery_rows import StoredDelivery
from tests.conftest import MakePhoto


@pytest.mark.parametrize(
    ("path", "stored"),
    [("/home/deliveries/quay/orm", "deliveries:quay/orm"), ("/home/deliveries", "deliveries:"),
     ("/srv/game/Content/wall", "game:Content/wall"), ("/srv/gamer", "/srv/gamer"),
     ("/srv/game/inner/x:y", "inner:x:y"), ("/elsewhere", "/elsewhere")],
)  # fmt: skip
def test_a_path_is_stored_by_the_innermost_folder(path: str, stored: str) -> None:
    places = DeliveryLocations({"deliveries": Path("/home/deliveries"), "game": Path("/srv/game"),
                     "inner": Path("/srv/game/inner")})  # fmt: skip
    assert places.stored(Path(path)) == stored
    assert places.path(stored) == Path(path)


def test_a_path_of_a_folder_that_has_no_name_here_is_not_reached() -> None:
    places = DeliveryLocations({"deliveries": Path("/home/deliveries")})
    assert places.path("game:Content/wall") == Path("game:Content/wall")
    assert places.stored(Path("game:Content/wall")) == "game:Content/wall"


def test_folders_are_named_by_their_entries_or_their_own_names() -> None:
    found = Settings(home=Path("/h"), roots="/srv/game:art=/mnt/a:/other/game:/x=y").open_folders
    assert found == {"deliveries": Path("/h/deliveries"), "game": Path("/srv/game"),
                     "art": Path("/mnt/a"), "game-2": Path("/other/game"),
                     "x=y": Path("/x=y")}  # fmt: skip


@pytest.fixture
def first(context: Context, project: str, make_photo: MakePhoto) -> tuple[Context, StoredDelivery]:
    """A server with one delivery."""
    photo = make_photo("pier.png", size=(16, 16), seed=811)
    set_id = import_source(context, project, photo, photo.name).set_id
    asked = deliveries.create_delivery(context, project, [(set_id, "orm-y-down")])
    delivery_worker.run(context, asked.id)
    return context, deliveries.get(context, asked.id)


def stored(database: Database, delivery_id: int) -> str:
    with database.transaction() as connection:
        row = connection.execute(
            "select folder as place from delivery_part where delivery_id = %s", [delivery_id]
        ).fetchone()
    assert row
    return str(row["place"])


def test_a_server_that_moved_finds_its_files_and_not_those_of_the_old_home(
    first: tuple[Context, StoredDelivery], database: Database, project: str, tmp_path: Path
) -> None:
    context, delivery = first
    assert stored(database, delivery.id) == f"deliveries:{project}/orm-y-down/pier"
    settings = Settings(home=tmp_path / "new home", database_url=database.dsn)
    moved = Context(settings, database, lambda *_: None)
    (standing,) = delivered.disk_states_of_parts(
        moved, [deliveries.get(moved, delivery.id)], closely=True
    ).values()
    assert standing.disk_state == "missing"  # though the old home is still there
    shutil.copytree(context.settings.delivery_root, settings.delivery_root)
    found = deliveries.get(moved, delivery.id)
    assert found.parts[0].folder.is_relative_to(settings.delivery_root)
    (standing,) = delivered.disk_states_of_parts(moved, [found], closely=True).values()
    assert standing.disk_state == "intact"
    files = delivered.delivered_files(moved, delivery.id).files
    assert all(path.is_relative_to(settings.delivery_root) for path, _ in files)
    again = deliveries.create_delivery(moved, project, [(found.parts[0].set_id or 0, "orm-y-down")])
    assert again.state == "done"  # nothing is written once more


def test_paths_of_older_versions_are_adopted(
    first: tuple[Context, StoredDelivery], database: Database, project: str, tmp_path: Path
) -> None:
    """Those under a folder of this server, and the default place of any home."""
    context, delivery = first
    set_name = "pier"
    here = context.settings.delivery_root / project / "orm-y-down" / set_name
    for old in (here, Path("/old/home/deliveries", project, "orm-y-down", set_name)):
        with database.transaction() as connection:
            connection.execute(
                "update delivery_part set folder = %s where delivery_id = %s",
                [f"{old}", delivery.id],
            )
            adopt(connection, context.places())
        assert stored(database, delivery.id) == f"deliveries:{project}/orm-y-down/{set_name}"
    with database.transaction() as connection:
        connection.execute(
            "update delivery_part set folder = '/old/chosen/pier' where delivery_id = %s",
            [delivery.id],
        )
        adopt(connection, context.places())
    assert stored(database, delivery.id) == "/old/chosen/pier"
    part = deliveries.get(context, delivery.id).parts[0]
    (standing,) = delivered.disk_states_of_delivery(context, [part], closely=False).values()
    assert "isn't in an allowed folder" in standing.text


def test_a_destination_moves_with_its_folder(
    context: Context, project: str, tmp_path: Path
) -> None:
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
    context.settings.roots = f"game={tmp_path}/one"
    destinations.choose(context, project, "orm-y-down", tmp_path / "one" / "art", "{set}",
                        destinations.TargetOptions())  # fmt: skip
    context.settings.roots = f"game={tmp_path}/two"  # the disk is mounted elsewhere now
    found = {one.target_id: one for one in destinations.all_of(context, project)}
    assert found["orm-y-down"].folder == tmp_path / "two" / "art"
    context.settings.roots = ""
    found = {one.target_id: one for one in destinations.all_of(context, project)}
    why = destinations.not_allowed(
        context.settings, found["orm-y-down"], found["orm-y-down"].folder
    )
    assert "isn't in an allowed folder" in str(why)
