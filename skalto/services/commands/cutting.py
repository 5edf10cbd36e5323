"""The command line's use cases of cutting: parts of models and drawings laid on plates, and the stand-in cutter on any file."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fnmatch import fnmatchcase
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError

from skalto.core.checks.cut_pieces import run_page
from skalto.core.cutting.choices import Codes, Corner, CutChoices, Plate, Turning
from skalto.core.cutting.laying import contents_of, laying_of, why_left
from skalto.core.cutting.packing.measures import bound, largest_rectangle, plate_yield
from skalto.core.cutting.packing.pieces import Arrangement, Laying
from skalto.core.cutting.packing.search import WORK, Found, arrangements
from skalto.core.cutting.remnants import remnant_of
from skalto.core.cutting.section import ComponentOrigin, ContoursOrigin, CutList, CutPart, CuttingContent
from skalto.core.errors import InputError, first_sentence
from skalto.core.formats import DocumentFormat, PixelFormat, output_format
from skalto.core.geometry.profile import Profile
from skalto.core.job import JobDocument
from skalto.core.paper import FrameStyle, Orientation, parse_format
from skalto.core.progress import Progress
from skalto.core.quantities import parse_length
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.models.model import hidden_by_patterns
from skalto.core.sources.models.parts import items
from skalto.core.sources.section import SourceRef
from skalto.services.commands.files_out import FilesOut
from skalto.services.commands.memory import Workshop, workshop
from skalto.services.commands.output_options import recipe_named
from skalto.services.output.plans import JobAtHand
from skalto.services.results.profiles import drawn_parts, part_profile, shape_plates
from skalto.services.use_cases.drawings import unit_of

SAME_THICKNESS = 0.05
"""Parts whose thicknesses differ by less than this, mm, are cut from one plate."""


class CutOptions(BaseModel):
    """What ``skalto cut`` was asked for, as typed."""

    model_config = ConfigDict(frozen=True)

    plate: str = ""
    plates: int | None = None
    edge: str = "5mm"
    gap: str = "2mm"
    kerf: str = "0"
    turn: str = "quarter"
    flip: bool = False
    quantity: tuple[str, ...] = ()
    show: tuple[str, ...] = ()
    thickness: str = ""
    material: str = ""
    close: str = "0"
    units: str = ""
    score: tuple[str, ...] = ()
    engrave: tuple[str, ...] = ()
    leave_out: tuple[str, ...] = ()
    seconds: float = 20.0
    seed: int = 1
    recipe: str = ""

    @property
    def drawn(self) -> bool:
        """Whether the plate is the outermost contour of the first drawing."""
        return self.plate.strip().lower() == DRAWN


def _length(text: str, what: str) -> float:
    try:
        value = float(parse_length(text))
    except InputError:
        value = -1.0
    if value < 0:
        raise InputError(f"“{text}” is not a length for --{what}: write one such as 2mm.")
    return value


DRAWN = "drawn"
"""What is written for a plate that is the outermost contour of a drawing."""


def _plate(asked: CutOptions) -> Plate:
    if not asked.plate.strip():
        raise InputError(
            "No plate is named: write --plate 600x400mm, or --plate drawn where a drawing's outermost contour is it."
        )
    # one that is drawn has its size from the drawing, which is read later
    size = parse_format("1000x1000mm" if asked.drawn else asked.plate)
    if asked.plates is not None and asked.plates < 1:
        raise InputError(f"--plates {asked.plates} leaves no plate to cut from: write 1 or more.")
    try:
        return Plate(
            width=float(size.width), height=float(size.height), edge=_length(asked.edge, "edge"), count=asked.plates,
            thickness=_length(asked.thickness, "thickness") if asked.thickness else 0.0, material=asked.material,
        )  # fmt: skip
    except ValidationError as error:
        raise InputError(first_sentence(error)) from None


def _choices(asked: CutOptions) -> CutChoices:
    try:
        turning = Turning(asked.turn.strip().lower())
    except ValueError:
        raise InputError(f"“{asked.turn}” is not a way to turn parts: write {', '.join(t.value for t in Turning)}.") from None
    try:
        return CutChoices(
            gap=_length(asked.gap, "gap"), kerf=_length(asked.kerf, "kerf"), turning=turning, flips=asked.flip, codes=Codes()
        )  # fmt: skip
    except ValidationError as error:
        raise InputError(first_sentence(error)) from None


def _quantities(parts: Sequence[CutPart], asked: Sequence[str]) -> list[CutPart]:
    found = list(parts)
    for row in asked:
        pattern, equals, number = row.rpartition("=")
        if not equals or not number.strip().isdigit():
            raise InputError(f'“{row}” is no quantity: write PATTERN=N, such as "Cheek*=4".')
        rows = [n for n, part in enumerate(found) if fnmatchcase(part.name.casefold(), pattern.strip().casefold())]
        if not rows:
            raise InputError(f"“{pattern}” names no part: they are {', '.join(part.name for part in found[:12])}.")
        for n in rows:
            found[n] = found[n].model_copy(update={"quantity": int(number)})
    return found


def _of_model(
    bench: Workshop, path: Path, asked: CutOptions, first: int, notes: list[str], drawn_plates: list[Profile]
) -> list[CutPart]:
    source = bench.read(path)
    tree = bench.facts(source).tree
    hidden = hidden_by_patterns(tree, asked.show, ())
    shown = [leaf for leaf in tree.leaves() if leaf.path not in hidden]
    shapes = [leaf.shape for leaf in shown if leaf.shape is not None]
    plates = shape_plates(bench.blobs, source, shapes, bench.report)
    by_path = {leaf.path: leaf for leaf in shown}
    found: list[CutPart] = []
    bought: list[str] = []
    thick: list[str] = []
    for item in items(tree, {}, shown):
        if item.bought and not asked.show:
            bought.append(item.name)
            continue
        leaf = by_path[item.components[0]]
        assert leaf.shape is not None, "leaves have shapes"
        own = plates[leaf.shape]
        if own.why_not:
            if asked.show:
                raise InputError(f"{item.name} is no flat plate: {own.why_not}.")
            thick.append(item.name)
            continue
        found.append(
            CutPart(
                id=f"p{first + len(found)}", name=item.name, quantity=item.quantity,
                origin=ComponentOrigin(source=source, component=leaf.path),
            )
        )  # fmt: skip
    for rows, what in ((thick, "no flat plate"), (bought, "bought")):
        if rows:
            notes.append(f"Left out, since {'it is' if len(rows) == 1 else 'they are'} {what}: {', '.join(rows)}.")
    return found


def _of_drawing(
    bench: Workshop, path: Path, asked: CutOptions, first: int, notes: list[str], drawn_plates: list[Profile]
) -> list[CutPart]:
    """The parts of a drawing; the plate that its outermost contour is, where that is asked for, goes into *drawn_plates*."""
    source = bench.read(path)
    facts = bench.facts(source).drawing
    assert facts is not None, "a drawing has facts"
    said = _length(f"1{asked.units}", "units") if asked.units else None
    space = facts.spaces[0]
    unit = unit_of(facts, space.name, said, path.name)
    origin = ContoursOrigin(
        source=source, space=space.name, unit=unit, close=_length(asked.close, "close"), score=asked.score,
        engrave=asked.engrave,
        out=asked.leave_out, plate=asked.drawn and not drawn_plates,
    )  # fmt: skip
    drawn = drawn_parts(bench.blobs, origin, path.stem)
    if drawn.plate is not None:
        drawn_plates.append(drawn.plate)
    if drawn.open:
        more = f", and {len(drawn.open) - 1} more are open" if len(drawn.open) > 1 else ""
        sentence = drawn.open[0].sentence().rstrip(".")
        raise InputError(
            f"{path.name}: {sentence[0].lower()}{sentence[1:]}{more}. Close it in the drawing, or with --close LENGTH."
        )
    if not drawn.parts:
        raise InputError(f"{path.name} has no closed contour: there is nothing to cut.")
    notes += [f"{path.name}: {note}" for note in drawn.notes]
    return [
        CutPart(id=f"p{first + n}", name=part.name, origin=origin.model_copy(update={"number": n}))
        for n, part in enumerate(drawn.parts)
    ]


def _of_thickness(bench: Workshop, parts: list[CutPart], plate: Plate, notes: list[str]) -> tuple[list[CutPart], Plate]:
    """Parts of one thickness, and the plate with it."""
    thick = {part.id: part_profile(bench.blobs, part, bench.report).profile.thickness for part in parts}
    known = sorted({round(value, 4) for value in thick.values() if value})
    if plate.thickness:
        kept = [p for p in parts if not thick[p.id] or abs(thick[p.id] - plate.thickness) <= SAME_THICKNESS]
        if not kept:
            what = ", ".join(f"{value:g}" for value in known)
            raise InputError(f"No part is {plate.thickness:g} mm thick: they are {what} mm.")
        notes += [f"{p.name} is {thick[p.id]:.4g} mm thick, and left out." for p in parts if p not in kept]
        return kept, plate
    if known and known[-1] - known[0] > SAME_THICKNESS:
        what = ", ".join(f"{value:g}" for value in known)
        raise InputError(f"These parts are {what} mm thick: choose those of one plate with --thickness, or with --show.")
    return parts, plate.model_copy(update={"thickness": known[0]}) if known else plate


def _sheets(name: str, cut_list: CutList, contents: Sequence[CuttingContent]) -> list[SheetSpec]:
    found = []
    for number, content in enumerate(contents, 1):
        plate = cut_list.plates[content.plate]
        way = Orientation.LANDSCAPE if plate.width > plate.height else Orientation.PORTRAIT
        found.append(
            SheetSpec(
                id=f"plate-{number}", name=f"{name} {number}" if len(contents) > 1 else name,
                format=f"{plate.width:g}x{plate.height:g}mm", orientation=way, frame=FrameStyle.NONE, furniture=frozenset(),
                clean=True, pens="hairline", cutting=content,
            )
        )  # fmt: skip
    return found


_PATIENT = 4.0
"""So many times as long as was asked for the work may take."""


def _arranged(laying: Laying, asked: CutOptions, report: Progress) -> Found:
    found = None
    # the work is counted, so that the same seed gives the same; the clock is for machines that are slower by far
    for own in arrangements(laying, _PATIENT * asked.seconds, asked.seed, work=asked.seconds * WORK):
        report(0.5, "Arranging the parts")
        found = own
    assert found is not None, "there is always a last one"
    return found


def cut_files(
    path: str, more: list[str], out: str, options: dict[str, Any], overwrite: bool, report: Progress
) -> dict[str, Any]:
    """Lay the parts of files on plates and write a page or a file a plate, measured and run in the stand-in cutter; the
    report as plain data.

    :raises InputError: for a bad file or option, and when no part can be laid.
    """
    asked = CutOptions.model_validate(options)
    wanted = output_format(out)
    if isinstance(wanted, PixelFormat):
        raise InputError(f"{Path(out).name} is a picture, which is not cut: write .pdf, .dxf or .svg.")
    outgoing = FilesOut(overwrite, [path, *more])
    outgoing.check(out)
    plate, choices = _plate(asked), _choices(asked)
    if asked.seconds <= 0:
        raise InputError("--seconds is how long to look for a better arrangement: write more than 0.")
    recipe = recipe_named(asked.recipe or "cutter")
    notes: list[str] = []
    with workshop(report) as bench:
        files = [Path(own) for own in (path, *more)]
        parts: list[CutPart] = []
        of: dict[str, Path] = {}
        drawn_plates: list[Profile] = []
        for own in files:
            make = _of_drawing if is_drawing(own.name) else _of_model
            more_parts = make(bench, own, asked, len(parts), notes, drawn_plates)
            # a file without a flat part is no source of the plates
            of |= {part.origin.source: own for part in more_parts if part.origin.source not in of}
            parts += more_parts
        if asked.drawn:
            plate = remnant_of(plate, drawn_plates, files[0].name)
        parts = _quantities(parts, asked.quantity)
        if not parts:
            raise InputError(f"{files[0].name} has no flat part: {notes[0] if notes else 'it is empty.'}")
        if not any(part.quantity for part in parts):
            raise InputError("There is nothing to cut: every quantity is nought.")
        parts, plate = _of_thickness(bench, parts, plate, notes)
        cut_list = CutList(id="cut", name=Path(out).stem, parts=tuple(parts), plates=(plate,), choices=choices)
        profiles: dict[str, Profile] = {}
        for part in parts:
            kept = part_profile(bench.blobs, part, report)
            profiles[part.id] = kept.profile
            notes += kept.notes
        laying = laying_of(cut_list, profiles)
        found = _arranged(laying, asked, report)
        contents = contents_of(cut_list, laying, found.arrangement)
        left = {key: n for key, n in found.arrangement.left.items() if n}
        if not contents:
            key = next(iter(left))
            raise InputError(f"{cut_list.part(key).name} does not fit: {why_left(laying, key)}.")
        sheets = _sheets(Path(out).stem, cut_list, contents)
        refs = tuple(
            SourceRef(id=source, name=own.name, size=own.stat().st_size, drawing=is_drawing(own.name))
            for source, own in of.items()
        )
        job = JobAtHand(
            JobDocument(name=Path(out).stem, sources=refs, sheets=tuple(sheets), cut_lists=(cut_list,)), named=False
        )
        rows = list(_written(bench, job, sheets, recipe, out, wanted, cut_list, laying, found.arrangement, outgoing))
        notes += outgoing.write()
    return {
        "plates": rows,
        "left": [{"part": cut_list.part(key).name, "count": n, "why": why_left(laying, key)} for key, n in left.items()],
        "notices": notes,
        "steps": found.steps,
        "timed": found.timed,
        "seed": asked.seed,
        "holds": not left and all(row["holds"] for row in rows),
    }


def _written(
    bench: Workshop, job: JobAtHand, sheets: list[SheetSpec], recipe: Recipe, out: str, wanted: Any, cut_list: CutList,
    laying: Laying, arrangement: Arrangement, outgoing: FilesOut,
) -> Iterator[dict[str, Any]]:  # fmt: skip
    """Make the plates' files, and tell of each what it is worth."""
    from skalto.core.pages.composition import compose

    together = isinstance(wanted, DocumentFormat)
    done: list[tuple[str, bytes, Any, int]] = []
    if together:
        data, report = bench.write_as(out, job.whole(sheets, [recipe] * len(sheets)))
        outgoing.add(out, data)
        done = [(out, data, report, number) for number in range(1, len(sheets) + 1)]
    else:
        for number, sheet in enumerate(sheets, 1):
            name = out if number == 1 else str(Path(out).with_name(f"{Path(out).stem}-{number}{Path(out).suffix}"))
            data, report = bench.write_as(name, job.whole([sheet], [recipe]))
            outgoing.add(name, data)
            done.append((name, data, report, 1))
    for number, (sheet, (name, data, report, page)) in enumerate(zip(sheets, done, strict=True)):
        content = sheet.cutting
        assert content is not None, "it is a plate"
        built = job.page(sheet, recipe).context.built(bench.blobs, ())
        cut = compose(sheet, {}, built).cut
        assert cut is not None, "its profiles are there"
        run = run_page(data, Path(name).suffix, cut, page)
        free = largest_rectangle(laying, arrangement, number)
        own = arrangement.on(number)
        yield {
            "file": name, "page": page, "parts": len(content.placed),
            "yield": round(plate_yield(laying, arrangement, number), 6),
            "bound": round(bound(laying, own, content.plate), 6), "cut_mm": round(cut.plan.cut_length, 4),
            "pierces": cut.plan.pierces, "seconds": round(run.report.seconds.total, 2),
            "seconds_by": {k: round(v, 2) for k, v in run.report.seconds.model_dump().items()},
            "free_mm": None if free is None else [round(v, 2) for v in free],
            "largest_deviation_um": round(max((p.deviation_um or 0.0 for p in run.report.pieces), default=0.0), 3),
            "placed": [
                {"part": cut_list.part(p.part).name, "x": round(p.x, 4), "y": round(p.y, 4), "angle": round(p.turn, 6),
                 "flipped": p.flipped}
                for p in content.placed
            ],
            "findings": [
                {"level": f.level, "message": f.message} for f in report.findings if f.page in (None, page) or not together
            ],
            "holds": report.holds,
        }  # fmt: skip


