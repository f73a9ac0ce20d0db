"""Memory is given back once nobody has asked for anything for a while, and not before."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from copper_sieve.core.image import array_pool
from copper_sieve.services import idle
from copper_sieve.services.idle import IdleThread, give_back
from copper_sieve.store.cache import MemoryCache


def test_what_only_speed_needs_is_given_back() -> None:
    memory = MemoryCache()
    for n in range(60):  # 240 MiB
        memory.put(str(n), np.zeros((1024, 1024, 1), np.float32))
    array_pool.forget_idle()
    array_pool.empty(2048, 2048, 1)  # idle at once
    assert array_pool._pool._bytes > 0
    give_back(memory)
    assert array_pool._pool._bytes == 0
    kept = [n for n in range(60) if memory.get(str(n)) is not None]
    assert kept == list(range(12, 60))  # the 192 MiB that were used last


def test_a_request_puts_it_off(monkeypatch: pytest.MonkeyPatch) -> None:
    given = threading.Event()
    monkeypatch.setattr(idle, "give_back", lambda _: given.set())
    rest = IdleThread(MemoryCache(), after=1.0)
    assert rest.quiet() >= 1.0
    rest.start()
    for _ in range(4):
        rest.disturb()
        assert rest.quiet() < 1.0
        assert not given.wait(0.3)
    assert given.wait(10)
    rest.stop()
