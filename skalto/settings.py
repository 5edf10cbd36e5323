"""Settings, from the environment (``SKALTO_…``) or the command line."""

from __future__ import annotations

import os
from functools import lru_cache
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where things are kept and how much is allowed."""

    model_config = SettingsConfigDict(env_prefix="SKALTO_")

    data: Path = Path("data")
    """The data folder: database, queue, and blobs unless *blobs* names another place."""

    host: str = "127.0.0.1"
    port: int = 8420
    blobs: str = ""
    """An fsspec URL for blobs, such as a shared folder; empty for a folder in *data*."""

    redis: str = ""
    """A Redis URL for the queue, so that other machines can work; empty for SQLite in *data*."""

    workers: int = Field(default_factory=lambda: max(1, os.cpu_count() or 1), ge=1, le=64)
    size_limit_mb: int = Field(default=500, ge=1)
    web: Path = Path(__file__).resolve().parent.parent / "web" / "dist"
    """The built page."""

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
