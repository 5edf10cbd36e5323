"""Settings, from the environment (``SKALTO_…``) or the command line."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

from pydantic import Field, field_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from skalto.core.cores import cores
from skalto.jobs.limits import KINDS, Kind, Limit
from skalto.jobs.queue import LOST_SECONDS


def _page() -> Path:
    """Where the built page is: in an installed package, or beside the sources."""
    packaged = Path(__file__).resolve().parent / "page"
    return packaged if packaged.is_dir() else packaged.parent.parent / "web" / "dist"


class Settings(BaseSettings):
    """Where things are kept and how much is allowed."""

    model_config = SettingsConfigDict(env_prefix="SKALTO_")

    data: Path = Path("data")
    """The data folder: database, queue, and blobs unless *blobs* names another place."""

    host: str = "127.0.0.1"
    """What the server is bound to. Anything but this machine itself needs *token*."""

    port: int = 8420
    hosts: str = ""
    """Names, with commas between, that the server answers to beside this machine's own: those that people type to reach it."""

    token: str = ""
    """What people sign in with. Without one, only this machine itself is served."""

    proxies: str = ""
    """Addresses, with commas between, of proxies whose word is taken for who asks and whether TLS is between."""

    blobs: str = ""
    """An fsspec URL for blobs, such as a shared folder; empty for a folder in *data*."""

    outbox: str = ""
    """An fsspec URL for what is released, such as a shared folder; empty for a folder in *data*."""

    redis: str = ""
    """A Redis URL for the queue, so that other machines can work; empty for SQLite in *data*."""

    workers: int = Field(default_factory=cores, ge=0, le=64)
    """How many pieces of work this machine does at once; 0 for a server that leaves all of it to others."""

    lost_seconds: float = Field(default=LOST_SECONDS, ge=1)
    """How long a worker may be silent before others take up its work."""

    limits: dict[Kind, Limit] = {}
    """Seconds and megabytes of a piece of work by its kind, as JSON: ``{"reading": [300, 2000]}``. Others stay as they are."""

    size_limit_mb: int = Field(default=500, ge=1)
    web: Path = Field(default_factory=_page)
    """The built page."""

    @field_validator("limits", mode="before")
    @classmethod
    def _known(cls, limits: Any) -> Any:
        for kind in limits if isinstance(limits, dict) else ():
            if kind not in KINDS:
                raise ValueError(f"there is no kind of work “{kind}”: it is one of {', '.join(KINDS)}")
        return limits

    @field_validator("limits")
    @classmethod
    def _above_nothing(cls, limits: dict[Kind, Limit]) -> dict[Kind, Limit]:
        for kind, limit in limits.items():
            if limit.seconds <= 0 or limit.megabytes <= 0:
                raise ValueError(f"the limits of {kind} have to be more than 0")
        return limits

    @property
    def allowed_hosts(self) -> tuple[str, ...]:
        return tuple(name.strip() for name in self.hosts.split(",") if name.strip())

    @property
    def coming(self) -> Path:
        """Where files lie while they come in or go out."""
        return self.data / "coming"

    @property
    def outbox_url(self) -> str:
        return self.outbox or str((self.data / "outbox").resolve())

    @property
    def blob_url(self) -> str:
        return self.blobs or str((self.data / "blobs").resolve())

    @property
    def size_limit(self) -> int:
        """Bytes."""
        return self.size_limit_mb * 1_000_000


@lru_cache
def environment_settings() -> Settings:
    """The settings of this process, read once."""
    return Settings()
