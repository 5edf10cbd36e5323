"""One server at a time on a data folder."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path
from typing import IO

from skalto.core.errors import InputError

_LOCK = "skalto.lock"


def lock(data: Path, says: str) -> IO[str]:
    """Hold a data folder until the returned file is closed, or the process ends, however it ends.

    :param says: where the server is to be found, for whoever finds the folder held.
    :raises InputError: when another server holds it, or it cannot be written.
    """
    try:
        data.mkdir(parents=True, exist_ok=True)
        file = (data / _LOCK).open("a+")
    except OSError as error:
        raise InputError(f"The data folder {data} cannot be written ({error.strerror}): give this user the right to.") from None
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.seek(0)
        there = file.read().strip() or "another process"
        file.close()
        raise InputError(
            f"The data folder {data} is in use by {there}: use that one, end it, or take another folder with --data."
        ) from None
    try:
        file.truncate(0)
        file.write(f"the Skalto at {says}, process {os.getpid()}")
        file.flush()
    except OSError:
        pass  # a full disk: the lock holds all the same
    return file
