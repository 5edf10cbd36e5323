"""The command line's use case of sheet metal: the parts of a model unfolded, written as DXF, SVG or PDF, and proved."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.packs import safe
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.progress import Progress
from skalto.core.quantities import parse_length
from skalto.core.recipes import Recipe
from skalto.core.sheet_metal.allowances import BendRule, BendWay, table_from_csv
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheet_metal.flat_writing import Curves, FlatWriting, OtherSide
from skalto.core.sheet_metal.pattern import FlatPattern, NoSheet, SheetKind
from skalto.core.sheet_metal.pattern_dxf import has_other_side, other_side, reread, write_pattern
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.core.sheets.content import FlatContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.models.model import Component, Model, hidden_by_patterns
from skalto.core.sources.models.parts import Item, items
from skalto.core.sources.section import SourceRef
from skalto.services.commands.files_out import FilesOut
from skalto.services.commands.memory import Workshop, workshop
from skalto.services.commands.output_options import recipe_named
from skalto.services.output.plans import JobAtHand
from skalto.services.results.models import kept_model

ENDINGS = (".dxf", ".svg", ".pdf")


class UnfoldOptions(BaseModel):
    """What ``skalto unfold`` was asked for, as typed; '' and None where nothing was."""

    model_config = ConfigDict(frozen=True)

    component: tuple[str, ...] = ()
    k: float | None = None
    rule: str = ""
    table: str = ""
    deduction: str = ""
    material: str = ""
    side: str = "a"
    recipe: str = ""
    curves: str = ""
    tolerance: str = ""


def _rule(asked: UnfoldOptions) -> BendRule:
    given = [name for name in ("k", "rule", "table", "deduction") if getattr(asked, name) not in ("", None)]
    if len(given) > 1:
        raise InputError(f"--{given[0]} and --{given[1]} are two rules: give one.")
    if asked.k is not None:
        if not 0 <= asked.k <= 1:
            raise InputError(f"--k {asked.k:g} puts the neutral fibre outside the sheet: write 0 to 1, such as 0.44.")
        return BendRule(way=BendWay.K_FACTOR, value=asked.k)
    if asked.rule:
        if asked.rule.strip().casefold().replace(" ", "") != "din6935":
            raise InputError(f"“{asked.rule}” is not a bend rule: write --rule din6935, --k, --table or --deduction.")
        return BendRule(way=BendWay.DIN_6935)
    if asked.table:
        try:
            text = Path(asked.table).read_text(encoding="utf-8-sig")
        except (OSError, UnicodeDecodeError) as error:
            raise InputError(
                f"The bend table {asked.table} cannot be read: {getattr(error, 'strerror', None) or error}."
            ) from None
        return table_from_csv(text, Path(asked.table).stem)
    if asked.deduction:
        return BendRule(way=BendWay.DEDUCTION, value=_length(asked.deduction, "deduction"))
    return BendRule()


def _length(text: str, what: str) -> float:
    try:
        value = float(parse_length(text))
    except InputError:
        value = -1.0
    if value <= 0:
        raise InputError(f"“{text}” is not a length for --{what}: write one such as 3.2mm.")
    return value


def _writing(asked: UnfoldOptions) -> FlatWriting:
    recipe: Recipe | None = recipe_named(asked.recipe) if asked.recipe else None
    found = (recipe.flat if recipe else None) or FlatWriting()
    update: dict[str, Any] = {}
    if asked.curves:
        try:
            update["curves"] = Curves(asked.curves.strip().lower())
        except ValueError:
            raise InputError(f"“{asked.curves}” is no way to write curves: {', '.join(c.value for c in Curves)}.") from None
    if asked.tolerance:
        update["tolerance"] = _length(asked.tolerance, "tolerance")
        if update["tolerance"] > 1:
            raise InputError("--tolerance is how far arcs or lines may be off a curve: write 1mm or less.")
    return found.model_copy(update=update)


def _side(asked: UnfoldOptions) -> Literal["a", "b"]:
    side = asked.side.strip().lower()
    if side not in ("a", "b"):
        raise InputError(f"“{asked.side}” is no side: write --side a or --side b.")
    return "b" if side == "b" else "a"


def _parts(bench: Workshop, source: str, asked: UnfoldOptions) -> list[tuple[Item, Component]]:
    tree = bench.facts(source).tree
    hidden = hidden_by_patterns(tree, asked.component, ())
    shown = [leaf for leaf in tree.leaves() if leaf.path not in hidden]
    by_path = {leaf.path: leaf for leaf in shown}
    return [
        (item, by_path[item.components[0]])
        for item in items(tree, {}, shown)
        if asked.component or not (item.bought or item.fastener)
    ]


def pattern_row(made: FlatPattern) -> dict[str, Any]:
    """What is told of a pattern, mm, mm², mm³, g and degrees."""
    one, other = made.box
    smallest = made.smallest_rectangle
    return {
        "part": made.name, "kind": made.kind.value, "reason": made.reason, "thickness": round(made.thickness, 6),
        "length": round(max(one, other), 6), "width": round(min(one, other), 6),
        "smallest_rectangle": [round(v, 6) for v in smallest],
        "area": round(made.area, 6), "volume": round(made.volume, 6),
        "mass": None if made.mass is None else round(made.mass, 6),
        "cut_length": round(made.cut_length, 6), "pierces": made.pierces,
        "bends": [
            {
                "number": own.number, "angle": round(own.angle, 6), "radius": round(own.radius, 6), "direction": own.direction,
                "length": round(own.length, 6), "allowance": round(own.allowance, 6),
                "deduction": None if own.deduction is None else round(own.deduction, 6), "k": round(own.k, 6),
                "distance": round(own.distance, 6), "datum": own.datum,
            }
            for own in made.bends
        ],
        "holes": [{"x": round(x, 6), "y": round(y, 6), "diameter": round(d, 6)} for x, y, d in made.holes],
        "features": [{"kind": own.kind.value, "side": "ab"[own.side]} for own in made.features],
        "rule": made.rule, "warnings": list(made.warnings), "notes": list(made.notes),
        "refolded_um": round(1000 * made.refolded, 6),
    }  # fmt: skip


def unfold_file(path: str, out: str, options: dict[str, Any], overwrite: bool, report: Progress) -> dict[str, Any]:
    """Unfold the parts of a model and write each; the report as plain data.

    :raises InputError: for a bad file or option, and when there is no sheet among the parts.
    """
    asked = UnfoldOptions.model_validate(options)
    file = Path(path)
    if is_drawing(file.name):
        raise InputError(f"{file.name} is a drawing: bends are read from the solids of a model, such as a STEP file.")
    rule, writing, side = _rule(asked), _writing(asked), _side(asked)
    choices = UnfoldChoices(rule=rule, side=side)
    target = Path(out)
    ending = target.suffix.lower()
    alone = ending in ENDINGS
    files = FilesOut(overwrite, [path])
    if alone:
        files.check(target)
    if not alone and target.is_file():
        raise InputError(f"{target.name} is a file that is no .dxf, .svg or .pdf: name such a file, or a folder.")
    with workshop(report) as bench:
        source = bench.read(file)
        parts = _parts(bench, source, asked)
        if not parts:
            raise InputError(f"{file.name} has no part to unfold.")
        model = kept_model(bench.blobs, source)
        rows, made = _unfolded(model, parts, choices, asked, report)
        sheets = [own for own in made if own is not None]
        if not sheets:
            raise InputError(_none(rows, file.name))
        if asked.component and len(sheets) < len(made) and len(made) == 1:
            raise InputError(_none(rows, file.name))
        if alone and len(sheets) > 1:
            names = ", ".join(own.name for own in sheets[:6])
            raise InputError(f"{file.name} has {len(sheets)} sheets ({names}): name a folder, or one with --component.")
        taken: set[str] = set()
        for row, own in zip(rows, made, strict=True):
            row["files"] = []
            row["findings"] = []
            if own is None:
                continue
            if alone and ending != ".dxf":
                leaf = parts[made.index(own)][1]
                content = FlatContent(component=leaf.path, choices=choices)
                _write_sheet(bench, source, file, content, row, str(target), files)
                continue
            _write(own, target if alone else target / _named(own.name, taken), writing, row, files)
    if not alone:
        target.mkdir(parents=True, exist_ok=True)
    return {"parts": rows, "holds": not any(row["findings"] for row in rows), "notices": files.write()}


def _unfolded(
    model: Model, parts: Sequence[tuple[Item, Component]], choices: UnfoldChoices, asked: UnfoldOptions, report: Progress
) -> tuple[list[dict[str, Any]], list[FlatPattern | None]]:
    rows: list[dict[str, Any]] = []
    made: list[FlatPattern | None] = []
    for number, (item, leaf) in enumerate(parts):
        report(number / len(parts), f"Unfolding {item.name}")
        assert leaf.shape is not None, "leaves have shapes"
        try:
            own = unfolded(model.shapes[leaf.shape], choices, item.name, asked.material or item.material, item.density)
        except NoSheet as error:
            kind, reason = error.kind.value, error.reason
        except InputError as error:
            # a rule that does not fit one part stops no other
            if len(parts) == 1:
                raise
            kind, reason = SheetKind.BENT.value, str(error)
        else:
            rows.append(pattern_row(own) | {"quantity": item.quantity})
            made.append(own)
            continue
        rows.append({"part": item.name, "kind": kind, "reason": reason, "quantity": item.quantity})
        made.append(None)
    return rows, made


def _none(rows: Sequence[dict[str, Any]], name: str) -> str:
    if len(rows) == 1:
        return f"{rows[0]['part']} has no flat pattern ({rows[0]['kind']}): {rows[0]['reason']}"
    return f"{name} has no sheet among its {len(rows)} parts. {rows[0]['part']}: {rows[0]['reason']}"


def _named(part: str, taken: set[str]) -> str:
    """A file for a part, told from those before."""
    stem = safe(part) or "part"
    name, number = stem, 1
    while name.casefold() in taken:
        number += 1
        name = f"{stem}-{number}"
    taken.add(name.casefold())
    return f"{name}.dxf"


def _write_sheet(
    bench: Workshop, source: str, file: Path, content: FlatContent, row: dict[str, Any], out: str, files: FilesOut
) -> None:
    """The pattern at 1:1 on a sheet of its own size, without frame or furniture, as PDF or SVG; measured."""
    x, y = max(row["length"], 1.0), max(row["width"], 1.0)
    width, height = math.ceil(x + 2 * MARGIN), math.ceil(y + 2 * MARGIN)
    view = ViewSpec(
        id="flat", source=source, name=row["part"], content=content, anchor=(x / 2, y / 2), place=(width / 2, height / 2),
        centres=False,
    )  # fmt: skip
    way = Orientation.LANDSCAPE if width > height else Orientation.PORTRAIT
    sheet = SheetSpec(
        id="flat", name=row["part"], format=f"{width}x{height}mm", orientation=way, frame=FrameStyle.NONE,
        furniture=frozenset(), clean=True, views=(view,),
    )  # fmt: skip
    ref = SourceRef(id=source, name=file.name, size=file.stat().st_size)
    job = JobAtHand(JobDocument(name=row["part"], sources=(ref,), sheets=(sheet,)), named=False)
    data, report = bench.write_as(out, job.whole([sheet], [recipe_named("shop")]))
    files.add(out, data)
    row["files"].append(out)
    row["findings"] += [finding.message for finding in report.findings if finding.level == "error"]


MARGIN = 10.0
"""What a sheet is larger by than the pattern on it, mm on each side."""


def _write(made: FlatPattern, name: Path, writing: FlatWriting, row: dict[str, Any], files: FilesOut) -> None:
    written = write_pattern(made, writing)
    row["files"].append(str(name))
    row["notes"] += written.notes
    row["findings"] += reread(written.data, made, writing)
    files.add(name, written.data)
    if writing.other_side is OtherSide.SAID:
        row["notes"].append(
            "Whether side B has a file is said by a property of the part, which a model has not: none is written."
        )
    if writing.wants_other_side(has_other_side(made), {}):
        other = name.with_name(f"{writing.other_name(name.stem)}{name.suffix}")
        turned = other_side(made)
        written = write_pattern(turned, writing)
        row["files"].append(str(other))
        row["findings"] += reread(written.data, turned, writing)
        files.add(other, written.data)
