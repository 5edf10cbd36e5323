"""The files that a command writes."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path

from skalto.core.errors import InputError
from skalto.store.whole import part_name


def _same(one: Path, other: Path) -> bool:
    """Whether two names are one file: by another way, a link, or letters of another case."""
    try:
        return one.samefile(other)
    except OSError:
        return False


class FilesOut:
    """Files on their way out: none goes over a source, over what is there only where that was asked for; each is there whole
    or not at all, and none is written before all can be."""

    def __init__(self, overwrite: bool, sources: Iterable[str | Path]) -> None:
        """:param overwrite: whether what is there may be replaced. :param sources: what the files are made from."""
        self._overwrite, self._sources = overwrite, [Path(own) for own in sources]
        self._files: dict[Path, bytes] = {}

    def check(self, out: str | Path) -> None:
        """:raises InputError: where a file may not be written."""
        path = Path(out)
        for source in self._sources:
            if _same(path, source):
                raise InputError(f"{out} is what the file is made from, which is never replaced: give --out another name.")
        if path.is_dir():
            raise InputError(f"{out} is a folder: name a file.")
        if os.path.lexists(path) and not self._overwrite:
            raise InputError(f"{out} is there already: give another name, or --overwrite to replace it.")

    def add(self, out: str | Path, data: bytes) -> None:
        """Have a file written with the others. :raises InputError: as :meth:`check`."""
        self.check(out)
        self._files[Path(out)] = data

    def write(self) -> list[str]:
        """Write them all; a sentence for each that replaced another.

        :raises InputError: where one cannot be written; those before it are there.
        """
        told = []
        for path in self._files:
            self.check(path)
        for path, data in self._files.items():
            there = os.path.lexists(path)
            try:
                _whole(path, data, self._overwrite)
            except FileExistsError:
                raise InputError(f"{path} is there already: give another name, or --overwrite to replace it.") from None
            except OSError as error:
                raise InputError(f"{path} cannot be written: {error.strerror or error}.") from None
            if there:
                told.append(f"{path} was there, and is replaced.")
        return told


_NO_LINKS = (errno.EPERM, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK)


def _whole(path: Path, data: bytes, overwrite: bool) -> None:
    """Write a file beside, then put it under its name. :raises FileExistsError: where that is taken and may not be."""
    if overwrite and path.exists():
        # a name that leads elsewhere goes on leading there
        path = path.resolve()
    part = path.with_name(part_name(path.name[:120]))
    try:
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666), "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if overwrite:
            with suppress(OSError):
                os.chmod(part, path.stat().st_mode & 0o7777)
            os.replace(part, path)
            return
        try:
            # unlike a renaming, a link never takes another's place
            os.link(part, path)
        except OSError as error:
            if error.errno not in _NO_LINKS:
                raise
            if os.path.lexists(path):
                raise FileExistsError(errno.EEXIST, "there already", str(path)) from None
            os.rename(part, path)
    finally:
        with suppress(OSError):
            os.unlink(part)
