"""What is written on a page: marks and dimensions of every view, frame, tables and notes; and what is told of it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from skalto.core import lettering
from skalto.core.annotation import flat_marks, view_marks
from skalto.core.annotation.balloons import AWAY, RADIUS, Balloon, draw_balloon, place_balloons
from skalto.core.annotation.dimension_style import DrawnDimension, draw
from skalto.core.annotation.dimension_values import Frame, measure
from skalto.core.annotation.drawings_table import drawings_table
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.annotation.furniture import TitleCell, furnish, title_box, title_cells
from skalto.core.annotation.parts_table import hole_table, holes, parts_list
from skalto.core.annotation.pencil import Pencil
from skalto.core.annotation.title_block import field_values, missing_fields
from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Text
from skalto.core.geometry import Box
from skalto.core.layout.arrangement import usable
from skalto.core.pages.drawing_notices import notices_of_excerpts
from skalto.core.pages.page import Notice, Page, PlacedView, SheetContext, ViewLines
from skalto.core.pages.placed_views import excess, facts_of_view, frame_of
from skalto.core.pages.plates_table import plate_rows, plates_table
from skalto.core.pages.reducing import reduction
from skalto.core.paper import FrameStyle
from skalto.core.quantities import format_mm
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.content import FlatContent
from skalto.core.sheets.sheet import Furniture, SheetSpec, ViewSpec
from skalto.core.sources.models.parts import Item, items


@dataclass(frozen=True, eq=False)
class Written:
    """What was put on a sheet beside its lines, for whoever edits it: title fields and balloons with their places."""

    cells: tuple[TitleCell, ...] = ()
    balloons: tuple[Balloon, ...] = ()
    items: tuple[Item, ...] = ()
    parts_box: Box | None = None


def shown_paths(view: ViewSpec, facts: SourceFacts) -> list[str]:
    """The components that a view shows."""
    from skalto.core.sources.models.model import covered

    if view.flat is not None:
        return [view.flat.component] if view.flat.component in facts.leaves else []
    return [path for path in facts.leaves if not covered(path, view.hidden)]


def sheet_items(sheet: SheetSpec, context: SheetContext) -> list[Item]:
    """The items of the sheet's parts list; none without one."""
    if sheet.parts_list is None:
        return []
    try:
        view = sheet.view(sheet.parts_list.view)
    except KeyError:
        return []
    facts = context.sources.get(view.source)
    if facts is None:
        return []
    return items(facts.tree, context.parts, [facts.leaves[path] for path in shown_paths(view, facts)])


def title_values(sheet: SheetSpec, context: SheetContext) -> dict[str, str]:
    """The title block's fields, material and mass from what the sheet shows."""
    materials: dict[str, None] = {}
    mass: float | None = 0.0
    shown: set[tuple[str, str]] = set()
    for view in sheet.views:
        facts = context.sources.get(view.source)
        if facts is not None:
            shown |= {(view.source, path) for path in shown_paths(view, facts)}
    for source in {source for source, _ in shown}:
        facts = context.sources[source]
        own = [facts.leaves[path] for path in facts.leaves if (source, path) in shown]
        for item in items(facts.tree, context.parts, own):
            if item.material:
                materials[item.material] = None
            mass = mass + item.mass * item.quantity if mass is not None and item.mass is not None else None
    values = field_values(sheet, replace(context.title, materials=tuple(materials), mass=mass or None))
    small = reduction(sheet, context.reduced_to) if context.reduced_to is not None else None
    if small is not None:
        values["scale"] = f"reduced, {values['scale'].partition(' (')[0]} at {sheet.format}"
    return values


def _seen_circles(artwork: Artwork) -> set[tuple[float, float, float]]:
    found = set()
    for item in artwork:
        if isinstance(item, Ellipses):
            for (x, y), radius, circle in zip(item.centre, item.radii()[:, 0], item.is_circle(), strict=True):
                if circle:
                    found.add((round(float(x), 3), round(float(y), 3), round(float(radius), 3)))
    return found


