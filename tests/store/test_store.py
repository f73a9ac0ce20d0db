"""The real database: migrations, chunks, one copy per picture, guarded changes."""

from __future__ import annotations

import hashlib
from importlib import resources
from pathlib import Path

import psycopg
import pytest

from copper_sieve.core.errors import ConflictError, NotFoundError, UnreadableError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.models.texture_set import Constant, Derived, Imported, SetDefinition, compose
from copper_sieve.jobs.queue import migrate_all
from copper_sieve.store import disk_use, recipes, sources, texture_sets
from copper_sieve.store.database import Database, Transaction, statements
from copper_sieve.store.projects import ensure_project, get_project, list_projects

MIB = 1024 * 1024
FACTS = FileFacts(
    file_name="", format="png", width=7, height=5, channels=("R", "G", "B"), bit_depth=8,
    floating=False, encoding="srgb", encoding_source="stated", bytes=1,
)  # fmt: skip


def keep(connection: Transaction, path: Path) -> tuple[str, bool]:
    sha256 = hashlib.sha256(path.read_bytes()).hexdigest()
    facts = FACTS.model_copy(update={"file_name": path.name})
    new = sources.add_source(
        connection, path, sha256=sha256, name=path.name, facts=facts, thumbnail=b"png"
    )
    return sha256, new


def test_migrating_again_changes_nothing(database: Database) -> None:
    assert migrate_all(database) == []
    with database.transaction() as connection:
        rows = connection.execute("select name from schema_migration").fetchall()
    ours = [row["name"] for row in rows if "/" not in row["name"]]
    folder = resources.files("copper_sieve.store") / "migrations"
    assert sorted(ours) == sorted(one.name for one in folder.iterdir() if one.name[0] == "0")
    assert len(rows) > len(ours)  # the queue's own


