"""What people type: how long it may be."""

from __future__ import annotations

import re
from typing import Annotated, Any

from pydantic import BeforeValidator, StringConstraints

from skalto.core.errors import InputError

LONGEST_TEXT = 10_000
"""Letters of any text of a job: a long note, a component's path through all its assemblies (our own limit)."""

LONGEST_VALUE = 200
"""Letters of a value that is read, such as a length, a scale or a format (our own limit)."""

_UNWRITABLE = re.compile("[^\t\n\u0020-\u007e\u0085\u00a0-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def writable(text: str) -> str:
    """A text without what XML has no letter for (XML 1.0, 2.2, without the ones that it discourages): control characters, and
    the halves of letters that stand for bytes which are no text; its lines end in one way.

    >>> writable("Cheek\\x07, left\\r\\n")
    'Cheek, left\\n'
    """
    return _UNWRITABLE.sub("", text.replace("\r\n", "\n").replace("\r", "\n"))


def one_line(text: str) -> str:
    """The same on one line.

    >>> one_line("Cheek,\\nleft")
    'Cheek, left'
    """
    return writable(text).replace("\n", " ").replace("\t", " ")


def _cleaned(value: Any) -> Any:
    return writable(value) if isinstance(value, str) else value


def _in_one_line(value: Any) -> Any:
    return one_line(value) if isinstance(value, str) else value


Words = Annotated[str, BeforeValidator(_cleaned)]
"""A text of a person's, :func:`writable`, with a limit of its own."""

Text = Annotated[str, BeforeValidator(_cleaned), StringConstraints(max_length=LONGEST_TEXT)]
"""Any other."""

Line = Annotated[str, BeforeValidator(_in_one_line)]
"""A text that is shown on one line: a name."""


def typed(text: str, what: str) -> str:
    """A value as it was typed, without blanks about it.

    :param what: what it is to be, in a sentence: ``a length``.
    :raises InputError: when it is longer than any such value.
    """
    bare = text.strip()
    if len(bare) > LONGEST_VALUE:
        raise InputError(f"“{bare[:24]}…” has {len(bare)} letters and is not {what}: {LONGEST_VALUE} are taken at most.")
    return bare
