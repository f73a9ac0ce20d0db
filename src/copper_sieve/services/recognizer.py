"""The background of Intake: one thread looks at what waits, a picture at a time."""

from __future__ import annotations

import logging
import threading
import time
from pathlib import Path

from psycopg_pool import PoolClosed

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import DatabaseAwayError, PictureError
from copper_sieve.core.graph.turns import computing
from copper_sieve.core.ingest.recognize import recognize_file
from copper_sieve.core.ingest.sources import is_cut_out, light_facts, thumbnail, tiling_facts
from copper_sieve.core.recognition.light import light_of
from copper_sieve.core.recognition.tiling import tiling_of
from copper_sieve.services.arrival_table import recognition_row
from copper_sieve.services.context import Context
from copper_sieve.services.hints import hint_drop
from copper_sieve.services.lookout import Lookout
from copper_sieve.services.surfaces import look_at_next, notice
from copper_sieve.store import arrivals as store
from copper_sieve.store.arrivals import WaitingArrival
from copper_sieve.store.sources import set_decoded

_log = logging.getLogger(__name__)
_QUIET = 0.2  # seconds without an arrival before the next picture is looked at
_LOOK_AGAIN = 30.0  # seconds, for what another process left
_SOON = 1.0  # seconds, while the database is away


_LOCK = -5  # of the server that estimates lights; the purger has -4


class LightEstimator(Lookout):
    """A thread that estimates the lights of pictures of one surface.

    It may take minutes, so no file waits behind it: it hands the turn to compute on to whoever
    waits for it.
    """

    def __init__(self, context: Context) -> None:
        super().__init__(context, "light estimator", _LOCK, self.look)

    def look(self) -> None:
        """Estimate until no pictures wait for it."""
        while not self.is_stopping and look_at_next(self._context):
            pass


class Recognizer:
    """Looks at arrivals until none waits; sleeps until it is told of new ones."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._told = threading.Event()
        self._stopping = threading.Event()
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()
        self._arrived = 0.0
        self._seen: set[tuple[int, str]] = set()  # drops without hints so far
        self._left: set[tuple[int, str]] | None = None  # by an earlier server, to be compared

    def wake(self, *, arriving: bool = False) -> None:
        """There may be something to look at; files that are still arriving go first."""
        if arriving:
            self._arrived = time.monotonic()
        with self._lock:
            if self._stopping.is_set():
                return
            if self._thread is None or not self._thread.is_alive():
                self._thread = threading.Thread(target=self._run, name="recognizer", daemon=True)
                self._thread.start()
        self._told.set()

    @property
    def compares(self) -> bool:
        """Files of a drop were looked at one by one, and beside each other not yet."""
        return bool(self._seen)

    @property
    def is_new(self) -> bool:
        """Nobody has woken it since the server started."""
        return self._left is None

    def stop(self) -> None:
        """End the thread, after the picture that it is looking at."""
        with self._lock:
            self._stopping.set()
        self._told.set()
        if self._thread:
            self._thread.join()

    def _run(self) -> None:
        while not self._stopping.is_set():
            self._told.clear()
            try:
                while not self._stopping.is_set() and self._one():
                    # Files that are still arriving go first.
                    while time.monotonic() - self._arrived < _QUIET:
                        self._stopping.wait(_QUIET / 4)
            except PoolClosed:  # the server is stopping
                return
            except DatabaseAwayError:
                _log.warning("the database is away; looking at what arrived again soon")
                self._stopping.wait(_SOON)
                continue
            except Exception:
                _log.exception("recognizing failed")
            if not self._stopping.is_set():
                self._told.wait(_LOOK_AGAIN)

    def _one(self) -> bool:
        with self._context.database.transaction() as connection:
            waiting = store.next_waiting(connection)
        if waiting is None:
            self._compare()
            return False
        self._seen.add((waiting.project_id, waiting.batch))
        try:
            self._recognize(waiting)
        except PictureError as error:
            with self._context.database.transaction() as connection:
                store.set_refused(connection, waiting.id, error.message)
        except MemoryError:
            with self._context.database.transaction() as connection:
                store.set_refused(
                    connection, waiting.id,
                    f"{waiting.name} is too large for this machine's memory: reduce it",
                )  # fmt: skip
        return True

    def _compare(self) -> None:
        """Look at the files of each drop beside each other; once also at those that a server which
        is gone may not have come to."""
        if self._left is None:
            with self._context.database.transaction() as connection:
                self._left = store.recognized_drops(connection)
        for project_id, batch in self._seen:
            hint_drop(self._context, project_id, batch)
        for project_id, batch in self._seen | self._left:
            notice(self._context, project_id, batch)
        self._seen.clear()
        self._left.clear()

    def _recognize(self, waiting: WaitingArrival) -> None:
        with self._context.incoming() as folder:
            path = self._context.fetch_source(waiting.sha256, folder)
            with computing:
                read = recognize_file(path, self._context.settings.limits, Path(waiting.name).name)
                small = encode_png(thumbnail(read.picture))
                tiling, light = tiling_of(read.picture), light_of(read.picture)
        with self._context.database.transaction() as connection:
            set_decoded(
                connection, waiting.sha256, small, cut_out=is_cut_out(read.picture),
                tiling=tiling_facts(tiling), light=light_facts(light),
            )  # fmt: skip
            store.set_found(connection, waiting.id, recognition_row(read.recognition))
