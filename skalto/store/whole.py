"""A file that is there whole, or not at all."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from skalto.core.errors import raise_if_full


def in_steps(files: Any) -> bool:
    """Whether a file system shows a file while it is written, as a folder does; an object store shows it when it is whole."""
    return "file" in files.protocol


def written_whole(files: Any, path: str, write: Callable[[str], None]) -> None:
    """Have *write* write a file beside, then put it under its name; nothing half written stays.

    :raises StoreFull: when there is no room.
    """
    steps = in_steps(files)
    part = f"{path}.{uuid.uuid4().hex}.part" if steps else path
    try:
        files.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
        write(part)
        if steps:
            files.mv(part, path)
    except BaseException as error:
        # what stays of it takes no room
        with suppress(Exception):
            if steps:
                files.rm_file(part)
        if isinstance(error, OSError):
            raise_if_full(error)
        raise
