"""Strokes of a finished file against those that were asked for, piece by piece: missing, added, doubled, of another width.

What was asked for is worked out here anew, from the model's lines in the view's own plane, by the view's scale, rotation and
position; where the writer put things plays no part in it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import (
    Areas,
    Beziers,
    Contours,
    EdgeClass,
    Ellipses,
    Fills,
    Item,
    Lines,
    Polylines,
    Raster,
    Text,
)
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.artwork.joining import contour_of, pieces_of
from skalto.core.checks.originals import Placing
from skalto.core.checks.paint import ASPECTS, Paint, Paints, joined_paints
from skalto.core.checks.pairing import Near
from skalto.core.checks.verdict import Check, Verdict
from skalto.core.geometry import Array, Box, Similarity, bezier_at
from skalto.core.geometry.grouping import tree_of
from skalto.core.output.pdf.ink import Ink
from skalto.core.output.pdf.originals import why_strokes
from skalto.core.output.staging import staged
from skalto.core.pages.page import Page, ViewLines
from skalto.core.pages.placed_views import seen_of
from skalto.core.pens import Pens
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import ViewSpec

Ints = NDArray[np.int64]
NEAR = 2.5e-3
"""Pieces whose ends and middles lie nearer than this, mm, are the same: more than coordinates are rounded by, less than a
length between two may be off before a reading fails."""
SINGLE = 1.2e-7
"""What single precision adds to that, as a share of the page's longer side."""
WIDTH_LIMIT = 5e-4
"""What a line's width may be off, mm."""


@dataclass(frozen=True, eq=False)
class Pieces:
    """Straight lines, arcs and curves in their smallest parts: *course* (n, 3, 2), both ends and the middle, mm on the page,
    and the line *width* (n,), mm; and how they are painted, where that is looked at."""

    course: Array
    width: Array
    paint: Paints = field(default_factory=lambda: Paints(np.zeros(0, np.int64), ()))

    def __len__(self) -> int:
        return len(self.width)

    def rows(self, chosen: NDArray[np.bool_] | Ints) -> Pieces:
        return Pieces(self.course[chosen], self.width[chosen], self.paint.rows(chosen) if len(self.paint.of) else self.paint)

    def lengths(self) -> Array:
        """About how long each is, (n,): the two chords."""
        size: Array = np.linalg.norm(np.diff(self.course, axis=1), axis=-1).sum(axis=1)
        return size

    def box(self) -> Box:
        flat = self.course.reshape(-1, 2)
        (x0, y0), (x1, y1) = flat.min(axis=0).tolist(), flat.max(axis=0).tolist()
        return x0, y0, x1, y1


def joined_pieces(parts: Sequence[Pieces]) -> Pieces:
    """Several as one."""
    return Pieces(
        np.concatenate([np.empty((0, 3, 2)), *(p.course for p in parts)]),
        np.concatenate([np.empty(0), *(p.width for p in parts)]),
        joined_paints([p.paint for p in parts]),
    )


def of_curves(curves: Array, width: Array) -> Pieces:
    """Cubic Béziers (n, 4, 2)."""
    return Pieces(np.stack((curves[:, 0], bezier_at(curves, np.array((0.5,)))[:, 0], curves[:, 3]), axis=1), width)


def of_ellipses(item: Ellipses) -> Array:
    """The courses of elliptical arcs, (n, 3, 2). One that closes has no ends: its centre stands for them, and how far it
    reaches right and up for its middle."""
    t = item.start[:, None] + item.sweep[:, None] * np.array((0.0, 0.5, 1.0))
    course = item.at(t)
    whole = item.is_whole()
    course[whole, 0] = course[whole, 2] = item.centre[whole]
    course[whole, 1] = item.bounds()[whole, 1]
    return course


Splitter = Callable[[Item], Array | None]
"""From an item to the courses of its strokes (n, 3, 2), or None for what is not stroked."""


def as_beziers(item: Item) -> Array | None:
    """As a format without arcs has them."""
    if isinstance(item, Contours):
        return of_curves(item.curves, np.zeros(0)).course
    if not isinstance(item, Lines | Ellipses | Beziers | Polylines):
        return None
    return of_curves(pieces_of(item)[0], np.zeros(0)).course


