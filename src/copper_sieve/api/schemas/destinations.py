"""Where deliveries go."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.core.targets.options import TargetOptions, name_of
from copper_sieve.services.destinations import Destination, Listing


class FolderRead(Answer):
    """A folder of the server to choose from."""

    folder: str
    root: str
    parent: str | None = Field(description="null if the folder is inside an allowed root")
    folders: list[str]
    is_writable: bool
    is_there: bool = Field(description="false: the next delivery creates it")


class FolderCreate(Request):
    """A new folder in one that is allowed."""

    folder: str
    name: str = Field(min_length=1, max_length=200)


class DestinationWrite(Request):
    """Where the sets of a project go for a target.

    pattern : of folders in `folder`, with {target}, {set} and {project}; "" for the folder itself
    dry : nothing is kept, it is only checked
    """

    folder: str = Field(min_length=1, max_length=4096)
    pattern: str = Field(max_length=400)
    options: TargetOptions = TargetOptions()
    dry: bool = False


class TargetFileRead(Answer):
    """A file that a target writes, by the name by which it is turned off."""

    name: str
    is_on: bool


class DestinationRead(Answer):
    """Where the sets of a project go for a target.

    example : the whole path of a set's files; shares : several sets or targets lie in one folder
    copy_example : the whole URL of their copy; null where there is none
    """

    target_id: str
    title: str
    folder: str
    pattern: str
    options: TargetOptions
    is_usual: bool
    example: str
    copy_example: str | None
    shares: bool
    files: list[TargetFileRead]


class KeptUpRead(Answer):
    """What is delivered by itself: a cell; every set for a target, without a set; every cell that
    was delivered once, without both."""

    set_id: int | None
    target_id: str | None


class KeptUpCell(Request):
    """See `KeptUpRead`."""

    set_id: int | None = None
    target_id: str | None = None


class KeptUpWrite(Request):
    """What is kept up to date from now on, or no longer."""

    cells: list[KeptUpCell] = Field(min_length=1, max_length=100_000)
    kept: bool


def read_folder(found: Listing) -> FolderRead:
    """The answer for a folder."""
    return FolderRead(
        folder=str(found.folder),
        root=str(found.root),
        parent=None if found.parent is None else str(found.parent),
        folders=list(found.folders),
        is_writable=found.is_writable,
        is_there=found.is_there,
    )


def read_destination(one: Destination, project: str, example: str) -> DestinationRead:
    """The answer for a destination.

    example : the name of a set
    """
    folder, _ = one.place(project, example)
    written = {name_of(file) for file in one.preset.files}
    return DestinationRead(
        target_id=one.target_id,
        title=one.preset.title,
        folder=str(one.folder),
        pattern=one.pattern,
        options=one.options,
        is_usual=one.is_usual,
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
