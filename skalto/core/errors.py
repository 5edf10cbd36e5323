"""Errors that a person caused or can mend."""

from __future__ import annotations

import errno


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


def raise_if_full(error: OSError) -> None:
    """:raises StoreFull: when that is what an error says."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        raise StoreFull("The disk is full: make room on it, and try again. What is there is unharmed.") from error
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        raise StoreFull("The data folder cannot be written: give this user the right to, and try again.") from error