@pytest.mark.parametrize("size", [1, MIB - 1, MIB, 2 * MIB + 17])
def test_bytes_come_back_as_they_went_in(database: Database, tmp_path: Path, size: int) -> None:
    path = tmp_path / "some.bin"
    path.write_bytes(bytes((i * 31 + size) & 255 for i in range(size)))
    with database.transaction() as connection:
        sha256, new = keep(connection, path)
    assert new
    pieces = list(sources.read_chunks(database, sha256))
    assert b"".join(pieces) == path.read_bytes()
    assert max(map(len, pieces)) <= MIB
    assert len(pieces) == -(-size // MIB)


def test_the_same_bytes_are_kept_once(transaction: Transaction, tmp_path: Path) -> None:
    for name in ("a.png", "b.png"):
        (tmp_path / name).write_bytes(b"same bytes")
    first, new = keep(transaction, tmp_path / "a.png")
    again, newer = keep(transaction, tmp_path / "b.png")
    assert (first == again, new, newer) == (True, True, False)
    assert sources.get_source(transaction, first).name == "a.png"
    assert sources.source_sizes(transaction, [first, "0" * 64]) == {first: (7, 5)}


def test_what_is_not_there_is_said_so(transaction: Transaction) -> None:
    for ask in (
        lambda: sources.get_source(transaction, "0" * 64),
        lambda: sources.get_thumbnail(transaction, "0" * 64),
        lambda: texture_sets.get_set(transaction, 10**9),
        lambda: get_project(transaction, "nowhere"),
    ):
        with pytest.raises(NotFoundError, match="there is no"):
            ask()


@pytest.fixture
def wall(transaction: Transaction, tmp_path: Path) -> tuple[int, SetDefinition]:
    project = ensure_project(transaction, "store-tests", "Store tests")
    path = tmp_path / "wall.bin"
    path.write_bytes(b"wall")
    sha256, _ = keep(transaction, path)
    return project.id, compose("wall", {MapKind.BASE_COLOR: Imported(source=sha256)})


def test_sets_come_back_in_the_order_of_their_maps(
    transaction: Transaction, wall: tuple[int, SetDefinition]
) -> None:
    project, whole = wall
    row = texture_sets.add_set(transaction, project, whole)
    found = SetDefinition.model_validate(texture_sets.get_set(transaction, row.id).stored)
    assert list(found.maps) == list(whole.maps)
    assert found == whole


def test_names_are_made_distinct_whatever_their_case(
    transaction: Transaction, wall: tuple[int, SetDefinition]
) -> None:
    project, whole = wall
    shout = whole.model_copy(update={"name": "WALL"})
    names = [texture_sets.add_set(transaction, project, s).name for s in (whole, shout, whole)]
    assert names == ["wall", "WALL_2", "wall_3"]


def test_a_change_on_an_old_version_is_refused(
    transaction: Transaction, wall: tuple[int, SetDefinition]
) -> None:
    project, whole = wall
    row = texture_sets.add_set(transaction, project, whole)
    mine = whole.with_map(MapKind.METALLIC, Constant(value=(1.0,)))
    changed = texture_sets.update_set(transaction, row.id, 1, mine)
    assert changed.version == 2
    with pytest.raises(ConflictError, match=r"changed by someone else .*version 2, yours is 1"):
        texture_sets.update_set(transaction, row.id, 1, whole)
    kept = SetDefinition.model_validate(texture_sets.get_set(transaction, row.id).stored)
    assert kept == mine


def test_states_are_kept_undone_redone_and_given_up(
    transaction: Transaction, wall: tuple[int, SetDefinition], monkeypatch: pytest.MonkeyPatch
) -> None:
    project, whole = wall
    row = texture_sets.add_set(transaction, project, whole)
    set_id = row.id

    def shown() -> tuple[float, ...]:
        definition = texture_sets.get_set(transaction, set_id).stored
        found = SetDefinition.model_validate(definition).maps[MapKind.METALLIC]
        assert isinstance(found, Constant)
        return found.value

    def change(value: float) -> None:
        version = texture_sets.get_set(transaction, set_id).version
        one = whole.with_map(MapKind.METALLIC, Constant(value=(value,)))
        texture_sets.update_set(transaction, set_id, version, one)

    def step(by: int) -> None:
        version = texture_sets.get_set(transaction, set_id).version
        texture_sets.step_history(transaction, set_id, version, by)

    with pytest.raises(ConflictError, match="nothing to undo"):
        step(-1)
    for value in (0.1, 0.2, 0.3):
        change(value)
    step(-1)
    step(-1)
    assert shown() == (0.1,)
    assert texture_sets.history_positions(transaction, [set_id]) == {set_id: (True, True)}
    step(1)
    assert shown() == (0.2,)
    change(0.9)  # gives up what was undone
    with pytest.raises(ConflictError, match="nothing to redo"):
        step(1)
    step(-1)
    assert shown() == (0.2,)
    with pytest.raises(ConflictError, match="changed by someone else"):
        texture_sets.step_history(transaction, set_id, 1, -1)
    monkeypatch.setattr(texture_sets, "_STATES_KEPT", 3)
    for value in (0.4, 0.5, 0.6, 0.7):
        change(value)
    for due in ((0.6,), (0.5,), (0.4,)):
        step(-1)
        assert shown() == due
    assert texture_sets.history_positions(transaction, [set_id]) == {set_id: (False, True)}


def test_a_source_in_use_cannot_be_deleted(
    transaction: Transaction, wall: tuple[int, SetDefinition]
) -> None:
    project, whole = wall
    texture_sets.add_set(transaction, project, whole)
    (sha256,) = whole.sources()
    with pytest.raises(psycopg.errors.ForeignKeyViolation), transaction.transaction():
        transaction.execute("delete from source where sha256 = %s", [sha256])


def test_projects_are_made_once(transaction: Transaction) -> None:
    first = ensure_project(transaction, "once", "Once")
    assert ensure_project(transaction, "once", "Twice") == first
    (found,) = [one for one in list_projects(transaction) if one.slug == "once"]
    assert (found.id, found.title, found.sets, found.latest) == (first.id, "Once", 0, ())


def test_statements_have_names_and_parameters() -> None:
    folder = resources.files("copper_sieve.store") / "queries"
    files = [one.name.removesuffix(".sql") for one in folder.iterdir()]
    assert len(files) >= 8
    for file in files:
        found = statements(file)
        assert found
        assert all(text and ";" not in text for text in found.values())


def test_locks_are_seen_by_others_and_fall_with_their_holder(database: Database) -> None:
    with database.held_lock(1) as mine:
        assert mine
        with database.held_lock(1) as theirs, database.held_lock(2) as other:
            assert (bool(theirs), bool(other)) == (False, True)
    with database.held_lock(1) as again:
        assert again


def test_names_stay_within_their_rule_and_distinct(transaction: Transaction) -> None:
    ensure_project(transaction, "long", "Long")
    project_id = get_project(transaction, "long").id
    made = [
        texture_sets.add_set(transaction, project_id, SetDefinition(name="n" * 100, maps={}))
        for _ in range(12)
    ]
    names = [row.name for row in made]
    assert len(set(names)) == 12
    assert max(len(name) for name in names) == 100
    assert (names[1], names[11]) == ("n" * 98 + "_2", "n" * 97 + "_12")
    assert all(row.definition().name == row.name for row in made)


def test_names_that_broke_their_rule_are_mended(transaction: Transaction) -> None:
    from importlib import resources

    ensure_project(transaction, "broken", "Broken")
    project_id = get_project(transaction, "broken").id
    whole = texture_sets.add_set(transaction, project_id, SetDefinition(name="a" * 100, maps={}))
    long = "a" * 100 + "_2"
    transaction.execute(
        "update texture_set set name = %(n)s, definition = replace(definition::text, %(o)s, %(n)s)"
        "::json where id = %(id)s", {"n": long, "o": "a" * 100, "id": whole.id}
    )  # fmt: skip
    row = texture_sets.get_set(transaction, whole.id)
    with pytest.raises(UnreadableError, match="can't be read"):
        row.definition()
    folder = resources.files("copper_sieve.store") / "migrations"
    transaction.execute((folder / "0006_names.sql").read_text())  # type: ignore[arg-type]
    row = texture_sets.get_set(transaction, whole.id)
    assert row.definition().name == row.name
    assert len(row.name) == 100


def test_a_recipe_keeps_the_pictures_that_it_mixes_in(
    transaction: Transaction, tmp_path: Path
) -> None:
    (tmp_path / "grain.png").write_bytes(b"grain")
    (tmp_path / "loose.png").write_bytes(b"loose")
    held, _ = keep(transaction, tmp_path / "grain.png")
    loose, _ = keep(transaction, tmp_path / "loose.png")
    mixed = Derived(operation="normal_from_height", slots={"second": Imported(source=held)})
    recipes.put_recipe(transaction, Recipe(name="grained", maps={MapKind.NORMAL: mixed}),
                       replace=False)  # fmt: skip
    disk_use.delete_unused(transaction, seconds=-1, only=[held, loose])
    assert sources.get_source(transaction, held).name == "grain.png"
    with pytest.raises(NotFoundError):
        sources.get_source(transaction, loose)
