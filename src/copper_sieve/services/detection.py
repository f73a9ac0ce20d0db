"""Detection of files in Intake: first each file, then the files of a drop in comparison."""

from __future__ import annotations

import time
from pathlib import Path

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.detection.light import estimate_light
from copper_sieve.core.detection.tiling import measure_tiling
from copper_sieve.core.errors import PictureError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.ingest.detect import recognize_file
from copper_sieve.core.ingest.sources import is_cut_out, light_facts, thumbnail, tiling_facts
from copper_sieve.services.arrival_table import recognition_row
from copper_sieve.services.capture_groups import notice
from copper_sieve.services.context import Context
from copper_sieve.services.hints import hint_drop
from copper_sieve.services.jobs.requests import ask_comparison
from copper_sieve.services.jobs.running import Running
from copper_sieve.store import arrivals as store
from copper_sieve.store.arrivals import WaitingArrival
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import StoredJob, delete_job
from copper_sieve.store.sources import set_decoded

_SETTLED = 0.5  # seconds since the last file of a drop was sent: probably all of it is there


def detect(context: Context, running: Running) -> None:
    """Detect what one file is, unless it was removed or changed since."""
    arrival_id = running.arguments["arrival_id"]
    with context.database.transaction() as connection:
        waiting = store.get_waiting(connection, arrival_id)
        known = store.known_recognition(connection, arrival_id) if waiting else None
        if waiting is None or known is not None:
            if waiting is not None:
                store.set_found(connection, waiting.id, known)
                ask_comparison(context, connection, waiting.project_id, waiting.batch)
            running.drop(connection)
            return
    try:
        _detect(context, running, waiting)
    except PictureError as error:
        with context.database.transaction() as connection:
            _refuse(context, connection, waiting, error.message)
            running.drop(connection)


def _detect(context: Context, running: Running, waiting: WaitingArrival) -> None:
    with context.incoming() as folder:
        path = context.fetch_source(waiting.sha256, folder)
        with computing:
            read = recognize_file(path, context.settings.limits, Path(waiting.name).name)
            running.check()
            small = encode_png(thumbnail(read.picture))
            tiling, light = measure_tiling(read.picture), estimate_light(read.picture)
    with context.database.transaction() as connection:
        set_decoded(
            connection, waiting.sha256, small, cut_out=is_cut_out(read.picture),
            tiling=tiling_facts(tiling), light=light_facts(light),
        )  # fmt: skip
        store.set_found(connection, waiting.id, recognition_row(read.recognition))
        ask_comparison(context, connection, waiting.project_id, waiting.batch)
        running.drop(connection)


def detection_failed(context: Context, connection: Transaction, job: StoredJob, why: str) -> None:
    """Reject a file that couldn't be detected, so that its drop continues without it.

    The reason is shown with the file in Intake, not in the job list.
    """
    waiting = store.get_waiting(connection, job.arguments["arrival_id"])
    if waiting is not None:
        _refuse(context, connection, waiting, why)
    delete_job(connection, job.id, anyhow=True)


def _refuse(context: Context, connection: Transaction, waiting: WaitingArrival, why: str) -> None:
    store.set_refused(connection, waiting.id, why)
    ask_comparison(context, connection, waiting.project_id, waiting.batch)


def compare(context: Context, running: Running) -> None:
    """Compare the files of a drop after all of them were detected.

    The last detected file triggers this, so that nothing is compared while files wait.
    """
    project_id, batch = running.arguments["project_id"], running.arguments["batch"]
    while True:
        with context.database.transaction() as connection:
            waiting, age = store.drop_state(connection, project_id, batch)
        if waiting or age >= _SETTLED:
            break
        time.sleep(min(_SETTLED, max(0.0, _SETTLED - age)))
        running.check()
    if not waiting:
        hint_drop(context, project_id, batch)
        running.check()
        notice(context, project_id, batch)
    with context.database.transaction() as connection:
        running.drop(connection)