def _dimensions(
    pencil: Pencil, view: ViewSpec, frame: Frame, facts: SourceFacts, asme: bool
) -> tuple[list[DrawnDimension], list[Notice]]:
    drawn, notices = [], []
    for dimension in view.dimensions:
        measured = measure(dimension, frame, facts)
        if measured is None:
            message = f"A {dimension.kind.value} dimension of the {view.title} has lost its edge: attach it anew or remove it."
            notices.append(Notice("dimension-lost", message, view.id, "error"))
            continue
        if dimension.was is not None and abs(dimension.was - measured.value) > 5e-5:
            message = f"A dimension of the {view.title} is now {format_mm(measured.value)}; it was {format_mm(dimension.was)}."
            notices.append(Notice("dimension-changed", message, view.id))
        drawn.append(draw(pencil, dimension, measured, asme))
    return drawn, notices


def _mark_view(
    placed: PlacedView, sheet: SheetSpec, lines: ViewLines, facts: SourceFacts | None, context: SheetContext
) -> tuple[PlacedView, list[Notice]]:
    """A view with all that is written on it."""
    view, frame, pencil = placed.spec, frame_of(placed.spec, lines), Pencil()
    notices: list[Notice] = []
    drawn: list[DrawnDimension] = []
    hatched = Artwork()
    if view.section is not None and view.section.hatched and lines.faces and view.detail is None:
        hatched = view_marks.hatching(lines.faces, frame, list(dict.fromkeys(face.component for face in lines.faces)))
    circle = None
    if view.detail is not None:
        circle = frame.by.points(np.array(view.detail.centre)), view.detail.radius * frame.by.scale
    if view.centres and not _is_pictorial(view):
        view_marks.centre_marks(pencil, placed.artwork, math.radians(view.rotation), circle)
    for child in sheet.children(view.id):
        if child.section is not None and child.detail is None:
            view_marks.cutting_plane(pencil, child, frame)
        elif child.detail is not None:
            view_marks.detail_circle(pencil, child, frame)
    box = placed.box
    if circle is not None:
        centre, radius = circle
        pencil.arc(centre, radius)
        (x0, y0), (x1, y1) = (centre - radius).tolist(), (centre + radius).tolist()
        box = x0, y0, x1, y1
    if facts is not None:
        facts = facts_of_view(view, lines, facts)
        if view.axes and view.of_model:
            view_marks.axes_of_cylinders(pencil, frame, facts, shown_paths(view, facts))
        drawn, notices = _dimensions(pencil, view, frame, facts, sheet.frame is FrameStyle.ASME)
        if view.holes is not None and box is not None:
            rows = holes(view.holes, frame, facts, shown_paths(view, facts), _seen_circles(lines.artwork))
            if rows:
                origin = (rows[0].plane[0] - rows[0].x, rows[0].plane[1] - rows[0].y)
                corner = view.holes.place or (box[2] + 8.0, box[3])
                hole_table(pencil, rows, frame, corner, origin)
    if view.flat is not None and lines.flat is not None and view.detail is None:
        _mark_flat(pencil, view.flat, lines.flat, frame, box)
    if box is not None:
        listed = sheet.parts_list
        ringed = listed is not None and listed.balloons and listed.view == view.id
        # clear of the balloons and their leaders
        view_marks.caption(pencil, view, around(box, drawn), AWAY + RADIUS + 3 if ringed else 4.0)
    return replace(placed, marks=hatched + pencil.artwork(), dimensions=tuple(drawn), box=box), notices


def _mark_flat(pencil: Pencil, content: FlatContent, facts: PatternFacts, frame: Frame, box: Box | None) -> None:
    """What is written on a flat pattern."""
    if content.note:
        flat_marks.bend_notes(pencil, facts, frame, content.bends is not None)
    if content.grain:
        flat_marks.grain_arrow(pencil, facts, frame)
    if content.bends is not None and facts.bends and box is not None:
        flat_marks.bend_table(pencil, facts, content.bends.place or (box[2] + 8.0, box[3]))


def around(box: Box, drawn: Sequence[DrawnDimension]) -> Box:
    """A view's box with the figures of its dimensions."""
    corners = np.concatenate([np.array(box).reshape(2, 2), *(d.corners for d in drawn)])
    (x0, y0), (x1, y1) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return x0, y0, x1, y1


