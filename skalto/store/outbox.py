"""The outbox of releases: a folder or any fsspec address. A file is there whole, or not at all."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import fsspec

from skalto.core.errors import InputError
from skalto.store.blobs import content_hash
from skalto.store.rights import hand_on
from skalto.store.whole import in_steps, is_left, written_whole


class Outbox:
    """Files by their paths, with slashes, under an address."""

    def __init__(self, url: str) -> None:
        """:raises InputError: when the address is of no kind that is installed, or cannot be reached."""
        self.url = url
        self._files: Any
        self._root: str
        try:
            self._files, self._root = fsspec.core.url_to_fs(url)
            self._files.makedirs(self._root, exist_ok=True)
        except ImportError as error:
            raise InputError(f"{url.partition(':')[0]}:// needs a package that is not installed ({error}).") from None
        except Exception as error:
            # the library's own words name the reason
            raise InputError(f"The outbox {url} cannot be reached: {error}") from None
        self._in_steps = in_steps(self._files)

    def _path(self, path: str) -> str:
        parts = path.split("/")
        if not path or any(part in ("", ".", "..") for part in parts):
            raise InputError(f"“{path}” is no file of an outbox.")
        return f"{self._root}/{path}"

    def exists(self, path: str) -> bool:
        return bool(self._files.exists(self._path(path)))

    def get(self, path: str) -> bytes:
        """:raises KeyError: when there is no such file."""
        try:
            return bytes(self._files.cat_file(self._path(path)))
        except FileNotFoundError:
            raise KeyError(path) from None

    def hash(self, path: str) -> str:
        """The SHA-256 of a file, '' when it is not there."""
        try:
            return content_hash(self.get(path))
        except KeyError:
            return ""

    def put(self, path: str, data: bytes, aside: str, replaced: str = "") -> None:
        """Leave a file under its name. What is there under the name and is another file is moved into the folder *aside*
        first, unless its SHA-256 is *replaced*; the same bytes are left as they are.

        :raises StoreFull: when there is no room. :raises InputError: when it cannot be written.
        """
        there = self.hash(path)
        if there == content_hash(data):
            return
        try:
            if there and there != replaced:
                self._aside(path, aside)
            written_whole(self._files, self._path(path), lambda part: self._write(part, data))
            if self._in_steps:
                hand_on(Path(self._path(path)), Path(self._root))
        except OSError as error:
            raise InputError(f"{path} cannot be written to the outbox: {error.strerror or error}.") from None

    def _write(self, part: str, data: bytes) -> None:
        if not self._in_steps:
            self._files.pipe_file(part, data)
            return
        with self._files.open(part, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())

    def unknown(self, known: Mapping[str, str]) -> list[str]:
        """Which of some files are there and are not what they are known as, by the SHA-256 of each, '' for one that is not
        known."""
        return [path for path, digest in known.items() if (there := self.hash(path)) and there != digest]

    def move_aside(self, path: str, folder: str) -> None:
        """Move a file into a folder of the outbox; one that is not there is aside."""
        if self.exists(path):
            self._aside(path, folder)

    def _aside(self, path: str, folder: str) -> None:
        """Move a file aside; a file that was moved there before under its name stays."""
        stem, dot, suffix = path.rpartition(".")
        target, number = f"{folder}/{path}", 1
        while self.exists(target):
            number += 1
            target = f"{folder}/{stem}-{number}{dot}{suffix}"
        self._files.makedirs(self._path(target).rsplit("/", 1)[0], exist_ok=True)
        self._files.mv(self._path(path), self._path(target))

    def sweep_parts(self) -> None:
        """Remove what processes of this machine were writing when they were killed; nothing that others made."""
        if self._in_steps:
            for part in Path(self._root).rglob("*.part"):
                if is_left(part.name):
                    part.unlink(missing_ok=True)