class CutterOptions(BaseModel):
    """What ``skalto cutter`` was asked for, as typed."""

    model_config = ConfigDict(frozen=True)

    bed: str = ""
    corner: str = "top-left"
    material: str = ""
    thickness: str = ""
    kerf: str = ""
    page: int = 1


def run_file(path: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """A finished file in the stand-in cutter; what came of it as plain data.

    :raises InputError: for a file that cannot be used, and a bad option.
    """
    from skalto.core.cutter.machine import Machine
    from skalto.core.cutter.running import run
    from skalto.core.cutter.tracks import read_for_machine

    asked = CutterOptions.model_validate(options)
    corners: tuple[Corner, ...] = ("top-left", "top-right", "bottom-left", "bottom-right")
    corner = next((own for own in corners if own == asked.corner.strip().lower()), None)
    if corner is None:
        raise InputError(f"“{asked.corner}” is not a corner: write {', '.join(corners)}.")
    machine = Machine(corner=corner)
    if asked.bed:
        bed = parse_format(asked.bed)
        machine = machine.model_copy(update={"width": float(bed.width), "height": float(bed.height)})
    row = machine.row(asked.material, _length(asked.thickness, "thickness") if asked.thickness else 0.0)
    file = Path(path)
    if not is_drawing(file.name):
        raise InputError(f"{file.name} is not a file that a cutter takes: give it a PDF, a DXF or an SVG.")
    taken = read_for_machine(file, machine, file.name, asked.page, report)
    made = run(taken, machine, row, kerf=_length(asked.kerf, "kerf") if asked.kerf else None).report
    return made.model_dump(mode="json") | {"holds": made.holds, "total_seconds": made.seconds.total}