def _is_pictorial(view: ViewSpec) -> bool:
    """Whether no axis of the model lies square to the sheet."""
    look = np.abs(np.array(view.look)) / np.linalg.norm(view.look)
    return bool(look.max() < 0.999)


def _notes(pencil: Pencil, notes: Sequence[Note], frames: Mapping[str, Frame]) -> None:
    for note in notes:
        x, y = note.place
        rows = note.text.split("\n")
        angle = math.radians(note.angle)
        down = np.array((math.sin(angle), -math.cos(angle)))
        for number, row in enumerate(rows):
            at = np.array((x, y)) + down * note.height * (1.0 + 1.5 * number)
            pencil.text(row, at, note.height, angle)
        frame = frames.get(note.view or "")
        if frame is not None and note.target is not None:
            target = frame.by.points(np.array(note.target))
            wide = max(lettering.length(row, note.height) for row in rows)
            left = target[0] < x + wide / 2
            start = np.array((x - 1.0 if left else x + wide + 1.0, y - note.height / 2))
            pencil.line(start, target)
            pencil.arrow(target, target - start)


def note_box(note: Note) -> Box:
    """The box that a note's lines take, sheet mm, whichever way they run."""
    rows = note.text.split("\n")
    wide, high = max(lettering.length(row, note.height) for row in rows), note.height * (1.0 + 1.5 * (len(rows) - 1))
    angle = math.radians(note.angle)
    along, down = np.array((math.cos(angle), math.sin(angle))), np.array((math.sin(angle), -math.cos(angle)))
    corners = np.array(note.place) + np.array([along * a + down * b for a in (0, wide) for b in (0, high)])
    (x0, y0), (x1, y1) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return x0, y0, x1, y1


def annotate(page: Page, sheet: SheetSpec, lines: Mapping[str, ViewLines], context: SheetContext) -> Page:
    """A page with everything that a sheet says beside its lines; a clean sheet says nothing."""
    return write(page, sheet, lines, context)[0]


