"""The PostgreSQL task queue: its one task, how to fill it, and the worker that empties it."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import signal
import threading
from collections.abc import Callable
from typing import LiteralString

import procrastinate
from procrastinate.exceptions import AlreadyEnqueued

from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.settings import Settings
from copper_sieve.store.database import Database

_log = logging.getLogger(__name__)
_RECOVER_EVERY = 3.0  # seconds


def queue_schema() -> LiteralString:
    """The queue's own tables, as SQL."""
    return procrastinate.schema.SchemaManager.get_schema()


def enqueuer(dsn: str) -> tuple[procrastinate.App, Callable[[int], None]]:
    """An opened app for this process and a function that queues a delivery, once."""
    app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=dsn))
    app.open()

    def enqueue(delivery_id: int) -> None:
        with contextlib.suppress(AlreadyEnqueued):
            app.configure_task(
                "deliver", queue="deliveries", queueing_lock=f"delivery-{delivery_id}"
            ).defer(delivery_id=delivery_id)

    return app, enqueue


def work(settings: Settings, dsn: str) -> None:
    """Run a worker until it is told to stop (SIGTERM or SIGINT) or its parent dies.

    A delivery under way when the stop comes goes back to the queue and leaves nothing behind.
    """
    stopping = threading.Event()
    app_for_queueing, enqueue = enqueuer(dsn)
    database = Database(dsn, size=4)
    context = Context(settings, database, enqueue)
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=dsn))

    @app.task(name="deliver", queue="deliveries")
    def deliver(delivery_id: int) -> None:
        deliveries.run(context, delivery_id, stopping.is_set)

    async def main() -> None:
        loop = asyncio.get_running_loop()
        done = asyncio.Event()

        def stop() -> None:
            stopping.set()
            done.set()

        for number in (signal.SIGTERM, signal.SIGINT):
            loop.add_signal_handler(number, stop)
        async with app.open_async():
            worker = asyncio.create_task(
                app.run_worker_async(
                    concurrency=1,
                    install_signal_handlers=False,
                    fetch_job_polling_interval=2.0,
                    delete_jobs="successful",
                )
            )
            watcher = asyncio.create_task(_watch(context, stop))
            await asyncio.wait(
                {worker, asyncio.create_task(done.wait())}, return_when=asyncio.FIRST_COMPLETED
            )
            stop()
            watcher.cancel()
            worker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await worker

    asyncio.run(main())
    app_for_queueing.close()
    database.close()


async def _watch(context: Context, stop: Callable[[], None]) -> None:
    """Queue again what dead workers left, and go when the process that started us has gone."""
    parent = os.getppid()
    while os.getppid() == parent:
        try:
            if again := await asyncio.to_thread(deliveries.recover, context):
                _log.warning("deliveries queued again: %s", again)
        except Exception:  # the database may be restarting; the next round tries again
            _log.exception("looking for lost deliveries failed")
        await asyncio.sleep(_RECOVER_EVERY)
    stop()
