"""Which passwords every reader takes alike."""

from __future__ import annotations

import stringprep
import unicodedata

LONGEST = 127
"""A password is its first so many bytes of UTF-8 (ISO 32000-2, 7.6.4.3.3)."""

_PROHIBITED = (
    stringprep.in_table_a1, stringprep.in_table_c12, stringprep.in_table_c21_c22, stringprep.in_table_c3,
    stringprep.in_table_c4, stringprep.in_table_c5, stringprep.in_table_c6, stringprep.in_table_c7,
    stringprep.in_table_c8, stringprep.in_table_c9,
)  # fmt: skip
"""RFC 4013, 2.3 and 2.5: what no password may have in it; spaces other than the common one are turned into that."""


def against_password(word: str) -> str:
    """Why a password would not open its file in every reader, in a sentence; '' where it does.

    A reader first brings a password into the form of RFC 4013 (ISO 32000-2, 7.6.4.3.3); not every writer does. One that this
    changes, or forbids, opens with one reader and not with the next.
    """
    for letter in word:
        if any(table(letter) for table in _PROHIBITED):
            return f"A password cannot have the letter U+{ord(letter):04X} in it: type another."
        if stringprep.in_table_b1(letter) or unicodedata.normalize("NFKC", letter) != letter:
            return f"Not every reader takes {letter!r} in a password: type it with plain letters."
    if unicodedata.normalize("NFKC", word) != word:
        return "Not every reader takes letters with marks of their own in a password: type it with plain letters."
    right, left = (any(table(letter) for letter in word) for table in (stringprep.in_table_d1, stringprep.in_table_d2))
    if right and (left or not (stringprep.in_table_d1(word[0]) and stringprep.in_table_d1(word[-1]))):
        return "A password cannot mix letters that run to the left with others: type it in one of them."
    if len(word.encode()) > LONGEST:
        return f"A password has {LONGEST} bytes at most, and this has {len(word.encode())}: type a shorter one."
    return ""
