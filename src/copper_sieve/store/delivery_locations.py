"""Server folders by name, so that stored paths stay valid when the server moves.

A path in the database is "name:path in that folder", such as "deliveries:quay/orm-y-down/wall". A
server that was restored or moved finds the same files under its own folder of that name.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path, PurePath
from typing import Any

from psycopg import Connection, Cursor
from psycopg.adapt import Buffer, Dumper
from psycopg.rows import DictRow, dict_row

DELIVERIES = "deliveries"
_COLUMNS = frozenset({"folder", "path"})  # that hold such paths, in every table
_TABLES = (("delivery_part", "folder"), ("destination", "folder"), ("watched_folder", "path"))


class DeliveryLocations:
    """The folders of a server.

    Parameters
    ----------
    roots : mapping of str to Path
        Absolute folders by name; a name contains no colon and no slash.
    """

    def __init__(self, roots: Mapping[str, Path]) -> None:
        self.roots = dict(roots)
        forms = [(name, form) for name, root in roots.items() for form in {root, root.resolve()}]
        self._forms = sorted(forms, key=lambda one: -len(one[1].parts))

    def stored(self, path: PurePath) -> str:
        """Return the stored form of a path; paths outside the server's folders are unchanged."""
        for name, root in self._forms:
            if path.is_relative_to(root):
                inner = path.relative_to(root).as_posix()
                return f"{name}:{'' if inner == '.' else inner}"
        return str(path)

    def path(self, stored: str) -> Path:
        """Return the path for a stored one.

        If the folder's name is unknown to this server, the returned path doesn't exist.
        """
        name, mark, inner = stored.partition(":")
        if stored.startswith("/") or not mark or name not in self.roots:
            return Path(stored)
        return self.roots[name] / inner


Current = Callable[[], DeliveryLocations]


def rows_with_paths(current: Current) -> Callable[[Cursor[Any]], Any]:
    """Return a row factory that gives stored paths as paths of this server."""

    def factory(cursor: Cursor[Any]) -> Callable[[Sequence[Any]], DictRow]:
        make = dict_row(cursor)
        columns = [one.name for one in cursor.description or () if one.name in _COLUMNS]
        if not columns:
            return make

        def row(values: Sequence[Any]) -> DictRow:
            found = make(values)
            places = current()
            for name in columns:
                if found[name] is not None:
                    found[name] = places.path(found[name])
            return found

        return row

    return factory


def store_paths(connection: Connection[Any], current: Current) -> None:
    """Make a connection convert paths in parameters to their stored form."""

    class PathDumper(Dumper):
        oid = 25  # text

        def dump(self, obj: PurePath) -> Buffer:
            return current().stored(obj).encode()

    connection.adapters.register_dumper(PurePath, PathDumper)


def adopt(connection: Connection[Any], places: DeliveryLocations) -> None:
    """Convert paths that an older version stored as absolute paths.

    A delivery to the default location of another home belongs to that of this home: its path ends
    in project, target and set.
    """
    for table, column in _TABLES:
        for name, root in places._forms:
            connection.execute(
                f"update {table} set {column} = %(name)s || ':' ||"
                f" substr({column}, length(%(root)s) + 2)"
                f" where {column} = %(root)s or starts_with({column}, %(root)s || '/')",
                {"name": name, "root": str(root)},
            )
    connection.execute(
        "update delivery_part p set folder = %(name)s || ':' || inner_path from ("
        " select q.delivery_id, q.n,"
        " r.slug || '/' || q.target_id || '/' || (q.definition ->> 'name') as inner_path"
        " from delivery_part q join delivery d on d.id = q.delivery_id"
        " join project r on r.id = d.project_id where starts_with(q.folder, '/')"
        ") usual where p.delivery_id = usual.delivery_id and p.n = usual.n"
        " and right(p.folder, length(inner_path) + 1) = '/' || inner_path",
        {"name": DELIVERIES},
    )