def as_arcs(item: Item) -> Array | None:
    """As a format has them in which arcs are arcs."""
    if isinstance(item, Contours):
        return _of_contours(item)
    if isinstance(item, Polylines):
        return np.concatenate([as_arcs(part) for part in item.parts()])  # type: ignore[list-item]
    if isinstance(item, Ellipses):
        return of_ellipses(item)
    return as_beziers(item)


def _of_contours(item: Contours) -> Array:
    """The segments of contours, (n, 3, 2), arcs of one circle as one; of a whole circle as :func:`of_ellipses` has it."""
    rows: list[tuple[tuple[float, float], ...]] = []
    for number in range(len(item.closed)):
        contour = contour_of(item, number)
        circle = contour.as_circle
        if circle is not None:
            (x, y), r = circle
            rows.append(((x, y), (x + r, y + r), (x, y)))
        else:
            rows += [(own.start, own.at(0.5), own.end) for own in contour]
    return np.array(rows, float).reshape(-1, 3, 2)


def place_of(view: ViewSpec) -> Similarity:
    """From a view's plane (model mm) to the sheet (mm): its anchor comes to its position, about which it is scaled and
    turned."""
    scale, turn = float(view.scale), math.radians(view.rotation)
    cos, sin = scale * math.cos(turn), scale * math.sin(turn)
    (ax, ay), (x, y) = view.anchor, view.place
    return Similarity(scale, x - cos * ax + sin * ay, y - sin * ax - cos * ay, turn)


def original_place(view: ViewSpec) -> Array:
    """From upright mm of a PDF's page to the sheet, mm: (3, 2), rows for x, y and what is added."""
    excerpt = view.excerpt
    unit, angle = (excerpt.unit, math.radians(excerpt.angle)) if excerpt is not None else (1.0, 0.0)
    by = place_of(view)
    turn, scale = angle + by.turn, unit * by.scale
    cos, sin = scale * math.cos(turn), scale * math.sin(turn)
    return np.array(((cos, sin), (-sin, cos), (by.dx, by.dy)))


def _asked(page: Page, lines: Mapping[str, ViewLines]) -> Page:
    """The page with each view's own lines placed anew."""
    views = []
    for view in page.views:
        own = lines.get(view.spec.id)
        if own is None:
            views.append(view)
            continue
        artwork = seen_of(view.spec, own)
        if view.spec.detail is not None:
            artwork = clip_to_circle(artwork, view.spec.detail.centre, view.spec.detail.radius)
        views.append(replace(view, artwork=artwork.placed(place_of(view.spec))))
    return replace(page, views=tuple(views))


def redrawn_checks(rows: Sequence[tuple[str, str, tuple[str, ...]]], number: int) -> list[Check]:
    """Pages of PDFs that are drawn in strokes on sheet *number*, from 1: which, why, and what strokes cannot carry of them."""
    checks = []
    for label, why, lost in rows:
        reading = f"drawn in strokes, since {why}" if why != "as chosen" else "drawn in strokes, as chosen"
        if lost:
            reading += "; these cannot carry " + " ".join(lost).rstrip(".")
        verdict: Verdict = "mend" if lost else "told"
        checks.append(Check(code="page-strokes", title=label, verdict=verdict, reading=reading, page=number))
    return checks


@dataclass(frozen=True, eq=False)
class AskedText:
    """Texts that a page is to have, and how they are painted."""

    item: Text
    paint: Paint


@dataclass(frozen=True, eq=False)
class AskedPicture:
    """A picture that a page is to have, and how it is painted."""

    item: Raster
    paint: Paint


