"""Whose turn it is to compute."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import pytest

from copper_sieve.core.graph.fair_lock import FairLock

SOON = 10.0  # seconds; far more than anything here takes


def started(work: Callable[[], object]) -> threading.Thread:
    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    return thread


def until(true: Callable[[], bool]) -> None:
    end = time.monotonic() + SOON
    while not true():
        assert time.monotonic() < end
        threading.Event().wait(0.001)


def waiting(turns: FairLock) -> int:
    return len(turns._row)


def test_one_at_a_time() -> None:
    turns, inside, most = FairLock(), [0], [0]

    def work() -> None:
        for _ in range(200):
            with turns:
                inside[0] += 1
                most[0] = max(most[0], inside[0])
                inside[0] -= 1

    threads = [started(work) for _ in range(4)]
    for thread in threads:
        thread.join(SOON)
    assert (most, inside) == ([1], [0])


def test_who_comes_first_has_it_first_also_before_who_had_it_last() -> None:
    turns, order = FairLock(), []

    def work(name: str) -> Callable[[], None]:
        def run() -> None:
            with turns:
                order.append(name)

        return run

    with turns:
        threads = []
        for n, name in enumerate("abc"):
            threads.append(started(work(name)))
            until(lambda n=n: waiting(turns) == n + 1)  # type: ignore[misc]
    with turns:  # a plain lock would be taken again before the others wake
        assert order == ["a", "b", "c"]
    for thread in threads:
        thread.join(SOON)


def test_who_is_ahead_goes_first_and_keeps_the_others_waiting_between_its_turns() -> None:
    turns, order = FairLock(), []
    go_on, between = threading.Event(), threading.Event()

    def long_work() -> None:
        with turns:
            order.append("long")

    def hand() -> None:
        with turns.ahead():
            with turns:
                order.append("hand")
            between.set()
            go_on.wait(SOON)
            with turns:
                order.append("hand again")

    with turns:
        first = started(long_work)
        until(lambda: waiting(turns) == 1)
        second = started(hand)
        until(lambda: waiting(turns) == 2)
    assert between.wait(SOON)
    assert order == ["hand"]  # nobody has it, and still the long work waits
    go_on.set()
    for thread in (first, second):
        thread.join(SOON)
    assert order == ["hand", "hand again", "long"]


def test_it_is_handed_on_after_an_error() -> None:
    turns = FairLock()
    with pytest.raises(ValueError, match="broken"), turns.ahead(), turns:
        raise ValueError("broken")
    done = threading.Event()

    def work() -> None:
        with turns:
            done.set()

    started(work)
    assert done.wait(SOON)


def test_a_long_turn_lets_who_waits_go_between_its_steps() -> None:
    turns, order = FairLock(), []

    def work() -> None:
        with turns:
            order.append("other")

    with turns:
        order.append("first step")
        turns.hand_on()  # nobody waits: it goes on
        order.append("second step")
        thread = started(work)
        until(lambda: waiting(turns) == 1)
        turns.hand_on()
        order.append("third step")
    thread.join(SOON)
    assert order == ["first step", "second step", "other", "third step"]
    with turns:  # and it is free again
        assert waiting(turns) == 0
