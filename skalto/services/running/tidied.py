"""A data folder tidied while no server runs on it."""

from __future__ import annotations

from pathlib import Path

from skalto.core.errors import InputError
from skalto.jobs.queue import Queue
from skalto.services.running.locking import lock
from skalto.services.use_cases.studio import Studio
from skalto.services.use_cases.tidying import Swept, Tidying
from skalto.settings import Settings
from skalto.store.jobs import open_database
from skalto.store.rights import keep_private


def tidy(data: Path | None, at_once: bool) -> Swept:
    """Remove what nobody refers to, with no server beside.

    :raises InputError: when there is no data folder, or it is in use.
    """
    settings = Settings()
    settings = settings.model_copy(update={"data": data or settings.data})
    if not (settings.data / "skalto.db").is_file():
        raise InputError(f"{settings.data} is no data folder of Skalto: name one with --data.")
    keep_private(settings.data)
    held = lock(settings.data, "the command line, tidying")
    try:
        open_database(settings.data / "skalto.db")
        return Tidying(Studio(settings, Queue(settings.data, settings.redis))).sweep(at_once)
    finally:
        held.close()
