"""Cells, columns and projects that are kept up to date: delivered by themselves once rested."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from copper_sieve.core.errors import NotFoundError, UnknownTargetError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.services import auto_deliver, deliveries, delivery_worker, sets, targets
from copper_sieve.services.auto_deliver import AutoDeliverer, rules_of_project, set_rules
from copper_sieve.services.context import Context
from copper_sieve.store.auto_deliver import AutoDeliverRule
from tests.conftest import MakePhoto
from tests.jobs.conftest import set_of

ORM, PLAIN = "orm-y-down", "separate-png"


@pytest.fixture
def ids(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> Iterator[list[int]]:
    """Two sets; at the end nothing is kept up to date any more, in any project."""
    yield [
        set_of(context, project, make_photo(f"quay{seed}.png", seed=seed), tmp_path)
        for seed in (91, 92)
    ]
    with context.database.transaction() as connection:
        connection.execute("delete from auto_deliver")


@pytest.fixture
def keeper(context: Context, monkeypatch: pytest.MonkeyPatch) -> AutoDeliverer:
    """One that finds every hand rested."""
    monkeypatch.setattr(auto_deliver, "_REST", 0.0)
    return AutoDeliverer(context)


def change(context: Context, set_id: int, value: float) -> None:
    view = sets.get_view(context, set_id)
    changed = view.texture_set.with_map(MapKind.METALLIC, Constant(value=(value,)))
    sets.change(context, set_id, view.version, changed)


def cells(context: Context, asked: list[int]) -> set[tuple[int | None, str]]:
    """What was asked for; and it is carried out."""
    found = set()
    for number in asked:
        found |= {(part.set_id, part.target_id) for part in deliveries.get(context, number).parts}
        delivery_worker.run(context, number)
    return found


def test_a_cell_is_delivered_once_and_whenever_it_changed(
    context: Context, project: str, ids: list[int], keeper: AutoDeliverer
) -> None:
    assert keeper.look() == []
    set_rules(context, project, [AutoDeliverRule(ids[0], ORM)], kept=True)
    assert cells(context, keeper.look()) == {(ids[0], ORM)}
    assert keeper.look() == []
    change(context, ids[0], 0.5)
    change(context, ids[1], 0.5)  # nobody keeps that one
    assert cells(context, keeper.look()) == {(ids[0], ORM)}
    set_rules(context, project, [AutoDeliverRule(ids[0], ORM)], kept=False)
    assert rules_of_project(context, project) == []
    change(context, ids[0], 0.75)
    assert keeper.look() == []


def test_a_column_takes_new_sets_and_a_project_what_was_delivered_once(
    context: Context, project: str, ids: list[int], keeper: AutoDeliverer, make_photo: MakePhoto,
    tmp_path: Path,
) -> None:  # fmt: skip
    set_rules(context, project, [AutoDeliverRule(None, ORM)], kept=True)
    assert cells(context, keeper.look()) == {(one, ORM) for one in ids}
    new = set_of(context, project, make_photo("late.png", seed=93), tmp_path)
    assert cells(context, keeper.look()) == {(new, ORM)}
    set_rules(context, project, [AutoDeliverRule(None, ORM)], kept=False)
    set_rules(context, project, [AutoDeliverRule(None, None)], kept=True)
    cells(context, [deliveries.create_delivery(context, project, [(new, PLAIN)]).id])
    for one in (ids[0], new):
        change(context, one, 0.25)
    assert cells(context, keeper.look()) == {(ids[0], ORM), (new, ORM), (new, PLAIN)}


def test_a_target_that_is_gone_keeps_no_other_from_being_kept(
    context: Context, project: str, ids: list[int], keeper: AutoDeliverer
) -> None:
    own = get_target(ORM).model_copy(update={"id": "ours"})
    targets.add(context, own)
    set_rules(
        context, project, [AutoDeliverRule(None, "ours"), AutoDeliverRule(ids[0], PLAIN)], kept=True
    )
    targets.delete_target(context, "ours")
    assert cells(context, keeper.look()) == {(ids[0], PLAIN)}


def test_a_hand_that_has_not_rested_is_waited_for(
    context: Context, project: str, ids: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(auto_deliver, "_REST", 0.6)
    time.sleep(0.7)
    keeper = AutoDeliverer(context)
    set_rules(context, project, [AutoDeliverRule(None, ORM)], kept=True)
    assert cells(context, keeper.look()) == {(one, ORM) for one in ids}
    for value in (0.1, 0.2, 0.3):  # a burst
        change(context, ids[0], value)
        assert keeper.look() == []
    time.sleep(0.7)
    assert len(keeper.look()) == 1
    assert keeper.look() == []  # one run for all of it


def test_what_fails_or_was_cancelled_is_not_tried_until_it_changes(
    context: Context, project: str, ids: list[int], keeper: AutoDeliverer
) -> None:
    set_rules(context, project, [AutoDeliverRule(one, ORM) for one in ids], kept=True)
    (asked,) = keeper.look()
    deliveries.cancel(context, asked)
    assert keeper.look() == []
    change(context, ids[0], 0.5)
    (asked,) = keeper.look()
    first = deliveries.get(context, asked).parts[0]
    change(context, ids[0], 0.6)  # while it waits: the same cell is not asked for twice
    assert keeper.look() == []
    first.folder.parent.mkdir(parents=True, exist_ok=True)
    first.folder.write_text("a file in the way", "utf-8")
    delivery_worker.run(context, asked)
    assert deliveries.get(context, asked).state == "failed"
    assert keeper.look() == []  # the file is still in the way
    first.folder.unlink()
    change(context, ids[0], 0.7)
    assert cells(context, keeper.look()) == {(ids[0], ORM)}


def test_of_two_servers_one_keeps(
    context: Context, project: str, ids: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(auto_deliver, "_REST", 0.0)
    set_rules(context, project, [AutoDeliverRule(ids[0], ORM)], kept=True)
    keepers = [AutoDeliverer(context, every=0.05) for _ in range(2)]
    for one in keepers:
        one.start()
    end = time.monotonic() + 10
    while not (waiting := deliveries.under_way(context, project)):
        assert time.monotonic() < end
        time.sleep(0.02)
    time.sleep(0.3)
    for one in keepers:
        one.stop()
    assert [one.delivery.id for one in deliveries.under_way(context, project)] == [
        one.delivery.id for one in waiting
    ]
    deliveries.cancel(context, waiting[0].delivery.id)


def test_what_is_not_there_cannot_be_kept(context: Context, project: str, ids: list[int]) -> None:
    with pytest.raises(UnknownTargetError):
        set_rules(context, project, [AutoDeliverRule(ids[0], "nowhere")], kept=True)
    with pytest.raises(NotFoundError):
        set_rules(context, project, [AutoDeliverRule(10**9, ORM)], kept=True)
    assert rules_of_project(context, project) == []