def write(page: Page, sheet: SheetSpec, lines: Mapping[str, ViewLines], context: SheetContext) -> tuple[Page, Written]:
    """The same, with what was written and where."""
    paper = (0.0, 0.0, float(page.width), float(page.height))
    if sheet.clean:
        notices = _notices_of_places(page.views, sheet.annotations_3d, paper, paper, "the sheet")
        notices += notices_of_excerpts(page.views, context.sources)
        kept = [note for note in sheet.notes if note.always]
        notices += _notices_of_letters([note.text for note in kept], page.views)
        kept_pencil = Pencil()
        _notes(kept_pencil, kept, {placed.spec.id: frame_of(placed.spec, lines[placed.spec.id]) for placed in page.views})
        return replace(page, under=Artwork(), frame=kept_pencil.artwork(), notices=tuple(notices)), Written()
    notices = []
    views = []
    for placed in page.views:
        done, more = _mark_view(placed, sheet, lines[placed.spec.id], context.sources.get(placed.spec.source), context)
        views.append(done)
        notices += more
    values = title_values(sheet, context)
    frame_box = sheet.frame_box()
    if frame_box is None and sheet.frame is not FrameStyle.NONE:
        size = f"{format_mm(paper[2], 2)} × {format_mm(paper[3], 2)} mm"
        message = f"The sheet of {size} is too small for its frame: take a larger format, smaller margins, or no frame."
        notices.append(Notice("frame-no-room", message))
    within = frame_box or usable(paper[2], paper[3], sheet.frame, sheet.margins)
    notices += _notices_of_places(
        tuple(views), sheet.annotations_3d, within, paper, "the frame" if frame_box else "the margins"
    )
    notices += notices_of_excerpts(views, context.sources)
    pencil = Pencil()
    for own in sheet.annotations_3d:
        if own.frame:
            pencil.rectangle(*own.box, EdgeClass.TABLE)
    frames = {placed.spec.id: frame_of(placed.spec, lines[placed.spec.id]) for placed in views}
    _notes(pencil, sheet.notes, frames)
    found = sheet_items(sheet, context)
    balloons: list[Balloon] = []
    parts_box = None
    block = title_box(sheet)
    if sheet.parts_list is not None and found:
        corner = sheet.parts_list.place or ((block[1][2], block[1][3]) if block else (within[2], within[1]))
        parts_box = parts_list(pencil, sheet.parts_list, found, corner)
        over = excess(parts_box, within)
        if over:
            message = "The parts list leaves the frame by " + _sides(over) + ": take a larger format, or show fewer components."
            notices.append(Notice("parts-list-outside", message))
        balloons = _balloons(sheet, views, found, within, [b for b in (block[1] if block else None, parts_box) if b])
        for balloon in balloons:
            draw_balloon(pencil, balloon)
        notices += _notices_of_balloons(sheet, found, balloons)
    plates_box = None
    if sheet.plates_table is not None and context.plates:
        rows = plate_rows(context.plates)
        plates_box = plates_table(pencil, rows, sheet.plates_table.place or (within[0] + 10, within[3] - 10))
        over = excess(plates_box, within)
        if over:
            message = "The table of plates leaves the frame by " + _sides(over) + ": take a larger format, or move it."
            notices.append(Notice("plates-table-outside", message))
    drawings_box = None
    if sheet.drawings_table is not None:
        drawings_box = drawings_table(pencil, context.drawings, sheet.drawings_table.place or (within[0] + 10, within[3] - 10))
        over = excess(drawings_box, within)
        if over:
            message = "The table of drawings leaves the frame by " + _sides(over) + ": take a larger format, or move it."
            notices.append(Notice("drawings-table-outside", message))
    notices += _notices_of_covered(
        views,
        sheet.annotations_3d,
        {
            "title block": block[1] if block else None,
            "parts list": parts_box,
            "table of plates": plates_box,
            "table of drawings": drawings_box,
        },
    )
    notices += _notices_of_title(sheet, values, block is not None)
    notices += _notices_of_letters([*values.values(), *(n.text for n in sheet.notes)], views)
    frame = furnish(sheet, values, _bar_note(sheet, context)) + pencil.artwork()
    done_page = replace(page, frame=frame, views=tuple(views), notices=tuple(notices))
    return done_page, Written(tuple(title_cells(sheet, values)), tuple(balloons), tuple(found), parts_box)


def _bar_note(sheet: SheetSpec, context: SheetContext) -> str:
    """What the print-control bar of a sheet that goes out reduced says; '' for any other."""
    small = reduction(sheet, context.reduced_to) if context.reduced_to is not None else None
    return f" at {sheet.format}, here {float(100 * small[1]):.2f} mm" if small is not None else ""


def _balloons(
    sheet: SheetSpec, views: Sequence[PlacedView], found: Sequence[Item], within: Box, taken: list[Box]
) -> list[Balloon]:
    wanted = sheet.parts_list
    if wanted is None or not wanted.balloons:
        return []
    placed = next((v for v in views if v.spec.id == wanted.view), None)
    if placed is None or placed.box is None:
        return []
    others = [v.box for v in views if v is not placed and v.box is not None]
    outer = around(placed.box, placed.dimensions)
    captions = [t.bounds() for t in placed.marks if isinstance(t, Text)]
    lettered = [tuple(b.ravel().tolist()) for b in np.concatenate(captions)] if captions else []
    made = place_balloons(found, placed.artwork, outer, within, [*taken, *others, *lettered], wanted.moved)
    marks = {item.item: item.mark for item in found} if wanted.refer == "mark" else {}
    return [replace(balloon, text=marks.get(balloon.item, "")) for balloon in made]


def _notices_of_balloons(sheet: SheetSpec, found: Sequence[Item], balloons: Sequence[Balloon]) -> list[Notice]:
    """Items that stand in the list and have no balloon, since the view shows nothing of them or has no room about it."""
    assert sheet.parts_list is not None
    without = [str(item.item) for item in found if item.item not in {balloon.item for balloon in balloons}]
    if not sheet.parts_list.balloons or not without:
        return []
    items_, have = ("Item", "has") if len(without) == 1 else ("Items", "have")
    numbers = " and ".join(filter(None, (", ".join(without[:-1]), without[-1])))
    title = sheet.view(sheet.parts_list.view).title
    message = f"{items_} {numbers} of the parts list {have} no balloon: not seen in the {title}, or without room about it."
    return [Notice("balloon-missing", message, level="info")]


