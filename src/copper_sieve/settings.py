"""Settings from the environment, each with a default that works on one machine."""

from __future__ import annotations

import itertools
import os
import re
from pathlib import Path

from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from copper_sieve.core.codecs import Limits
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.errors import SetupError


def _default_home() -> Path:
    if os.name == "posix" and os.geteuid() == 0:
        return Path("/var/lib/copper-sieve")  # the postgres user must be able to reach it
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "copper-sieve"


def load_settings() -> Settings:
    """Read the settings from the environment. Raises SetupError that names the variable."""
    try:
        return Settings()
    except ValidationError as error:
        first = error.errors()[0]
        name = "_".join(str(part) for part in first["loc"]).upper()
        variable = name if name == "DATABASE_URL" else f"SIEVE_{name}"
        raise SetupError(f"{variable}: {first['msg']}. Correct or unset it") from error


class Settings(BaseSettings):
    """All settings."""

    model_config = SettingsConfigDict(env_prefix="SIEVE_", extra="ignore", populate_by_name=True)

    home: Path = Field(default_factory=_default_home, description="data folder of the server")
    database_url: str = Field(default="", validation_alias="DATABASE_URL")
    cache_url: str = Field(
        default="", description="folder or fsspec URL of the cache; default: home/cache"
    )
    storage: str = Field(
        default="",
        description="fsspec URL through which servers and workers on several machines share "
        "deliveries",
    )
    cache_bytes: int = Field(default=4 * 1024**3, ge=0)
    kept_bytes: int = Field(
        default=0, ge=0, description="bytes of the cache of delivered files; 0 disables it"
    )
    memory: int = Field(
        default=0,
        ge=0,
        description="bytes of memory for all workers of a machine; default: 2/3 of the memory",
    )
    workers: int = Field(default=1, ge=1, le=64, description="number of worker processes")
    job_memory: int = Field(
        default=0,
        ge=0,
        description="bytes of memory a job may use; default: 2/3 of the memory",
    )
    job_seconds: float = Field(default=3600, gt=0, description="seconds a job may take")
    deliveries: Path | None = Field(default=None, description="root folder of deliveries")
    roots: str = Field(
        default="",
        description="further allowed root folders of deliveries, separated by : (; on Windows)",
    )
    copies: str = Field(
        default="", description="fsspec URLs that deliveries may be copied to, separated by spaces"
    )
    host: str = Field(default="127.0.0.1", description="address to listen on")
    hosts: str = Field(
        default="", description="further host names of the server, separated by commas"
    )
    token: str = Field(default="", description="access token of the server")
    hooks_allow: str = Field(
        default="",
        description=(
            "addresses, networks and host names, separated by commas, that webhooks may call "
            "although they are link-local or belong to the server"
        ),
    )
    port: int = Field(default=8420, ge=1, le=65535)
    max_side: int = Field(default=16384, ge=1)
    max_bytes: int = Field(default=512 * 1024 * 1024, ge=1)
    max_decoded: int = Field(
        default=2 * 1024**3, ge=1, description="bytes of the cache of decoded pictures"
    )

    max_model_bytes: int = Field(default=1 << 30, ge=1, description="of a model's file")
    max_triangles: int = Field(default=5_000_000, ge=1, description="of a model")

    @property
    def model_limits(self) -> ModelLimits:
        """Return the limits of models."""
        return ModelLimits(self.max_model_bytes, self.max_triangles)

    @property
    def limits(self) -> Limits:
        """Return the limits of imported images."""
        return Limits(self.max_side, self.max_bytes, self.max_decoded)

    @property
    def cache_place(self) -> str:
        """Return the folder or URL of the cache of computed pixels."""
        shared = f"{self.storage.rstrip('/')}/cache" if self.storage else ""
        return self.cache_url or shared or str(self.home / "cache")

    @property
    def delivery_root(self) -> Path:
        """Return the default folder of deliveries."""
        return self.deliveries or self.home / "deliveries"

    @property
    def open_folders(self) -> dict[str, Path]:
        """Return the folders that the server may write to and read from, by name.

        "deliveries" is the delivery root; entries of SIEVE_ROOTS are "NAME=FOLDER", or a folder
        that is called by its own name.
        """
        found = {"deliveries": self.delivery_root.absolute()}
        for entry in filter(None, self.roots.split(os.pathsep)):
            name, mark, folder = entry.partition("=")
            if not mark or "/" in name:
                name, folder = "", entry
            path = Path(folder).expanduser().absolute()
            base = re.sub(r"[:/\\\s]+", "-", name or path.name) or "root"
            same = (n for n in itertools.count(2) if f"{base}-{n}" not in found)
            found[base if base not in found else f"{base}-{next(same)}"] = path
        return found