@dataclass(frozen=True, eq=False)
class Asked:
    """What a page is to show: the pieces of each view by its number among those drawn, and those of all else under None; pages
    of PDFs that are placed as they are, by the number of their view, and those that are drawn in strokes instead: which, why,
    and what strokes cannot carry of them; the outlines of areas that are filled; texts; pictures; and the page itself."""

    views: Mapping[int | None, Pieces]
    names: Sequence[str]
    originals: Mapping[int, Placing] = field(default_factory=dict)
    in_strokes: Sequence[tuple[str, str, tuple[str, ...]]] = ()
    areas: Pieces = field(default_factory=lambda: joined_pieces([]))
    texts: Sequence[AskedText] = ()
    pictures: Sequence[AskedPicture] = ()
    page: Page | None = None

    def redrawn(self, number: int) -> list[Check]:
        """Checks of pages drawn in strokes; *number* is the sheet's, from 1."""
        return redrawn_checks(self.in_strokes, number)

    def all(self) -> Pieces:
        return joined_pieces(list(self.views.values()))

    def moved(self, by: Array) -> Asked:
        """The same moved by mm on the page, (2,)."""
        views = {n: replace(own, course=own.course + by) for n, own in self.views.items()}
        to = Similarity(dx=float(by[0]), dy=float(by[1]))
        return replace(
            self,
            views=views,
            areas=replace(self.areas, course=self.areas.course + by),
            texts=[replace(own, item=own.item.placed(to)) for own in self.texts],
            pictures=[replace(own, item=own.item.placed(to)) for own in self.pictures],
        )


Painted = Callable[[Paint, Item, float, Recipe], Paint]
"""From how an item is to be painted, with the item, the width of its strokes, mm, and the recipe, to how a format has it."""


def _as_it_is(paint: Paint, item: Item, width: float, recipe: Recipe) -> Paint:
    return paint


def asked_of(
    page: Page, lines: Mapping[str, ViewLines], recipe: Recipe, split: Splitter, painted: Painted = _as_it_is
) -> Asked:
    """The pieces that a page is to have by a recipe, contours not yet joined; *painted* as their format has it."""
    found: dict[int | None, list[Pieces]] = {None: []}
    drawn = [view for view in page.views if view.box is not None]
    originals: dict[int, Placing] = {}
    in_strokes = []
    areas: list[Pieces] = []
    texts: list[AskedText] = []
    pictures: list[AskedPicture] = []
    multiplied = (recipe.crossing or (recipe.pens or page.pens).crossing) == "blend"
    for view, artwork, pens in staged(_asked(page, lines), recipe, contours=False):
        number = None if view is None or view.box is None else next(n for n, v in enumerate(drawn) if v.spec.id == view.spec.id)
        why = why_strokes(view, pens, recipe) if view is not None and number is not None else None
        if why == "" and view is not None and number is not None and view.original is not None:
            originals[number] = Placing(view.spec.label, view.original, original_place(view.spec))
            continue
        if why and view is not None:
            facts = page.sources.get(view.spec.source)
            in_strokes.append((view.spec.label, why, facts.drawing.beyond_strokes() if facts and facts.drawing else ()))
        for item in artwork:
            paint = painted(paint_of(item, pens, recipe, number, multiplied), item, pens.pen(item.tags).width, recipe)
            course = split(item)
            if isinstance(item, Text):
                texts.append(AskedText(item, paint))
            elif isinstance(item, Raster):
                pictures.append(AskedPicture(item, paint))
            elif isinstance(item, Fills | Areas):
                outline = of_areas(item)
                areas.append(Pieces(outline, np.zeros(len(outline)), Paints.all_of(paint, len(outline))))
            elif course is not None and len(course):
                width = np.full(len(course), pens.pen(item.tags).width)
                found.setdefault(number, []).append(Pieces(course, width, Paints.all_of(paint, len(course))))
    return Asked(
        {number: joined_pieces(parts) for number, parts in found.items()},
        [view.spec.label for view in drawn],
        originals,
        in_strokes,
        joined_pieces(areas),
        texts,
        pictures,
        page,
    )


