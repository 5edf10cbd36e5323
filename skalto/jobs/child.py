"""A process of its own for heavy work: it can be stopped at any moment, and if it dies nothing else does."""

from __future__ import annotations

import importlib
import multiprocessing
import os
import signal
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from skalto.core.errors import Cancelled, InputError

Report = Callable[[float, str], None]
_POLL_SECONDS = 0.1


class WorkFailed(Exception):
    """The work broke off for a reason that is not in its input."""


def _function(name: str) -> Callable[..., Any]:
    module, _, attribute = name.partition(":")
    found: Callable[..., Any] = getattr(importlib.import_module(module), attribute)
    return found


def _serve(pipe: Connection, parent: int, preload: str) -> None:
    """The child's loop: take a function's name and arguments, send progress and the result. *preload* is a module that is
    loaded before anything is asked."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
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

        try:
            pipe.send(("done", _function(name)(**arguments, report=report)))
        except InputError as error:
            pipe.send(("input", str(error)))
        except Exception:
            pipe.send(("failed", traceback.format_exc()))


class Child:
    """Runs functions, named ``module:function``, one after another in one process that stays warm."""

    def __init__(self, preload: str = "") -> None:
        self._preload = preload
        self._process: multiprocessing.process.BaseProcess | None = None
        self._pipe: Connection | None = None

    def warm(self) -> None:
        """Start the process before there is anything to do."""
        self._start()

    def _start(self) -> Connection:
        if self._process is None or not self._process.is_alive() or self._pipe is None:
            self.close()
            context = multiprocessing.get_context("spawn")
            self._pipe, far = context.Pipe()
            self._process = context.Process(target=_serve, args=(far, os.getpid(), self._preload), daemon=True)
            self._process.start()
            far.close()
        return self._pipe

    def run(self, name: str, arguments: dict[str, Any], report: Report, cancelled: Callable[[], bool]) -> Any:
        """Run a function there. It is called with *arguments* and a ``report`` of its own.

        :raises InputError: as the function raised it.
        :raises Cancelled: when *cancelled* turned true; the process is gone then.
        :raises WorkFailed: when the function broke, or its process died.
        """
        pipe = self._start()
        pipe.send((name, arguments))
        while True:
            try:
                while not pipe.poll(_POLL_SECONDS):
                    if cancelled():
                        self.close()
                        raise Cancelled()
                kind, value = pipe.recv()
            except (EOFError, ConnectionResetError):
                self.close()
                raise WorkFailed("the process that did it stopped unexpectedly") from None
            if kind == "progress":
                report(*value)
                if cancelled():
                    self.close()
                    raise Cancelled()
            elif kind == "done":
                return value
            elif kind == "input":
                raise InputError(value)
            else:
                raise WorkFailed(value)

    def close(self) -> None:
        """Stop the process, whatever it is doing."""
        if self._pipe is not None:
            self._pipe.close()
            self._pipe = None
        if self._process is not None:
            self._process.terminate()
            self._process.join(2)
            if self._process.is_alive():
                self._process.kill()
                self._process.join()
            self._process = None
