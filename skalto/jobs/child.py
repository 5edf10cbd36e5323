"""A process of its own for heavy work: it can be stopped at any moment, and if it dies nothing else does."""

from __future__ import annotations

import ctypes
import functools
import importlib
import multiprocessing
import os
import shutil
import signal
import sys
import tempfile
import threading
import time
import traceback
from collections.abc import Callable, Mapping
from contextlib import suppress
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from multiprocessing.util import Finalize
from pathlib import Path
from typing import Any

import psutil

from skalto.core.errors import Cancelled, InputError, StoreFull, raise_if_full
from skalto.core.progress import Lasting, Pace, Progress
from skalto.jobs.limits import DEFAULTS, RENEWED, Kind, Limit, over_memory, over_time, over_together, together

_POLL_SECONDS = 0.1
_FOLDER = "skalto-work-"
_NICE = 10
_LOST = 255
"""What a process counts as having ended with, when the one that it was forked from is gone too (multiprocessing.forkserver)."""


class WorkFailed(Exception):
    """The work broke off for a reason that is not in its input."""


class Killed(WorkFailed):
    """The process that did the work was killed from outside; the work itself may be sound."""


def _function(name: str) -> Callable[..., Any]:
    module, _, attribute = name.partition(":")
    found: Callable[..., Any] = getattr(importlib.import_module(module), attribute)
    return found


def go_with_parent() -> None:
    """End when the parent does, in the middle of the kernel's longest loop too (prctl(2), PR_SET_PDEATHSIG; Linux alone)."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None, use_errno=True).prctl(1, signal.SIGKILL)


_source_of_children = threading.Lock()


def _forks(preload: str) -> bool:
    """Whether processes are forked from one that has *preload* loaded."""
    return bool(preload) and sys.platform == "linux" and _own_folder() != ""


def _ready_source(preload: str) -> None:
    """Have a process that loads *preload* and that others are forked from; does not wait until it has. From a thread that lives
    as long as the work does, since it goes with that."""
    forkserver.set_forkserver_preload(["skalto.jobs.forked", preload])
    before, tempfile.tempdir = tempfile.tempdir, _own_folder()
    try:
        forkserver.ensure_running()
    finally:
        tempfile.tempdir = before


def _process(preload: str, target: Callable[..., None], arguments: tuple[Any, ...]) -> multiprocessing.process.BaseProcess:
    """A new process, started. With something to load it is forked from one that has it loaded already: where the kernel dies
    of a damaged file, the next work waits milliseconds and not seconds. That one goes with this process, and they with it.
    """
    if not _forks(preload):
        plain = multiprocessing.get_context("spawn").Process(target=target, args=arguments, daemon=True)
        plain.start()
        return plain
    with _source_of_children:
        for again in (True, False):
            _ready_source(preload)
            forked = multiprocessing.get_context("forkserver").Process(target=target, args=arguments, daemon=True)
            try:
                forked.start()
                break
            except (OSError, EOFError):
                # it was killed just now: the next attempt starts another
                if not again:
                    raise
    return forked


@functools.cache
def _own_folder() -> str:
    """Where the socket lies through which processes are forked, for as long as this one lives; '' where there is no place for
    one: the name of a socket has 107 characters at most (unix(7)), and 61 of them come behind the place's."""
    for place in (tempfile.gettempdir(), "/tmp"):
        with suppress(OSError):
            if len(os.fsencode(place)) <= 107 - 61:
                folder = tempfile.mkdtemp(prefix=f"{_FOLDER}{os.getpid()}-", dir=place)
                # after the socket in it, which multiprocessing removes at -100
                Finalize(None, shutil.rmtree, (folder, True), exitpriority=-200)
                return folder
    return ""


def leave() -> None:
    """Remove what :func:`_own_folder` made: for a process that ends without its finalizers."""
    if _own_folder.cache_info().currsize and (folder := _own_folder()):
        shutil.rmtree(folder, ignore_errors=True)


