"""Destinations of deliveries."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.targets.options import TargetOptions, name_of
from copper_sieve.services.destinations import Destination, Listing


class FolderRead(ResponseModel):
    """A folder on the server."""

    folder: str
    root: str
    parent: str | None = Field(description="null if the folder is inside an allowed root")
    folders: list[str]
    is_writable: bool
    is_there: bool = Field(description="false: the next delivery creates it")


class FolderCreate(RequestModel):
    """A new folder inside an allowed one."""

    folder: str
    name: str = Field(min_length=1, max_length=200)


class DestinationWrite(RequestModel):
    """Destination of a target in a project.

    pattern : subfolders with {target}, {set} and {project}; "" for no subfolder
    dry : only check, without saving
    """

    folder: str = Field(min_length=1, max_length=4096)
    pattern: str = Field(max_length=400)
    options: TargetOptions = TargetOptions()
    dry: bool = False


class TargetFileRead(ResponseModel):
    """A file that a target writes, by the name used to exclude it."""

    name: str
    is_on: bool


class DestinationRead(ResponseModel):
    """Destination of a target in a project.

    example : full path of a set's files; shares : several sets or targets share a folder
    copy_example : full URL of their copy; null without copy destination
    """

    target_id: str
    title: str
    folder: str
    pattern: str
    options: TargetOptions
    is_default: bool
    example: str
    copy_example: str | None
    shares: bool
    files: list[TargetFileRead]


class AutoDeliverRead(ResponseModel):
    """An auto-deliver rule: one cell; every set for a target, if there is no set; or every cell
    that was delivered before, if there is neither.
    """

    set_id: int | None
    target_id: str | None


class AutoDeliverCell(RequestModel):
    """See `AutoDeliverRead`."""

    set_id: int | None = None
    target_id: str | None = None


class AutoDeliverWrite(RequestModel):
    """Rules to enable or disable."""

    cells: list[AutoDeliverCell] = Field(min_length=1, max_length=100_000)
    kept: bool


def read_folder(found: Listing) -> FolderRead:
    """Return the response for a folder."""
    return FolderRead(
        folder=str(found.folder),
        root=str(found.root),
        parent=None if found.parent is None else str(found.parent),
        folders=list(found.folders),
        is_writable=found.is_writable,
        is_there=found.is_there,
    )


def read_destination(one: Destination, project: str, example: str) -> DestinationRead:
    """Return the response for a destination.

    example : name of a set
    """
    folder, _ = one.place(project, example)
    written = {name_of(file) for file in one.preset.files}
    return DestinationRead(
        target_id=one.target_id,
        title=one.preset.title,
        folder=str(one.folder),
        pattern=one.pattern,
        options=one.options,
        is_default=one.is_default,
        example=str(folder),
        copy_example=one.copy_place(project, example),
        shares=one.shares,
        files=[
            TargetFileRead(name=name, is_on=True)
            for name in dict.fromkeys([name_of(file) for file in one.preset.files])
        ]
        + [
            TargetFileRead(name=name, is_on=False)
            for name in one.options.off
            if name not in written
        ],
    )
