"""What is known of a page beside its file: what rays say of hidden lines, what overlaps, what the title block lacks."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from skalto.core.checks.places import sheet_checks
from skalto.core.checks.report import FOUND, finding_of
from skalto.core.checks.verdict import Check, Finding, Report
from skalto.core.checks.watched import watch_checks
from skalto.core.pages.page import Page, ViewLines
from skalto.core.recipes import Recipe


@dataclass(frozen=True, eq=False)
class PageAtHand:
    """A composed page, its number from 1, the lines of its views by id, and the recipe that writes it."""

    page: Page
    number: int
    lines: Mapping[str, ViewLines]
    recipe: Recipe


def _hidden_lines(at_hand: PageAtHand) -> Iterable[Check]:
    for view in at_hand.page.views:
        lines = at_hand.lines.get(view.spec.id)
        if lines is not None and lines.watch is not None and view.box is not None:
            yield from watch_checks(view, lines.watch, at_hand.number)


def _places(at_hand: PageAtHand) -> Iterable[Check]:
    return sheet_checks(at_hand.page, at_hand.number, at_hand.recipe)


def _reduced(at_hand: PageAtHand) -> Iterable[Check]:
    page = at_hand.page
    if page.reduced_to:
        share = f"{float(page.reduction) * 100:.4g} %"
        reading = f"all of it is drawn at {share} of its scale: not to be measured, and nothing to cut by"
        title = f"Reduced to {page.reduced_to}"
        yield Check(code="reduced", title=title, verdict="mend", reading=reading, limit="true scale", page=at_hand.number)


CHECKS: tuple[Callable[[PageAtHand], Iterable[Check]], ...] = (_hidden_lines, _places, _reduced)
"""All checks of a page; a feature adds its own."""


def with_page_checks(checked: Report, pages: Sequence[Page], lines: Mapping[str, ViewLines], recipe: Recipe) -> Report:
    """A report with what :data:`CHECKS` say of its pages, and those that do not hold among its findings."""
    at_hand = [PageAtHand(page, number, lines, recipe) for number, page in enumerate(pages, 1)]
    checks = tuple(found for page in at_hand for check in CHECKS for found in check(page))
    return with_checks(checked, checks)


def with_checks(checked: Report, checks: Sequence[Check]) -> Report:
    """A report with more checks, those that do not hold among its findings; what a title block lacks is only said."""
    found = [
        Finding(level="info", code="title", message=check.reading, page=check.page)
        if check.code == "title"
        else finding_of(check)
        for check in checks
        if check.code == "title" or check.verdict in FOUND
    ]
    return checked.model_copy(update={"checks": (*checked.checks, *checks), "findings": (*checked.findings, *found)})
