"""Destinations of deliveries: allowed folders, layouts, and overrides of targets."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from copper_sieve.core.errors import ConflictError, DeliveryError, NotFoundError, ParameterError
from copper_sieve.core.models.manifest import FILE_NAME
from copper_sieve.core.models.naming import check_name, expand
from copper_sieve.core.targets.options import TargetOptions
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.context import Context
from copper_sieve.services.targets import all_targets, find_target
from copper_sieve.settings import Settings
from copper_sieve.store import destinations
from copper_sieve.store.database import Transaction
from copper_sieve.store.destinations import StoredDestination
from copper_sieve.store.projects import get_project

USUAL = "{target}/{set}"
_TOKENS = ("target", "set", "project")


@dataclass(frozen=True, slots=True)
class Destination:
    """The destination of a project's sets for a target.

    folder : absolute; pattern : of subfolders, with {target}, {set} and {project}
    preset : the target with the project's overrides
    is_default : no destination was chosen
    """

    target_id: str
    folder: Path
    pattern: str
    options: TargetOptions
    preset: TargetPreset
    is_default: bool

    @property
    def shares(self) -> bool:
        """Return whether several sets or targets share a folder."""
        return "{set}" not in self.pattern or "{target}" not in self.pattern

    def place(self, project: str, set_name: str) -> tuple[Path, str]:
        """Return the folder of a set, and the name of its manifest there.

        A folder that several sets or targets share has a manifest for each.
        """
        values = {"target": self.preset.id, "set": set_name, "project": project}
        folder = self.folder / Path(*parts_of(self.pattern, values))
        if not self.shares:
            return folder, FILE_NAME
        return folder, f"{set_name}.{self.preset.id}.{FILE_NAME}"

    def copy_place(self, project: str, set_name: str) -> str | None:
        """Return the URL that a set is copied to, or None."""
        if self.options.copy_to is None:
            return None
        values = {"target": self.preset.id, "set": set_name, "project": project}
        return "/".join((self.options.copy_to.rstrip("/"), *parts_of(self.pattern, values)))


def parts_of(pattern: str, values: dict[str, str]) -> list[str]:
    """Return the subfolders of a pattern. Raises NamePatternError, ParameterError."""
    unknown = [one for one in re.findall(r"\{([^{}]*)\}", pattern) if one not in _TOKENS]
    if unknown:
        known = ", ".join(f"{{{one}}}" for one in _TOKENS)
        raise ParameterError(f"{pattern}: unknown variable {{{unknown[0]}}}. Use {known}")
    if pattern.startswith(("/", "\\")):
        raise ParameterError(
            f"{pattern}: the layout is relative to the destination. Remove the leading slash"
        )
    return [check_name(expand(one, values)) for one in pattern.split("/") if one]


def roots(settings: Settings) -> list[Path]:
    """Return the allowed root folders of deliveries: SIEVE_ROOTS and the default one."""
    return list(dict.fromkeys(one.resolve() for one in settings.open_folders.values()))


def root_of(settings: Settings, folder: Path) -> Path:
    """Return the innermost allowed folder that a folder is in, links followed.

    Raises
    ------
    DeliveryError
        No allowed folder contains it.
    """
    found, allowed = folder.resolve(), roots(settings)
    holding = [root for root in allowed if found == root or root in found.parents]
    if not holding:
        listed = ", ".join(str(root) for root in allowed)
        leads = "" if found == folder else " (it is a link that leads elsewhere)"
        raise DeliveryError(
            f"{folder} isn't in an allowed folder{leads}. Choose a folder in "
            f"{listed}, or add it to SIEVE_ROOTS and restart the server"
        )
    return max(holding, key=lambda one: len(one.parts))


def check_allowed(settings: Settings, folder: Path) -> Path:
    """Return a folder, links resolved, if it is in an allowed one. Raises DeliveryError."""
    root_of(settings, folder)
    return folder.resolve()


def _requested(settings: Settings, folder: Path) -> Path:
    """Return a folder from a request; see `check_allowed`."""
    if not folder.is_absolute():
        raise DeliveryError(f"{folder} isn't an absolute path. Use an absolute path")
    return check_allowed(settings, folder)


def copy_destinations(settings: Settings) -> list[str]:
    """Return the URLs that deliveries may be copied to: SIEVE_COPIES."""
    return list(dict.fromkeys(one.rstrip("/") for one in settings.copies.split()))


def check_copy(settings: Settings, place: str) -> None:
    """Check that a URL is one of SIEVE_COPIES, or inside. Raises DeliveryError."""
    allowed = copy_destinations(settings)
    inside = any(place.rstrip("/") == one or place.startswith(f"{one}/") for one in allowed)
    if not inside or ".." in place.split("/"):
        listed = ", ".join(allowed) or "none"
        raise DeliveryError(
            f"{place} isn't an allowed copy destination ({listed}). Choose another, or add "
            "it to SIEVE_COPIES and restart the server"
        )


def not_allowed(settings: Settings, place: Destination, folder: Path) -> str | None:
    """Return why nothing may be written there, or None.

    Parameters
    ----------
    settings : Settings
        SIEVE_ROOTS and SIEVE_COPIES may have changed since the destination was set.
    place : Destination
    folder : Path
        Folder of one set there; it may have become a link to another place.
    """
    try:
        check_allowed(settings, folder)
        if place.options.copy_to is not None:
            check_copy(settings, place.options.copy_to)
    except DeliveryError as error:
        return error.message
    return None


@dataclass(frozen=True, slots=True)
class Listing:
    """A folder with its subfolders.

    parent : None at an allowed root
    folders : names in alphabetical order
    is_there : it exists; else a delivery creates it
    """

    folder: Path
    root: Path
    parent: Path | None
    folders: tuple[str, ...]
    is_writable: bool
    is_there: bool


def browse(context: Context, folder: Path | None) -> Listing:
    """List the subfolders of a folder, by default the delivery root.

    Raises DeliveryError, NotFoundError.
    """
    settings = context.settings
    found = _requested(settings, folder or settings.delivery_root)
    names: list[str] = []
    try:
        names = sorted(
            (one.name for one in found.iterdir() if one.is_dir() and one.name[0] != "."),
            key=str.lower,
        )
    except FileNotFoundError:
        pass
    except OSError as error:
        raise NotFoundError(f"couldn't open {found} ({error.strerror})") from error
    root = root_of(settings, found)
    parent = None if found == root else found.parent
    return Listing(found, root, parent, tuple(names), os.access(found, os.W_OK), found.is_dir())


def create_folder(context: Context, folder: Path, name: str) -> Listing:
    """Create a folder in an allowed one. Raises DeliveryError, NamePatternError, ConflictError."""
    made = _requested(context.settings, folder) / check_name(name.strip())
    try:
        made.mkdir()
    except FileExistsError as error:
        raise ConflictError(f"{made} already exists") from error
    except OSError as error:
        raise DeliveryError(f"couldn't create {made} ({error.strerror})") from error
    return browse(context, made)


def of_project(
    settings: Settings, connection: Transaction, project_id: int, slug: str
) -> dict[str, Destination]:
    """Return the destinations of a project for every target."""
    kept = destinations.of_project(connection, project_id)
    return {
        key: _destination(settings, slug, one.preset, kept.get(key))
        for key, one in all_targets(connection).items()
    }


def _destination(
    settings: Settings, slug: str, preset: TargetPreset, kept: StoredDestination | None
) -> Destination:
    if kept is None:
        folder = settings.delivery_root / slug
        return Destination(preset.id, folder, USUAL, TargetOptions(), preset, is_default=True)
    try:
        options = TargetOptions.model_validate(kept.options)
        wanted = options.of(preset)
    except (ValidationError, ParameterError):  # the target was changed since
        options, wanted = TargetOptions(), preset
    return Destination(preset.id, kept.folder, kept.pattern, options, wanted, is_default=False)


def all_of(context: Context, slug: str) -> list[Destination]:
    """Return the destinations of a project for every target. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        return list(of_project(context.settings, connection, project.id, slug).values())


def choose(  # noqa: PLR0917
    context: Context, slug: str, target_id: str, folder: Path, pattern: str, options: TargetOptions,
    *, dry: bool = False,
) -> Destination:  # fmt: skip
    """Set the destination of a project for a target.

    dry : only check it
    Raises NotFoundError, UnknownTargetError, DeliveryError, ParameterError, NamePatternError.
    """
    parts_of(pattern, dict.fromkeys(_TOKENS, "x"))
    if options.copy_to is not None:
        check_copy(context.settings, options.copy_to)
    chosen = _requested(context.settings, folder)
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        preset = find_target(connection, target_id)
        wanted = options.of(preset)
        held = options.model_dump(mode="json", exclude_defaults=True)
        if not dry:
            destinations.put(
                connection, project.id, StoredDestination(target_id, chosen, pattern, held)
            )
    return Destination(target_id, chosen, pattern, options, wanted, is_default=False)


def reset_destination(context: Context, slug: str, target_id: str) -> Destination:
    """Use the default destination for a target again. Raises as `choose`."""
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        preset = find_target(connection, target_id)
        destinations.remove(connection, project.id, target_id)
    return _destination(context.settings, slug, preset, None)