def _serve(pipe: Connection, preload: str, folder: str) -> None:
    """The child's loop: take a function's name and arguments, send progress and the result. *preload* is a module that is
    loaded before anything is asked, *folder* where its temporary files lie."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    parent = os.getppid()
    go_with_parent()
    with suppress(OSError):
        # who waits at a desk goes before what can wait
        os.nice(_NICE)
    tempfile.tempdir = folder
    os.environ["TMPDIR"] = folder
    if preload:
        importlib.import_module(preload)
    while True:
        while not pipe.poll(2.0):
            if os.getppid() != parent:
                return
        try:
            message = pipe.recv()
        except EOFError:
            return
        if message is None:
            return
        name, arguments = message

        def report(share: float, text: str) -> None:
            pipe.send(("progress", (share, text)))

        pipe.send(_done(name, arguments, report))


def _done(name: str, arguments: dict[str, Any], report: Progress) -> tuple[str, Any]:
    """What became of the work, as it is sent back."""
    try:
        return "done", _function(name)(**arguments, report=report)
    except (InputError, StoreFull) as error:
        return "input", str(error)
    except MemoryError:
        return "memory", None
    except OSError as error:
        try:
            raise_if_full(error)
        except StoreFull as full:
            return "input", str(full)
        return "failed", traceback.format_exc()
    except Exception:
        return "failed", traceback.format_exc()


def sweep() -> None:
    """Remove the temporary folders of processes that are gone."""
    for place in {tempfile.gettempdir(), "/tmp"}:
        for folder in Path(place).glob(f"{_FOLDER}*"):
            owner = folder.name.removeprefix(_FOLDER).partition("-")[0]
            if owner.isdigit() and not _lives(int(owner)):
                shutil.rmtree(folder, ignore_errors=True)


def _lives(pid: int) -> bool:
    try:
        # one that has ended may stand in the list until its parent takes note
        return bool(psutil.Process(pid).status() != psutil.STATUS_ZOMBIE)
    except psutil.Error:
        return False


_at_work: set[Child] = set()
"""The children of this process that have work in hand."""


class Child:
    """Runs functions, named ``module:function``, one after another in one process that stays warm."""

    def __init__(self, preload: str = "", limits: Mapping[Kind, Limit] | None = None) -> None:
        self._preload = preload
        self._limits = DEFAULTS | dict(limits or {})
        self._process: multiprocessing.process.BaseProcess | None = None
        self._pipe: Connection | None = None
        self._folder = ""
        self.together = together()
        """Megabytes that all children of this process have together."""

    def warm(self) -> None:
        """Begin to load before there is anything to do; does not wait for it."""
        if _forks(self._preload):
            with _source_of_children:
                _ready_source(self._preload)
        else:
            self._start()

    @property
    def pid(self) -> int | None:
        return None if self._process is None else self._process.pid

    def _start(self) -> Connection:
        if self._process is None or not self._process.is_alive() or self._pipe is None:
            self.close()
            self._pipe, far = multiprocessing.Pipe()
            self._folder = tempfile.mkdtemp(prefix=f"{_FOLDER}{os.getpid()}-")
            self._process = _process(self._preload, _serve, (far, self._preload, self._folder))
            far.close()
        return self._pipe

    def run(
        self, name: str, arguments: dict[str, Any], report: Progress, cancelled: Callable[[], bool], kind: Kind = "looking"
    ) -> Any:
        """Run a function there. It is called with *arguments* and a ``report`` of its own; *kind* is what limits it.

        :raises InputError: as the function raised it, or when it went over its limits; the process is gone then.
        :raises Cancelled: when *cancelled* turned true; the process is gone then.
        :raises WorkFailed: when the function broke, or its process died. :raises Killed: when that was killed from outside.
        """
        _at_work.add(self)
        try:
            return self._run(name, arguments, report, cancelled, kind)
        finally:
            _at_work.discard(self)
            if self._taken() > RENEWED * 1e6:
                # what a large piece of work took is not given back: the next one begins in a new process
                self.close()

    def _run(self, name: str, arguments: dict[str, Any], report: Progress, cancelled: Callable[[], bool], kind: Kind) -> Any:
        pipe = self._start()
        limit = self._limits[kind]
        pipe.send((name, arguments))
        end = time.monotonic() + limit.seconds
        pace: Pace | None = None
        said = ""
        while True:
            try:
                come = pipe.poll(_POLL_SECONDS)
                self._watch(kind, limit, end, cancelled)
                if not come:
                    if pace is not None and pace.moved(time.monotonic()):
                        report(pace.last, said)
                    continue
                what, value = pipe.recv()
            except (EOFError, OSError):
                # it died, or another thread has closed it
                code = self._ended()
                self.close()
                if code in (-signal.SIGKILL, _LOST):
                    raise Killed("the process that did it was killed") from None
                raise WorkFailed(f"the process that did it stopped unexpectedly ({code})") from None
            if what == "progress":
                share, said = value
                pace = Pace(share, said, self.pid or 0, time.monotonic()) if isinstance(said, Lasting) else None
                said = str(said)
                report(share, said)
                continue
            self._tidy()
            if what == "done":
                return value
            if what == "input":
                raise InputError(value)
            if what == "memory":
                self.close()
                raise InputError(over_memory(kind, limit))
            raise WorkFailed(value)

    def _watch(self, kind: Kind, limit: Limit, end: float, cancelled: Callable[[], bool]) -> None:
        """Stop the process once the work is called off or over a limit."""
        reason: Exception | None = None
        if cancelled():
            reason = Cancelled()
        elif time.monotonic() > end:
            reason = InputError(over_time(kind, limit))
        elif self._taken() > limit.megabytes * 1e6:
            reason = InputError(over_memory(kind, limit))
        elif self._is_too_much():
            reason = InputError(over_together(kind))
        if reason is not None:
            self.close()
            raise reason

    def _is_too_much(self) -> bool:
        """Whether all that works here takes more than the machine has for it, and this the most."""
        taken = {child: child._taken() for child in list(_at_work)}
        own = taken.get(self, 0)
        return sum(taken.values()) > self.together * 1e6 and own >= max(taken.values())

    def _taken(self) -> int:
        """Bytes of memory that the process holds."""
        with suppress(psutil.Error):
            return int(psutil.Process(self.pid).memory_info().rss)
        return 0

    def _ended(self) -> int | None:
        process = self._process
        if process is None:
            return None
        process.join(2)
        return process.exitcode

    def _tidy(self) -> None:
        """Remove what the work left in its folder."""
        folder = self._folder
        if not folder:
            return
        with suppress(OSError):
            for entry in Path(folder).iterdir():
                if entry.is_dir() and not entry.is_symlink():
                    shutil.rmtree(entry, ignore_errors=True)
                else:
                    entry.unlink()

    def close(self) -> None:
        """Stop the process, whatever it is doing, and remove its temporary files. From any thread."""
        pipe, self._pipe = self._pipe, None
        process, self._process = self._process, None
        folder, self._folder = self._folder, ""
        if pipe is not None:
            pipe.close()
        if process is not None:
            process.terminate()
            process.join(2)
            if process.is_alive():
                process.kill()
                process.join()
        if folder:
            shutil.rmtree(folder, ignore_errors=True)
