"""Errors that a person caused or can mend."""

from __future__ import annotations

import errno

from pydantic import ValidationError


class InputError(Exception):
    """What was given cannot be used; the message is one sentence that says why and what to do."""


class NotThere(InputError):
    """What was asked for is not there, or not any more."""


class Moved(InputError):
    """What was to be changed has been changed by someone else meanwhile."""


class TooLarge(InputError):
    """More than is taken at once."""


class Cancelled(Exception):
    """The work was cancelled by the person who asked for it."""


class StoreFull(Exception):
    """There is no room, or no leave, to write; the message is one sentence."""


def first_found(error: ValidationError) -> tuple[tuple[str, ...], str]:
    """Where in a value the first thing lies that a validation found, and what it is, without a full stop."""
    first = error.errors()[0]
    return tuple(str(part) for part in first["loc"]), str(first["msg"]).removeprefix("Value error, ").rstrip(".")


def first_sentence(error: ValidationError) -> str:
    """What a validation found, as a sentence for the person."""
    where, message = first_found(error)
    return f"{message}." if message.startswith("“") or not where else f"{where[-1]}: {message}."


def what_is_wrong(error: ValidationError) -> str:
    """The first thing that a validation found, and where."""
    where, message = first_found(error)
    return f"{' → '.join(where)}: {message}." if where else f"{message}."


def raise_if_full(error: OSError) -> None:
    """:raises StoreFull: when that is what an error says."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        raise StoreFull("The disk is full: make room on it, and try again. What is there is unharmed.") from error
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        raise StoreFull("The data folder cannot be written: give this user the right to, and try again.") from error
