"""What is written of a file as a whole, and the passwords that lock it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from skalto.core.recipes import Words


@dataclass(frozen=True)
class Metadata:
    """What a file says of itself; *created* is the moment that it carries."""

    title: str = ""
    author: str = ""
    created: datetime = datetime(2000, 1, 1, tzinfo=UTC)
    subject: str = ""
    keywords: str = ""

    @classmethod
    def of(cls, words: Words, created: datetime) -> Metadata:
        return cls(words.title, words.author, created, words.subject, words.keywords)


@dataclass(frozen=True)
class Passwords:
    """What a reader is asked for: to *open* the file, and to *change* it; '' for nothing."""

    open: str = ""
    change: str = ""