def paint_of(item: Item, pens: Pens, recipe: Recipe, view: int | None, multiplied: bool) -> Paint:
    """How an item is to be painted by its pens and a recipe; *view* is the number of the view whose own it is."""
    tags, ink = item.tags, Ink(recipe.colour)
    pen = pens.pen(tags)
    common = Paint(
        colour=ink.seen(pen.colour), opacity=tags.opacity, multiplied=multiplied,
        layer=tags.layer if recipe.writes_layers else "", view=view, unseen=tags.edge_class is EdgeClass.HIDDEN,
    )  # fmt: skip
    if isinstance(item, Raster):
        return replace(common, colour=(0, 0, 0))
    if isinstance(item, Fills | Areas):
        return replace(common, rule="evenodd" if isinstance(item, Areas) and not item.winding else "nonzero")
    if isinstance(item, Text):
        return common
    dashes = tuple(own * pen.width for own in pen.dashes)
    return replace(common, dashes=dashes, phase=pens.phase(tags), ends=pen.caps.value, joins=pen.joins.value)


def of_areas(item: Fills | Areas) -> Array:
    """The outlines of what is filled, piece by piece, closed: (n, 3, 2)."""
    if isinstance(item, Fills):
        ends = np.roll(item.points, -1, axis=1)
        return np.stack((item.points, (item.points + ends) / 2, ends), axis=2).reshape(-1, 3, 2)
    course = of_curves(item.curves, np.zeros(0)).course
    if not len(course):
        return course
    first = np.flatnonzero(np.concatenate(([True], item.contour[1:] != item.contour[:-1])))
    last = np.append(first[1:], len(course)) - 1
    begin, end = course[first, 0], course[last, 2]
    return np.concatenate((course, np.stack((end, (begin + end) / 2, begin), axis=1)))


def _signs(course: Array) -> Array:
    """Numbers by which two courses are the same whichever way round they run, (n, 7)."""
    a, m, b = course[:, 0], course[:, 1], course[:, 2]
    d = b - a
    size = np.linalg.norm(d, axis=1)
    lean = np.divide(d[:, 0] * d[:, 1], size, out=np.zeros(len(d)), where=size > 0)
    return np.column_stack(((a + b) / 2, m, np.abs(d), lean))


@dataclass(frozen=True, eq=False)
class Differences:
    """What of a file is not as asked: pieces that are *missing*, of those asked for; *added* and *doubled*, of those found;
    and of another *width*, found in the place of those asked for; and those that are painted otherwise, by the name of what is
    another."""

    missing: Pieces
    added: Pieces
    doubled: Pieces
    width: Pieces
    otherwise: Mapping[str, Pieces] = field(default_factory=dict)


WidthRule = Callable[[Array, Array], NDArray[np.bool_]]
"""Whether widths found (n,) stand for widths asked for (n,)."""


def same_width(found: Array, asked: Array) -> NDArray[np.bool_]:
    return np.asarray(np.abs(found - asked) <= WIDTH_LIMIT)


def compare(
    asked: Pieces, found: Pieces, page_side: float, single: bool = False, widths: WidthRule = same_width
) -> Differences:
    """Find every piece asked for in a file, and every piece of the file among those asked for.

    :param page_side: the page's longer side, mm. :param single: whether the file draws once what was asked for twice.
    """
    near = NEAR + SINGLE * page_side
    # what is hardly longer than what two may be apart is looked for, and is itself not missed: were it left out, one that is
    # a little longer on one side than on the other would seem to be missing
    told_asked, told_found = asked.lengths() > 2 * near, found.lengths() > 2 * near
    there, here = _signs(asked.course), _signs(found.course)
    nothing = np.zeros(0, np.int64)
    if not len(asked) or not len(found):
        return Differences(asked.rows(told_asked), found.rows(told_found), found.rows(nothing), found.rows(nothing))
    of_asked, of_found = Near(there, near), Near(here, near)
    (asked_at_asked, _), (found_at_asked, index) = of_asked.of(there), of_found.of(there)
    (asked_at_found, back), (found_at_found, _) = of_asked.of(here), of_found.of(here)
    wanted = np.minimum(asked_at_asked, 1) if single else asked_at_asked
    missing = (found_at_asked < wanted) & told_asked
    limit = np.minimum(asked_at_found, 1) if single else asked_at_found
    doubled = (asked_at_found > 0) & (found_at_found > limit) & told_found
    width, otherwise = _other(
        asked, found, np.where(told_asked[:, None], index, -1), lambda at: widths(found.width[at], asked.width[:, None]), False
    )
    # of several in one place each that is there must have been asked for, too
    width_, otherwise_ = _other(
        found, asked, np.where(told_found[:, None], back, -1), lambda at: widths(found.width[:, None], asked.width[at]), True
    )
    return Differences(
        asked.rows(missing),
        found.rows((asked_at_found == 0) & told_found),
        found.rows(doubled),
        width if len(width) else width_,
        otherwise_ | otherwise,
    )


