"""Make a database dump of every schema that was ever released, with the code of its time.

    python tests/store/released/make.py [NUMBER...]

For each migration from 0006 (version 0.1.0) the last commit before the next one is checked out; its
own code fills a database with two sets, tags, notes, a recipe, an own target, a webhook, a delivery
that is done, and one that was cut off by a kill. `tests/store/test_released.py` migrates each dump.
"""

from __future__ import annotations

import gzip
import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
HERE = Path(__file__).resolve().parent
_FIRST = 6
MIGRATIONS = "src/copper_sieve/store/migrations"

FILL = """
import sys, tempfile, time
from pathlib import Path
import numpy as np
from PIL import Image
from fastapi.testclient import TestClient
from copper_sieve.store.cluster import Cluster, binaries
from copper_sieve.store.database import Database
from copper_sieve.jobs.queue import migrate_all
import copper_sieve.jobs.queue as queue
from copper_sieve.services.context import Context
try:
    from copper_sieve.services import delivery_worker as delivering
except ImportError:  # until 0021
    from copper_sieve.services import delivering
from copper_sieve.api.application import make_application
from copper_sieve.store.projects import ensure_project
from copper_sieve.settings import Settings

home = Path(sys.argv[1])
cluster = Cluster(home / "cluster")
dsn = cluster.start()
print("dsn", dsn, "bin", binaries(), flush=True)
try:
    database = Database(dsn)
    migrate_all(database)
    with database.transaction() as connection:
        ensure_project(connection, "quay", "Quay")
    context = Context(Settings(home=home / "home", database_url=dsn), database, queue.enqueuer())
    try:
        from copper_sieve.api.access import Access, OpenOnLoopback
        access = [Access(OpenOnLoopback())]
    except ImportError:
        access = []
    client = TestClient(make_application(context, *access), base_url="http://127.0.0.1")
    client._transport.client = ("127.0.0.1", 50000)
    api = "/api/v1" if client.get("/api/v1/health").status_code == 200 else "/api"  # until 0021
    codes = (np.random.default_rng(5).random((16, 16, 3)) * 255).astype(np.uint8)
    for name in ("wall.png", "deck.png"):
        path = home / name
        Image.fromarray(codes).save(path)
        codes = 255 - codes
        answer = client.post(f"{api}/projects/quay/sources?name={name}", content=path.read_bytes())
        print(answer.status_code, answer.text[:200], flush=True)
    wall, deck = sorted(one["id"] for one in client.get(f"{api}/projects/quay/sets").json())
    for body in (
        {"set_ids": [wall], "change": {"do": "tags", "add": ["wet"]}},
        {"set_ids": [wall], "change": {"do": "notes", "text": "By the water"}},
        {"set_ids": [wall], "change": {"do": "constant", "kind": "metallic", "value": [0.25]}},
    ):
        print(client.post(f"{api}/projects/quay/changes", json=body).status_code, flush=True)
    print(client.post(f"{api}/recipes", json={"set_id": wall, "name": "wall"}).status_code)
    for address in ("hooks", "webhooks"):  # until 0017, and since
        hook = {"url": "http://192.0.2.1/x"}
        print(client.post(f"{api}/projects/quay/{address}", json=hook).status_code)
    target = client.get(f"{api}/targets").json()[0]
    own = {name: value for name, value in target.items() if name not in ("own", "edition")}
    own |= {"id": "our-own", "title": "Ours"}
    print(client.post(f"{api}/targets", json=own).status_code)
    ask = {"set_ids": [wall], "target_ids": ["orm-y-down"]}
    first = client.post(f"{api}/projects/quay/deliveries", json=ask).json()
    try:
        delivering.run(context, first["id"])
    except TypeError:
        delivering.run(context, first["id"], lambda: False)
    print(client.get(f"{api}/deliveries/{first['id']}").json()["state"], flush=True)
    ask["set_ids"] = [wall, deck]
    second = client.post(f"{api}/projects/quay/deliveries", json=ask).json()
    print("second", second["id"], second.get("state"), flush=True)
    with database.transaction() as connection:  # a worker took it up and was killed
        columns = connection.execute("select column_name from information_schema.columns"
                                     " where table_name = 'delivery_part'").fetchall()
        if "state" in [row["column_name"] for row in columns]:
            connection.execute("update delivery_part set state = 'running', started_at = now(),"
                               " attempts = 1 where delivery_id = %s and n = 0", [second["id"]])
        else:
            connection.execute("update delivery set state = 'running', started_at = now()"
                               " where id = %s", [second["id"]])
    database.close()
    import subprocess, urllib.parse, os
    import psycopg
    parts = psycopg.conninfo.conninfo_to_dict(dsn)
    environment = {**os.environ, "PGHOST": parts["host"], "PGPORT": str(parts["port"]),
                   "PGUSER": parts["user"], "PGPASSWORD": parts.get("password") or "",
                   "PGDATABASE": parts["dbname"]}
    command = [str(binaries() / "pg_dump"), "--no-owner", "--no-privileges", "--inserts"]
    dump = subprocess.run(command, env=environment, capture_output=True, text=True,
                          check=True).stdout
    Path(sys.argv[2]).write_text(dump.replace(str(home), "/released"), "utf-8")
finally:
    cluster.release() if hasattr(cluster, "release") else cluster.stop()
"""


def releases() -> dict[int, str]:
    """The last commit of each schema, by the number of its last migration."""
    log = ["git", "log", "--reverse", "--format=%H", "--", MIGRATIONS]
    commits = subprocess.run(log, cwd=ROOT, capture_output=True, text=True, check=True).stdout
    found = {}
    for commit in [*commits.split()[1:], None]:
        last = f"{commit}~1" if commit else "HEAD"
        listed = ["git", "ls-tree", "--name-only", last, f"{MIGRATIONS}/"]
        names = subprocess.run(listed, cwd=ROOT, capture_output=True, text=True, check=True).stdout
        found[max(int(Path(name).name[:4]) for name in names.split())] = last
    return {number: commit for number, commit in found.items() if number >= _FIRST}


def make(number: int, commit: str) -> None:
    """Write the dump of one schema."""
    with tempfile.TemporaryDirectory(prefix="sieve-released-") as name:
        home = Path(name)
        home.chmod(0o755)
        tree = home / "tree"
        subprocess.run(["git", "worktree", "add", "--detach", "-q", str(tree), commit], cwd=ROOT,
                       check=True)  # fmt: skip
        try:
            environment = {**os.environ, "PYTHONPATH": str(tree / "src"),
                           "COPPER_SIEVE_ROOT": str(tree)}  # fmt: skip
            out = home / "dump.sql"
            (home / "fill.py").write_text(FILL)
            done = subprocess.run([sys.executable, str(home / "fill.py"), str(home), str(out)],
                                  env=environment, cwd=tree, check=False, text=True,
                                  capture_output=True)  # fmt: skip
            print(f"== {number} {commit}\n{done.stdout[-1500:]}{done.stderr[-1500:]}")
            if out.exists():
                data = gzip.compress(out.read_bytes(), mtime=0)
                (HERE / f"{number:04}.sql.gz").write_bytes(data)
        finally:
            subprocess.run(
                ["git", "worktree", "remove", "--force", str(tree)], cwd=ROOT, check=True
            )


if __name__ == "__main__":
    wanted = {int(one) for one in sys.argv[1:]}
    for found, at in releases().items():
        if not wanted or found in wanted:
            make(found, at)
