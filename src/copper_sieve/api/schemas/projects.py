"""Projects."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.models.labels import Title


class ProjectRead(ResponseModel):
    """A project in lists."""

    slug: str
    title: str
    sets: int
    created_at: datetime
    changed_at: datetime | None = Field(description="when one of its sets last changed")
    deleted_at: datetime | None = Field(description="when it was deleted")
    latest: list[int] = Field(description="up to five sets that changed last")


class ProjectCreate(RequestModel):
    """A new project; `copy_of` is the slug of a project whose sets are copied."""

    title: Title
    copy_of: str | None = None


class ProjectChange(RequestModel):
    """Changes the title, deletes, or restores (within 30 days). Missing fields stay unchanged."""

    title: Title | None = None
    deleted: bool | None = None


class DiskUseRead(ResponseModel):
    """Disk use of a project, in bytes."""

    originals: int = Field(description="imported files used by the project")
    original_bytes: int
    shared_bytes: int = Field(description="of these, shared with other projects or recipes")
    trash_sets: int
    trash_imports: int = Field(description="files that were dismissed in Intake")
    trash_files: int = Field(description="originals used only by sets in the Trash")
    trash_bytes: int
    delivered_files: int = Field(description="files of the latest delivery into each folder")
    delivered_bytes: int


class LimitsRead(ResponseModel):
    """Limits of imported pictures."""

    max_side: int
    max_bytes: int


class HealthRead(ResponseModel):
    """The server is running, with its limits.

    open : no access token is required
    """

    version: str
    limits: LimitsRead
    delivery_root: str
    open: bool


class UnreadableRead(ResponseModel):
    """A set that can't be read."""

    id: int
    why: str
