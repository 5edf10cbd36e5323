"""Errors that a person caused or can mend."""


class InputError(Exception):
    """What was given cannot be used; the message is one sentence that says why and what to do."""


class Cancelled(Exception):
    """The work was called off by the person who asked for it."""
