"""A file that is there whole, or not at all."""

from __future__ import annotations

import functools
import hashlib
import os
import re
import secrets
import socket
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import psutil

from skalto.core.errors import raise_if_full


def in_steps(files: Any) -> bool:
    """Whether a file system shows a file while it is written, as a folder does; an object store shows it when it is whole."""
    return "file" in files.protocol


@functools.cache
def _machine() -> str:
    return hashlib.sha256(socket.gethostname().encode()).hexdigest()[:8]


@functools.cache
def _begun(pid: int) -> str:
    """When a process of this machine began, in hundredths of a second; '' where it is gone."""
    try:
        return str(round(psutil.Process(pid).create_time() * 100))
    except psutil.Error:
        return ""


_PART = re.compile(r"\.skalto-([0-9a-f]{8})-(\d{1,12})-(\d{1,16})-[0-9a-f]{16}\.part$")


def part_name(name: str) -> str:
    """What a file is called while it is written: it says by which process of which machine."""
    return f"{name}.skalto-{_machine()}-{os.getpid()}-{_begun(os.getpid())}-{secrets.token_hex(8)}.part"


def is_part(name: str) -> bool:
    """Whether a name is one of :func:`part_name`."""
    return _PART.search(name) is not None


def is_left(name: str) -> bool:
    """Whether a file was being written by a process of this machine that is gone."""
    found = _PART.search(name)
    if found is None or found[1] != _machine():
        return False
    _begun.cache_clear()
    began = _begun(int(found[2]))
    # a clock that is set moves beginnings by a little
    return not began or abs(int(began) - int(found[3])) > 200


def written_whole(files: Any, path: str, write: Callable[[str], None]) -> None:
    """Have *write* write a file beside, then put it under its name; nothing half written stays.

    :raises StoreFull: when there is no room.
    """
    steps = in_steps(files)
    part = part_name(path) if steps else path
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