def _other(
    own: Pieces, there: Pieces, index: Ints, same: Callable[[Ints], NDArray[np.bool_]], back: bool
) -> tuple[Pieces, dict[str, Pieces]]:
    """The pieces (n,) of which none *there* in their place, by *index* (n, k), is of the *same* width; and those of which
    none that is, is painted the same, by what is another: nothing where it is not known how they are painted.

    :param back: whether *own* are those found, and *there* those asked for.
    """
    reached: NDArray[np.bool_] = index >= 0
    at = np.maximum(index, 0)
    near = same(at) & reached
    width = own.rows(np.asarray(~near.any(axis=1) & reached.any(axis=1)))
    if not len(own.paint.of) or not len(there.paint.of):
        return width, {}
    rows = np.arange(len(own))[:, None]
    found, asked = (own.paint, there.paint) if back else (there.paint, own.paint)
    bits = found.against(asked).between(*((rows, at) if back else (at, rows)))
    # of several in one place the one that is least another is meant
    counted = np.where(near, np.bitwise_count(bits), np.iinfo(np.int64).max)
    best = np.where(near, bits, 0)[rows[:, 0], counted.argmin(axis=1)]
    chosen = {name: np.asarray(best >> n & 1, bool) for n, name in enumerate(ASPECTS)}
    return width, {name: own.rows(those) for name, those in chosen.items() if those.any()}


def told_of(pieces: Pieces, kind: str = "stroke") -> str:
    """How many pieces, and how long they are together."""
    count = f"1 {kind}" if len(pieces) == 1 else f"{len(pieces)} {kind}s"
    return f"{count}, {float(pieces.lengths().sum()):.2f} mm"


def stroke_checks(
    asked: Asked, found: Pieces, number: int, side: float, single: bool, widths: WidthRule = same_width
) -> list[Check]:
    """The comparison of a page as checks; *number* is the page's, from 1."""
    differences = compare(asked.all(), found, side, single, widths)
    checks = [
        Check(code=code, title=title, verdict="fails", reading=f"{told_of(pieces)}: {what}", page=number, place=pieces.box())
        for code, title, pieces, what in (
            ("strokes-missing", "Missing strokes", differences.missing, "asked for and not where the model has them"),
            ("strokes-added", "Added strokes", differences.added, "in the file, and nobody asked for them"),
            ("strokes-doubled", "Doubled strokes", differences.doubled, "drawn more often than asked for"),
            ("strokes-width", "Line widths", differences.width, "of another width than their pen"),
            *((f"strokes-{name}", ASPECTS[name][0], own, ASPECTS[name][1]) for name, own in differences.otherwise.items()),
        )
        if len(pieces)
    ]  # fmt: skip
    if checks or not len(found):
        # of a page without a stroke, of which none was asked for, there is nothing to say
        return checks
    reading = f"{len(found)} pieces, each where the model has it, once, as its pen draws it"
    return [Check(code="strokes", title="Strokes", verdict="holds", reading=reading, page=number)]


def attributed(asked: Asked, found: Pieces, side: float) -> Iterator[tuple[int, NDArray[np.bool_]]]:
    """Which pieces of a file that does not say whose they are lie where a view has its own, view by view."""
    if not len(found):
        return
    near, here = NEAR + SINGLE * side, _signs(found.course)
    for number, pieces in asked.views.items():
        if number is not None and len(pieces):
            distance, _ = tree_of(_signs(pieces.course)).query(here, p=np.inf, distance_upper_bound=near)
            yield number, np.isfinite(distance)
