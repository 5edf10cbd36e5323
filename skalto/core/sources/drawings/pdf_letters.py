"""Letters of a PDF's text put together to runs that a face sets as they stand (ISO 32000-1, 9.4.3)."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from skalto.core.sources.drawings.faces import Choice

Letters = list[tuple[str, float]]
_NEAR = 0.12
"""A letter may stand so far from where its run sets it, in heights of a capital."""


def spaced(letters: Letters, end: float, choice: Choice, capital: float) -> Iterator[tuple[Letters, float]]:
    """Runs of letters with where each ends: all of them where one face, stretched as a whole, sets them near enough to where
    they stand; else word by word; else letter by letter.

    :param letters: each with where it stands. :param end: where the last one ends. :param capital: a capital's height there.
    """
    if _fits(letters, end, choice, capital):
        yield letters, end
        return
    for word, after in _parted(letters, end, lambda c: c.isspace()):
        if _fits(word, after, choice, capital):
            yield word, after
        else:
            for letter, own_end in _parted(word, after, lambda c: True):
                text, at = letter[0]
                # what stands between letters is no part of them
                natural = at + choice.length(text) * capital
                yield letter, natural if abs(own_end - natural) > _NEAR * abs(capital) else own_end


def _fits(letters: Letters, end: float, choice: Choice, capital: float) -> bool:
    own = [choice.length(c) * capital for c, _ in letters]
    total, start = sum(own), letters[0][1]
    if not total or len(letters) < 2:
        return True
    stretch, at = (end - start) / total, start
    for width, (_, x) in zip(own, letters, strict=True):
        if abs(at - x) > _NEAR * abs(capital):
            return False
        at += width * stretch
    return True


def _parted(letters: Letters, end: float, ends: Callable[[str], bool]) -> Iterator[tuple[Letters, float]]:
    """Letters parted after those that end a part; white space alone is no part."""
    part: Letters = []
    for n, (text, x) in enumerate(letters):
        following = letters[n + 1][1] if n + 1 < len(letters) else end
        if text.isspace():
            if part:
                yield part, x
            part = []
            continue
        part.append((text, x))
        if not text.isspace() and ends(text):
            yield part, following
            part = []
    if part:
        yield part, end
