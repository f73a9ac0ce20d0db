"""Projects."""

from copper_sieve.api.schemas.common import Answer


class ProjectRead(Answer):
    """A project in the switcher."""

    slug: str
    title: str
    sets: int


class LimitsRead(Answer):
    """The largest pictures that are taken in."""

    max_side: int
    max_bytes: int


class HealthRead(Answer):
    """The server is up, and what it allows.

    open : everybody on this machine is let in
    """

    version: str
    limits: LimitsRead
    delivery_root: str
    open: bool


class UnreadableRead(Answer):
    """A set that is left out because it cannot be read."""

    id: int
    why: str
