"""Blobs: bytes under a key, through fsspec; a folder by default, an object store as well."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

import fsspec

from skalto.store.whole import in_steps, is_left, is_part, written_whole


def content_hash(data: bytes) -> str:
    """The name of content: SHA-256, hex."""
    return hashlib.sha256(data).hexdigest()


_KEY = re.compile(r"[0-9A-Za-z][0-9A-Za-z._-]*(/[0-9A-Za-z][0-9A-Za-z._-]*)*")


class UnfitKey(KeyError):
    """A key that could lead out of the store. Nothing is kept under such a one."""


@dataclass(frozen=True)
class Blob:
    """A blob's *key*, its *size* in bytes, and when it was *modified*, seconds since 1970."""

    key: str
    size: int
    modified: float


class Blobs:
    """A store of blobs at an fsspec URL. Written once, never changed; a half-written blob is never seen."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._files: Any
        self._root: str
        self._files, self._root = fsspec.core.url_to_fs(url)
        self._files.makedirs(self._root, exist_ok=True)
        self._in_steps = in_steps(self._files)

    def _path(self, key: str) -> str:
        """Where a blob lies. :raises UnfitKey: for a key that is not plain names with slashes between them."""
        if not _KEY.fullmatch(key):
            raise UnfitKey(key)
        return f"{self._root}/{key}"

    def exists(self, key: str) -> bool:
        return bool(self._files.exists(self._path(key)))

    def get(self, key: str) -> bytes:
        """:raises KeyError: when there is no such blob."""
        try:
            return bytes(self._files.cat_file(self._path(key)))
        except FileNotFoundError:
            raise KeyError(key) from None

    def put(self, key: str, data: bytes) -> None:
        """Keep bytes under a key. :raises StoreFull: when there is no room."""
        self._placed(key, lambda part: self._files.pipe_file(part, data))

    def _placed(self, key: str, write: Callable[[str], None]) -> None:
        written_whole(self._files, self._path(key), write)

    def put_file(self, key: str, file: Path) -> None:
        """Keep a file of this machine under a key, a piece at a time."""
        self._placed(key, lambda part: self._files.put_file(str(file), part))

    def fetch(self, key: str, to: Path) -> None:
        """Copy a blob into a file of this machine. :raises KeyError: when there is no such blob."""
        try:
            self._files.get_file(self._path(key), str(to))
        except FileNotFoundError:
            raise KeyError(key) from None

    def drop(self, key: str) -> None:
        """Forget a blob; one that is not there is forgotten."""
        with suppress(FileNotFoundError):
            self._files.rm_file(self._path(key))

    def listed(self) -> Iterator[Blob]:
        """All that is kept, in no order; what is being written is not."""
        root = f"{self._root.rstrip('/')}/"
        for path, facts in self._files.find(self._root, detail=True).items():
            moment = next((facts[name] for name in ("mtime", "LastModified", "created") if facts.get(name)), 0.0)
            modified = moment.timestamp() if isinstance(moment, datetime) else float(moment)
            key = str(path).removeprefix(root)
            if not is_part(key):
                yield Blob(key, int(facts.get("size") or 0), modified)

    def sweep(self, folder: str) -> None:
        """Forget all blobs whose keys begin with *folder* and a slash."""
        with suppress(FileNotFoundError):
            self._files.rm(self._path(folder), recursive=True)

    def clear(self) -> None:
        """Forget everything."""
        with suppress(FileNotFoundError):
            self._files.rm(self._root, recursive=True)

    def sweep_parts(self) -> None:
        """Remove what processes of this machine were writing when they were killed."""
        if self._in_steps:
            for part in Path(self._root).rglob("*.part"):
                if is_left(part.name):
                    part.unlink(missing_ok=True)
