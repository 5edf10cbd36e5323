"""How long a piece of work may take and how much memory it may have, by its kind."""

from __future__ import annotations

from typing import Literal, NamedTuple

import psutil


class Limit(NamedTuple):
    """Seconds and megabytes (10⁶ bytes) of one piece of work."""

    seconds: float
    megabytes: float


def _memory() -> float:
    """What one piece of work has at most: two thirds of the machine, and no more than 6 GB."""
    return min(6_000.0, float(psutil.virtual_memory().total) / 1e6 * 2 / 3)


Kind = Literal["reading", "readying", "drawing", "arranging", "writing", "scene", "looking"]
"""What sort of work it is."""

KINDS: dict[Kind, tuple[str, str]] = {
    "reading": ("Reading", "simplify the file"),
    "readying": ("Making this model ready", "hide what is not wanted"),
    "drawing": ("Drawing this view", "hide what is not wanted"),
    "arranging": ("Arranging these parts", "take fewer parts"),
    "writing": ("Writing this file", "take views off the sheet"),
    "scene": ("Making this 3D model", "choose a coarser quality"),
    "looking": ("Making this picture", "choose a lower resolution"),
}
"""What each kind of work is called in a sentence, and what makes it less."""

DEFAULTS: dict[Kind, Limit] = {
    "reading": Limit(300, _memory()),
    "readying": Limit(120, _memory()),
    "drawing": Limit(900, _memory()),
    "arranging": Limit(900, _memory()),
    "writing": Limit(1800, _memory()),
    "scene": Limit(900, _memory()),
    "looking": Limit(600, _memory()),
}


def over_time(kind: Kind, limit: Limit) -> str:
    """The sentence for work that took too long."""
    what, less = KINDS[kind]
    took = f"{limit.seconds / 60:.0f} minutes" if limit.seconds >= 120 else f"{limit.seconds:g} seconds"
    return f"{what} took more than {took} and was stopped: {less}, or raise the limit in the settings (SKALTO_LIMITS)."


def together() -> float:
    """Megabytes that all pieces of work of this machine have at most: three quarters; the rest is for what serves them."""
    return float(psutil.virtual_memory().total) / 1e6 * 3 / 4


RENEWED = 1200.0
"""Megabytes above which a process that has done its work is not kept for the next: what it took it does not give back."""


def over_together(kind: Kind) -> str:
    """The sentence for work that was the largest when the machine had no memory left for all."""
    what, less = KINDS[kind]
    return f"{what} was stopped, since all work together took the memory that this machine has: try it again later, or {less}."


def over_memory(kind: Kind, limit: Limit) -> str:
    """The sentence for work that wanted too much memory."""
    what, less = KINDS[kind]
    took = f"{limit.megabytes / 1000:.1f} GB of memory"
    return f"{what} took more than {took} and was stopped: {less}, or raise the limit in the settings (SKALTO_LIMITS)."
