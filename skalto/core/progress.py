"""How far one long step is that cannot speak for itself, such as a call into the kernel: told by who watches its process."""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from contextlib import suppress

Progress = Callable[[float, str], None]
"""Is told the share done, 0 to 1, and what is being done."""


def silent(share: float, text: str) -> None:
    """For those who do not ask."""


_LEAST = 0.004
"""Less is not worth telling."""


class Lasting(str):
    """What is being done, with what tells how far it is until the next report comes.

    With a *file* that it reads, by how far that is read, which takes the share *part* of the step; the rest, and a step without
    a file, by the time that it is expected to take. A step that takes longer than expected never seems done.
    """

    grows: float
    file: str
    part: float
    expected: float

    def __new__(cls, text: str, grows: float, file: str = "", part: float = 1.0, expected: float = 0.0) -> Lasting:
        """:param grows: by what the share done is multiplied when the step is done. :param expected: seconds."""
        made = super().__new__(cls, text)
        made.grows, made.file, made.part, made.expected = grows, file, part, expected
        return made

    def __reduce__(self) -> tuple[type[Lasting], tuple[object, ...]]:
        return Lasting, (str(self), self.grows, self.file, self.part, self.expected)


class Pace:
    """Of one such step, begun at a time: how far it is."""

    def __init__(self, share: float, step: Lasting, pid: int, begun: float) -> None:
        """:param share: what is done of the whole before it. :param pid: the process that does it."""
        self._share, self._step, self._pid, self._begun = share, step, pid, begun
        self._read, self._read_at = 0.0, begun
        self.last = share
        """What was told last."""

    def moved(self, now: float) -> bool:
        """Whether there is more to tell, which is :attr:`last` then."""
        share = self.share(now)
        if share < self.last + _LEAST:
            return False
        self.last = share
        return True

    def share(self, now: float) -> float:
        """Of the whole, at a time."""
        return self._share * (1 + (self._step.grows - 1) * self._done(now))

    def _done(self, now: float) -> float:
        step = self._step
        if not step.file:
            return _by_time((now - self._begun) / max(step.expected, 1e-3))
        if self._read < 1:
            self._read, self._read_at = max(self._read, read_of(step.file, self._pid)), now
        rest = (self._read_at - self._begun) * (1 - step.part) / step.part
        return step.part * self._read + (1 - step.part) * (
            _by_time((now - self._read_at) / max(rest, 1e-3)) if self._read >= 1 else 0.0
        )


def _by_time(x: float) -> float:
    """Even until the expected end, x = 1, and slower and slower beyond."""
    return 0.8 * x if x < 1 else 1 - 0.2 * math.exp(-4 * (x - 1))


def read_of(file: str, pid: int) -> float:
    """How much of a file a process has read of which it has open, 0 to 1; 0 where that cannot be known (proc(5), fdinfo)."""
    with suppress(OSError, ValueError):
        folder = f"/proc/{pid}"
        size = os.stat(file).st_size
        for number in os.listdir(f"{folder}/fd"):
            if os.readlink(f"{folder}/fd/{number}") == file:
                with open(f"{folder}/fdinfo/{number}", encoding="ascii") as told:
                    return min(1.0, int(told.readline().removeprefix("pos:")) / max(size, 1))
    return 0.0