def _sides(over: Mapping[str, float]) -> str:
    return ", ".join(f"{format_mm(by, 2)} mm at the {side}" for side, by in over.items())


def _notices_of_places(
    views: Sequence[PlacedView], fields: Sequence[Annotation3d], within: Box, paper: Box, where: str
) -> list[Notice]:
    """Views and 3D annotations that leave the frame or the sheet, and those that lie over one another, with figures."""
    notices = []
    # a page's own frame and title block lie about its excerpts
    boxes = [(v.spec.title, v.spec.id, v.box, _is_page(v.spec)) for v in views if v.box is not None]
    shown: list[tuple[str, str | None, Box, bool]] = [*boxes, *((f.title, None, f.box, False) for f in fields)]
    for title, view, box, _ in shown:
        over = excess(box, paper)
        if over:
            notices.append(Notice("outside", f"The {title} leaves the sheet by {_sides(over)}.", view))
        elif excess(box, within):
            notices.append(Notice("outside", f"The {title} leaves {where} by {_sides(excess(box, within))}.", view))
    for number, (title, view, a, is_page) in enumerate(shown):
        for other, _, b, other_is_page in shown[number + 1 :]:
            if is_page or other_is_page:
                continue
            size = _common(a, b)
            if size:
                notices.append(Notice("overlap", f"The {title} and the {other} lie over one another by {size}.", view))
    return notices


def _notices_of_covered(
    views: Sequence[PlacedView], fields: Sequence[Annotation3d], written: Mapping[str, Box | None]
) -> list[Notice]:
    """Views and 3D annotations that lie over what is written in a box of its own, with figures."""
    notices = []
    shown = [(v.spec.title, v.spec.id, v.box) for v in views if v.box is not None and not _is_page(v.spec)]
    for title, view, box in [*shown, *((f.title, None, f.box) for f in fields)]:
        for name, block in written.items():
            size = _common(box, block) if block else None
            if size:
                notices.append(Notice("overlap", f"The {title} and the {name} lie over one another by {size}.", view))
    return notices


def _common(a: Box, b: Box) -> str | None:
    """The size of what two boxes have in common, as it is told; None where they have nothing."""
    across, upright = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    return f"{format_mm(across, 2)} × {format_mm(upright, 2)} mm" if across > 1e-6 and upright > 1e-6 else None


def _is_page(view: ViewSpec) -> bool:
    """Whether a view is what a saved page draws itself."""
    return view.excerpt is not None and bool(view.excerpt.space)


def _notices_of_letters(written: Sequence[str], views: Sequence[PlacedView]) -> list[Notice]:
    """Letters that no shipped face has, with a text that has them."""
    drawn = [text for view in views for item in view.artwork if isinstance(item, Text) for text in item.texts]
    found: dict[str, str] = {}
    for text in [*written, *drawn]:
        for letter in lettering.missing(text):
            if letter.isprintable() and not letter.isspace():
                found.setdefault(letter, text)
    if not found:
        return []
    letters, text = " ".join(sorted(found)), next(iter(found.values()))
    return [Notice("letters-missing", f"No shipped face has {letters} (in “{text[:40]}”): an empty box stands there.")]


def _notices_of_title(sheet: SheetSpec, values: Mapping[str, str], has_block: bool) -> list[Notice]:
    if Furniture.TITLE not in sheet.furniture or sheet.frame is FrameStyle.NONE:
        return []
    if not has_block:
        return [Notice("title-no-room", "The title block has no room in this frame: take a larger format, or take it off.")]
    empty = missing_fields(values)
    if not empty:
        return []
    return [Notice("title-empty", f"The title block lacks {', '.join(empty)}, which ISO 7200 requires.", level="info")]
