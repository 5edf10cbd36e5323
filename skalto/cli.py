"""The command line. Exit status 0; 1 when a check fails; 2 for bad input, with one line on standard error."""

from __future__ import annotations

import errno
import io
import json
import os
import sys
from contextlib import suppress
from pathlib import Path
from typing import Annotated, Any, Literal, NoReturn

import typer

from skalto.core.errors import InputError, StoreFull
from skalto.core.formats import output_format
from skalto.core.paper import FrameStyle
from skalto.core.projection.methods import HiddenLines
from skalto.core.sources.formats import is_drawing

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Drawings at true scale, and proved.",
)

job_app = typer.Typer(no_args_is_help=True, rich_markup_mode=None, help="Whole jobs, from a job file.")
app.add_typer(job_app, name="job")


def _refuse(message: str) -> NoReturn:
    sys.stderr.write(" ".join(message.split()) + "\n")
    raise SystemExit(2)


def _existing(path: Path) -> Path:
    if path.is_dir():
        raise InputError(f"{path} is a folder: name a file.")
    if not path.exists():
        raise InputError(f"There is no file {path}: check the name.")
    return path


def _run(function: str, arguments: dict[str, Any], kind: Literal["reading", "writing", "scene"] = "writing") -> Any:
    """Run a use case in a process of its own, so that a file that breaks the kernel breaks nothing else; *kind* limits it."""
    from skalto.jobs.child import Child, WorkFailed

    child = Child()
    try:
        return child.run(function, arguments, lambda share, text: None, lambda: False, kind)
    except WorkFailed as error:
        name = Path(arguments["path"]).name
        if os.environ.get("SKALTO_TRACE"):
            sys.stderr.write(f"{error}\n")
        what = f"{name} cannot be worked with: the work broke off"
        raise InputError(f"{what}. Export the file again; with SKALTO_TRACE=1 the reason is printed.") from None
    finally:
        child.close()


def _print_tree(rows: list[dict[str, Any]], depth: int = 0) -> None:
    for row in rows:
        size = " x ".join(f"{v:.3f}".rstrip("0").rstrip(".") for v in row["size"])
        typer.echo(f"{'  ' * depth}{row['name']}  {size} mm  {row['color']}")
        _print_tree(row["children"], depth + 1)


@app.command()
def tree(file: Path, as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False) -> None:
    """Print the components of a model with their sizes."""
    if is_drawing(file.name):
        raise InputError(f"{file.name} is a drawing, which has no components: skalto layers prints its layers.")
    found = _run("skalto.services.commands.reading:tree_of", {"path": str(_existing(file))}, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
        return
    size = " x ".join(f"{v:.3f}".rstrip("0").rstrip(".") for v in found["size"])
    typer.echo(f"{file.name}: {size} mm, {found['solids']} solids")
    _print_tree(found["components"])


@app.command()
def layers(file: Path, as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False) -> None:
    """Print the layers of a drawing: name, colour, line width, state and how many entities lie on each."""
    found = _run("skalto.services.commands.reading:layers_of", {"path": str(_existing(file))}, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
        return
    for row in found:
        typer.echo(f"{row['name']}  {row['colour']}  {row['width']:g} mm  {row['state']}  {row['count']}")


Choices = dict[str, Any]
_RecipeOption = Annotated[str, typer.Option("--recipe", help="A recipe's .json file, or one that ships: shop, grey, cutter …")]
_PensOption = Annotated[str, typer.Option("--pens", help="A pen set's .json file, or one that ships: shop-1, hairline …")]
_ColorOption = Annotated[str, typer.Option("--color", help="color, gray or black.")]
_CrossingOption = Annotated[str, typer.Option("--crossing", help="Where lines cross: cover or blend.")]
_NoLayersOption = Annotated[bool, typer.Option("--no-layers", help="Write no layers.")]
_TextOption = Annotated[str, typer.Option("--text", help="text or outlines.")]
_DpiOption = Annotated[int | None, typer.Option("--dpi", help="Resolution of line work, and of pictures that are written.")]
_PictureDpiOption = Annotated[int | None, typer.Option("--picture-dpi", help="The most that pictures keep; not over --dpi.")]
_OverwriteOption = Annotated[bool, typer.Option("--overwrite", help="Replace a file that is there.")]
_ArchiveOption = Annotated[bool, typer.Option("--archive", help="Write PDF/A-2b.")]


@app.command()
def export(
    file: Path,
    out: Annotated[Path, typer.Option("--out", help="The file to write: .pdf, .dxf, .svg, .png, .jpg or .tiff.")],
    view: Annotated[
        list[str] | None, typer.Option("--view", help='front, top, …, iso, or "dir:x,y,z;up:x,y,z"; may be repeated.')
    ] = None,
    scale: Annotated[
        str, typer.Option("--scale", help="Paper : model, such as 1:2, or largest (of ISO 5455 that fits); 1:1 without.")
    ] = "",
    paper: Annotated[
        str, typer.Option("--paper", help="A3, Letter, 90x60mm, 11x17 …; without, A3, or ANSI-B for inches.")
    ] = "",
    orientation: Annotated[str, typer.Option("--orientation", help="portrait, landscape or auto.")] = "auto",
    show: Annotated[list[str] | None, typer.Option("--show", help="Only components whose path or part name matches.")] = None,
    hide: Annotated[
        list[str] | None, typer.Option("--hide", help="Without components whose path or part name matches.")
    ] = None,
    lines: Annotated[str, typer.Option("--lines", help="visible, with +hidden or +tangent.")] = "visible",
    hidden_lines: Annotated[
        HiddenLines,
        typer.Option("--hidden-lines", help="How they are found: on facets with exact ends, or by the kernel."),
    ] = HiddenLines.FACETS,
    frame: Annotated[FrameStyle, typer.Option("--frame", help="The sheet's frame and title block.")] = FrameStyle.NONE,
    arrangement: Annotated[
        str, typer.Option("--arrangement", help="first or third: views as a family about the first one.")
    ] = "",
    title: Annotated[list[str] | None, typer.Option("--title", help="KEY=VALUE of the title block; may be repeated.")] = None,
    dims: Annotated[str, typer.Option("--dims", help="overall or none.")] = "none",
    parts_list: Annotated[bool, typer.Option("--parts-list", help="A parts list, and balloons on the first view.")] = False,
    margin: Annotated[str, typer.Option("--margin", help="10mm, 0, or left,bottom,right,top.")] = "",
    region: Annotated[
        str,
        typer.Option("--region", help="Of a drawing: all, declared, page:NAME, or x0,y0,x1,y1 (mm; in, ft of such a drawing)."),
    ] = "",
    units: Annotated[
        str,
        typer.Option(
            "--units",
            help="The unit of a drawing whose file names none, or what a millimetre of a model's file is: mm, in, m …",
        ),
    ] = "",
    page: Annotated[int | None, typer.Option("--page", help="Which page of a PDF, from 1.")] = None,
    layers_on: Annotated[list[str] | None, typer.Option("--layers-on", help="Layers to show, by pattern.")] = None,
    layers_off: Annotated[list[str] | None, typer.Option("--layers-off", help="Layers not to show, by pattern.")] = None,
    shift: Annotated[
        str, typer.Option("--shift", help="dx,dy: move the drawing inside its area (mm; in, ft of such a drawing).")
    ] = "",
    force: Annotated[bool, typer.Option("--force", help="Write even if it does not fit the sheet.")] = False,
    onto: Annotated[
        str,
        typer.Option("--onto", help="A finished PDF, PAGE.pdf or PAGE.pdf#2, onto whose page it goes; in 3D without --view."),
    ] = "",
    at: Annotated[str, typer.Option("--at", help="x,y,w,h: the area on that page, mm from its lower left as it is seen.")] = "",
    recipe: _RecipeOption = "",
    pens: _PensOption = "",
    color: _ColorOption = "",
    crossing: _CrossingOption = "",
    no_layers: _NoLayersOption = False,
    text: _TextOption = "",
    dpi: _DpiOption = None,
    picture_dpi: _PictureDpiOption = None,
    archive: _ArchiveOption = False,
    overwrite: _OverwriteOption = False,
    solid: Annotated[str, typer.Option("--3d", help="The model itself in 3D: page (nothing else) or field.")] = "",
    quality: Annotated[str, typer.Option("--quality", help="Of the 3D model: draft, normal or fine.")] = "",
    classes: Annotated[
        str, typer.Option("--classes", help="Of the 3D model: made,bought,fasteners that go in, or class, material, colour.")
    ] = "",
) -> None:
    """Write views of a model, or part of a drawing, at true scale to PDF, DXF, SVG, PNG, JPEG or TIFF, and measure it."""
    if orientation not in ("portrait", "landscape", "auto"):
        raise InputError(f"“{orientation}” is not an orientation: write portrait, landscape or auto.")
    _check_out(out)
    options = {
        "views": view or [],
        "onto": onto,
        "at": at,
        "scale": scale,
        "paper": paper,
        "orientation": orientation,
        "show": show or [],
        "hide": hide or [],
        "lines": lines,
        "hidden_lines": hidden_lines.value,
        "frame": frame.value,
        "arrangement": arrangement,
        "title": title or [],
        "dims": dims,
        "parts_list": parts_list,
        "margin": margin,
        "force": force,
        "region": region,
        "units": units,
        "page": page,
        "layers_on": layers_on or [],
        "layers_off": layers_off or [],
        "shift": shift,
        "output": _output(recipe, pens, color, crossing, no_layers, text, dpi, picture_dpi, archive),
        "solid": {"where": solid, "quality": quality, "classes": classes},
    }
    report = _run(
        "skalto.services.commands.exporting:export_file",
        {"path": str(_existing(file)), "out": str(out), "options": options, "overwrite": overwrite},
    )
    typer.echo(f"{out}: {report['format']}, {report['scale']}")
    _print_report(report)
    for line in report.get("notices", []):
        typer.echo(line)
    if not report["holds"]:
        raise SystemExit(1)


def _output(
    recipe: str, pens: str, color: str, crossing: str, no_layers: bool, text: str, dpi: int | None, picture_dpi: int | None,
    archive: bool,
) -> Choices:  # fmt: skip
    return {
        "recipe": recipe, "pens": pens, "color": color, "crossing": crossing, "no_layers": no_layers, "text": text, "dpi": dpi,
        "picture_dpi": picture_dpi, "archive": archive,
    }  # fmt: skip


def _check_out(out: Path) -> None:
    output_format(out.name)
    if not out.parent.is_dir():
        raise InputError(f"There is no folder {out.parent}: make it, or name another.")


@job_app.command("export")
def job_export(
    file: Annotated[Path, typer.Argument(help="NAME.skalto.json, its sources beside it.")],
    out: Annotated[Path, typer.Option("--out", help="The file to write: .pdf, or .tiff with a page a sheet.")],
    recipe: _RecipeOption = "",
    pens: _PensOption = "",
    color: _ColorOption = "",
    crossing: _CrossingOption = "",
    no_layers: _NoLayersOption = False,
    text: _TextOption = "",
    dpi: _DpiOption = None,
    picture_dpi: _PictureDpiOption = None,
    archive: _ArchiveOption = False,
    overwrite: _OverwriteOption = False,
) -> None:
    """Write all sheets of a job file to one file, in order, and measure it."""
    _check_out(out)
    output = _output(recipe, pens, color, crossing, no_layers, text, dpi, picture_dpi, archive)
    arguments = {"path": str(_existing(file)), "out": str(out), "output": output, "overwrite": overwrite}
    report = _run("skalto.services.commands.exporting:export_job", arguments)
    typer.echo(f"{out}: {report['sheets']} sheets")
    _print_report(report)
    for line in report["notices"]:
        typer.echo(line)
    if not report["holds"]:
        raise SystemExit(1)


@app.command("pack")
def send_pack(
    file: Annotated[Path, typer.Argument(help="NAME.skalto.json, its sources beside it.")],
    pack: Annotated[str, typer.Option("--pack", help="The pack's name.")],
    out: Annotated[Path, typer.Option("--out", help="A .pdf for one file of all sheets, or a folder for the pack's files.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
    recipe: _RecipeOption = "",
    pens: _PensOption = "",
    color: _ColorOption = "",
    crossing: _CrossingOption = "",
    no_layers: _NoLayersOption = False,
    text: _TextOption = "",
    dpi: _DpiOption = None,
    picture_dpi: _PictureDpiOption = None,
    archive: _ArchiveOption = False,
    overwrite: _OverwriteOption = False,
) -> None:
    """Write the sheets of a pack, by its recipe, and measure them."""
    if out.suffix and out.suffix.lower() != ".pdf":
        raise InputError(f"{out.name} is neither a .pdf nor a folder: a pack is written as PDF.")
    if not out.absolute().parent.is_dir():
        raise InputError(f"There is no folder {out.absolute().parent}: make it, or name another.")
    output = _output(recipe, pens, color, crossing, no_layers, text, dpi, picture_dpi, archive)
    arguments = {"path": str(_existing(file)), "pack": pack, "out": str(out), "output": output, "overwrite": overwrite}
    report = _run("skalto.services.commands.exporting:send_pack", arguments)
    if as_json:
        typer.echo(json.dumps(report, ensure_ascii=False))
    else:
        for row in report["files"]:
            typer.echo(f"{row['file']}: {len(row['pages'])} pages, {'passes' if row['holds'] else 'fails'}")
            _print_report(row)
        _print_notices(report)
    if not report["holds"]:
        raise SystemExit(1)


def _print_notices(found: dict[str, Any]) -> None:
    for line in found["notices"]:
        typer.echo(f"info: {line}")


def _print_report(report: dict[str, Any]) -> None:
    for number, page in enumerate(report["pages"], 1):
        thinnest = page["min_line_width_mm"]
        widths = "no lines" if thinnest is None else f"thinnest line {thinnest:g} mm"
        typer.echo(f"page {number}: {page['width_mm']:g} x {page['height_mm']:g} mm, {widths}")
        for view in page["views"]:
            for reading in view["readings"] or [view | {"kind": "no known length", "holds": True}]:
                typer.echo(f"  {view['name']} {view['scale']}: {_reading(reading)}")
    for finding in report["findings"]:
        typer.echo(f"{finding['level']}: {finding['message']}")


def _reading(reading: dict[str, Any]) -> str:
    if reading["expected_mm"] is None:
        return str(reading["kind"])
    if reading["measured_mm"] is None:
        return f"{reading['kind']} {reading['expected_mm']:.4f} mm not found"
    return (
        f"{reading['kind']} {reading['measured_mm']:.4f} mm for {reading['expected_mm']:.4f} mm, "
        f"off {reading['deviation_um']:.2f} µm, {'passes' if reading['holds'] else 'fails'}"
    )


@app.command("u3d")
def solid_file(
    file: Path,
    out: Annotated[Path | None, typer.Option("--out", help="The file to write: .u3d, .glb or .html.")] = None,
    inspect: Annotated[
        bool, typer.Option("--inspect", help="Print what a .u3d or the 3D annotations of a .pdf contain.")
    ] = False,
    quality: Annotated[str, typer.Option("--quality", help="draft, normal or fine.")] = "",
    classes: Annotated[
        str, typer.Option("--classes", help="made,bought,fasteners that go in, or class, material, colour.")
    ] = "",
    overwrite: _OverwriteOption = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Write a model, or the 3D annotation of a PDF, as a 3D file; or print what such a file contains."""
    if inspect == (out is not None):
        raise InputError("Give either --out FILE, to write a 3D file, or --inspect, to print what is in one.")
    path = str(_existing(file))
    if out is not None:
        if not out.absolute().parent.is_dir():
            raise InputError(f"There is no folder {out.absolute().parent}: make it, or name another.")
        if is_drawing(file.name) and file.suffix.lower() != ".pdf":
            raise InputError(f"{file.name} is a drawing, which has no 3D model.")
        options = {"where": "field", "quality": quality, "classes": classes}
        arguments = {"path": path, "out": str(out), "options": options, "overwrite": overwrite}
        made = _run("skalto.services.commands.scenes:write_scene", arguments, "scene")
        typer.echo(json.dumps(made, ensure_ascii=False) if as_json else f"{out}: {made['bytes']} bytes")
        if not as_json:
            _print_notices(made)
        return
    found = _run("skalto.services.commands.reading:inspect_scene", {"path": path}, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
        return
    for field in found:
        _print_solid(field)


def _print_solid(field: dict[str, Any]) -> None:
    where = f"page {field['page']}: " if "page" in field else ""
    parts = sum(row["kind"] == "part" for row in field["nodes"])
    typer.echo(f"{where}{parts} parts, {field['distinct']} triangles kept, {field['triangles']} shown")

    def tell(above: str, depth: int) -> None:
        for row in (row for row in field["nodes"] if row["parent"] == above):
            colours = ", ".join(f"{m['colour']} {m['opacity']:.0%}" for m in row["materials"])
            faces = f"  {row['faces']} faces  {colours}" if row["kind"] == "part" else ""
            typer.echo(f"{'  ' * depth}{row['name']}{faces}")
            tell(row["name"], depth + 1)

    tell("", 0)
    for view in field.get("views", []):
        camera = view["camera"]
        kind = f"{camera['span']:.1f}°" if camera["perspective"] else f"{camera['span']:.1f} mm"
        typer.echo(f"view {view['name']}: {kind}, {view['mode']}, {view['lighting']}")


@app.command()
def check(
    file: Path,
    recipe: _RecipeOption = "",
    password: Annotated[str, typer.Option("--password", help="What opens the file.")] = "",
    against: Annotated[
        Path | None, typer.Option("--against", help="NAME.skalto.json, its sources beside it: the job that the file is of.")
    ] = None,
    sheet: Annotated[str, typer.Option("--sheet", help="With --against: which of its sheets; without, all of them.")] = "",
    dated: Annotated[
        str, typer.Option("--dated", help="With --against: the day in the title block; without, that of a PDF, or today.")
    ] = "",
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Measure a finished PDF, and check it against a recipe; with --against a PDF, DXF or SVG against all of its job."""
    asked = {"path": str(_existing(file)), "recipe": recipe, "password": password}
    if against is not None:
        asked |= {"job": str(_existing(against)), "sheet": sheet, "dated": dated}
        found = _run("skalto.services.commands.holding:hold_against", asked, "writing")
    elif sheet or dated:
        raise InputError("--sheet and --dated go with --against, the job that the file is of.")
    else:
        found = _run("skalto.services.commands.reading:check_file", asked, "reading")
    if as_json:
        typer.echo(found["json"])
    else:
        typer.echo(found["held"])
        _print_report(found["report"])
    if not found["holds"]:
        raise SystemExit(1)


@app.command()
def cut(
    files: Annotated[
        list[Path], typer.Argument(help="Models, whose flat parts are cut, or drawings, whose closed contours are.")
    ],
    out: Annotated[
        Path, typer.Option("--out", help="The file to write: .pdf with a page a plate; .dxf or .svg, a file a plate.")
    ],
    plate: Annotated[
        str, typer.Option("--plate", help="The plate, such as 600x400mm; drawn: a drawing's outermost contour.")
    ] = "",
    plates: Annotated[int | None, typer.Option("--plates", help="How many there are; without, as many as it takes.")] = None,
    edge: Annotated[str, typer.Option("--edge", help="The margin that stays free along the plate's edges.")] = "5mm",
    gap: Annotated[str, typer.Option("--gap", help="The gap between parts.")] = "2mm",
    kerf: Annotated[str, typer.Option("--kerf", help="What the beam takes: contours are offset by half of it.")] = "0mm",
    turn: Annotated[str, typer.Option("--turn", help="How parts may be turned: any, quarter, half or none.")] = "quarter",
    flip: Annotated[bool, typer.Option("--flip", help="Parts may be turned over.")] = False,
    quantity: Annotated[
        list[str] | None, typer.Option("--quantity", help="PATTERN=N: cut parts of that name N times; may be repeated.")
    ] = None,
    show: Annotated[list[str] | None, typer.Option("--show", help="Only components whose path or part name matches.")] = None,
    thickness: Annotated[str, typer.Option("--thickness", help="The plate's thickness: only parts of it are cut.")] = "",
    material: Annotated[str, typer.Option("--material", help="The plate's material, as the cutter's chart calls it.")] = "",
    close: Annotated[str, typer.Option("--close", help="Close gaps of a drawing's contours up to this.")] = "0mm",
    units: Annotated[str, typer.Option("--units", help="The unit of a drawing whose file names none: mm, in …")] = "",
    score: Annotated[list[str] | None, typer.Option("--score", help="Layers, or colours #rrggbb, that are scored.")] = None,
    engrave: Annotated[
        list[str] | None,
        typer.Option("--engrave", help="Layers, or colours #rrggbb, that are engraved; lettering always is."),
    ] = None,
    leave_out: Annotated[list[str] | None, typer.Option("--layers-off", help="Layers, or colours, to leave out.")] = None,
    seconds: Annotated[float, typer.Option("--seconds", help="How long to look for a better arrangement at most.")] = 20.0,
    seed: Annotated[int, typer.Option("--seed", help="Same seed, same result, unless the time ends it.")] = 1,
    recipe: _RecipeOption = "",
    overwrite: _OverwriteOption = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Lay the flat parts of models, or the closed contours of drawings, on plates, write them for a cutter, and prove it by
    cutting the file in the stand-in cutter."""
    _check_out(out)
    options = {
        "plate": plate, "plates": plates, "edge": edge, "gap": gap, "kerf": kerf, "turn": turn, "flip": flip,
        "quantity": quantity or [], "show": show or [], "thickness": thickness, "material": material, "close": close,
        "units": units, "score": score or [], "engrave": engrave or [], "leave_out": leave_out or [], "seconds": seconds,
        "seed": seed, "recipe": recipe,
    }  # fmt: skip
    paths = [str(_existing(file)) for file in files]
    arguments = {"path": paths[0], "more": paths[1:], "out": str(out), "options": options, "overwrite": overwrite}
    found = _run("skalto.services.commands.cutting:cut_files", arguments)
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
    else:
        _print_plates(found)
    if not found["holds"]:
        raise SystemExit(1)


def _print_plates(found: dict[str, Any]) -> None:
    for number, row in enumerate(found["plates"], 1):
        typer.echo(
            f"{row['file']}: plate {number}, {row['parts']} parts, yield {row['yield']:.1%} of at most {row['bound']:.1%}"
        )
        typer.echo(
            f"  cuts {row['cut_mm']:.1f} mm, {row['pierces']} pierces, {row['seconds']:.0f} s; "
            f"pieces within {row['largest_deviation_um']:.1f} µm, {'passes' if row['holds'] else 'fails'}"
        )
        for own in row["findings"]:
            typer.echo(f"  {own['level']}: {own['message']}")
    for row in found["left"]:
        typer.echo(f"error: {row['count']} of {row['part']} are left over: {row['why']}.")
    _print_notices(found)


@app.command()
def unfold(
    file: Annotated[Path, typer.Argument(help="A model with exact faces, such as a STEP file.")],
    out: Annotated[
        Path, typer.Option("--out", help="The file to write: .dxf, .svg or .pdf; or a folder, with a .dxf for each part.")
    ],
    component: Annotated[
        list[str] | None, typer.Option("--component", help="Only components whose path or part name matches.")
    ] = None,
    k: Annotated[float | None, typer.Option("--k", help="The K-factor; 0.44 where no rule is given.")] = None,
    rule: Annotated[str, typer.Option("--rule", help="din6935: by its correction factor.")] = "",
    table: Annotated[
        str,
        typer.Option("--table", help="A bend table as CSV: thickness, radius, angle, and k, allowance or deduction."),
    ] = "",
    deduction: Annotated[str, typer.Option("--deduction", help="The deduction of every bend, such as 3.2mm.")] = "",
    material: Annotated[str, typer.Option("--material", help="The material that a bend table is looked up by.")] = "",
    side: Annotated[str, typer.Option("--side", help="The side that is up: a, which most bends go to, or b.")] = "a",
    recipe: _RecipeOption = "",
    curves: Annotated[str, typer.Option("--curves", help="What becomes of curves: splines, arcs or lines.")] = "",
    tolerance: Annotated[str, typer.Option("--tolerance", help="How far arcs or lines may be off a curve.")] = "",
    overwrite: _OverwriteOption = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Unfold the sheet-metal parts of a model, and prove each flat pattern by folding it up again."""
    options = {
        "component": component or [], "k": k, "rule": rule, "table": table, "deduction": deduction, "material": material,
        "side": side, "recipe": recipe, "curves": curves, "tolerance": tolerance,
    }  # fmt: skip
    arguments = {"path": str(_existing(file)), "out": str(out), "options": options, "overwrite": overwrite}
    found = _run("skalto.services.commands.unfolding:unfold_file", arguments)
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
    else:
        _print_patterns(found)
        _print_notices(found)
    if not found["holds"]:
        raise SystemExit(1)


def _print_patterns(found: dict[str, Any]) -> None:
    for row in found["parts"]:
        if "length" not in row:
            typer.echo(f"{row['part']}: {row['kind']}. {row['reason']}")
            continue
        typer.echo(f"{row['part']}: {row['kind']}, {row['thickness']:g} mm, {row['length']:.3f} x {row['width']:.3f} mm")
        for own in row["bends"]:
            deduction = "none" if own["deduction"] is None else f"{own['deduction']:.3f}"
            typer.echo(
                f"  bend {own['number']}: {own['direction']} {own['angle']:g}°, R{own['radius']:g}, {own['length']:.3f} mm, "
                f"allowance {own['allowance']:.3f}, deduction {deduction}"
            )
        typer.echo(
            f"  cuts {row['cut_length']:.1f} mm, {row['pierces']} pierces; folds back within {row['refolded_um']:.3f} µm"
        )
        for name in row["files"]:
            typer.echo(f"  {name}")
        for kind, lines in (("error", row["findings"]), ("warning", row["warnings"]), ("info", row["notes"])):
            for line in lines:
                typer.echo(f"  {kind}: {line}")


@app.command()
def parts(
    file: Annotated[Path, typer.Argument(help="A model.")],
    table: Annotated[Path | None, typer.Option("--csv", help="Also write the list as CSV.")] = None,
    overwrite: _OverwriteOption = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """List the distinct parts and assemblies of a model: how many, what kind, material, thickness, mass."""
    arguments = {"path": str(_existing(file)), "out": str(table or ""), "overwrite": overwrite}
    found = _run("skalto.services.commands.registering:list_parts", arguments, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
    else:
        _print_parts(found["parts"])
        _print_notices(found)


@app.command()
def marks(
    file: Annotated[Path, typer.Argument(help="A job file, NAME.skalto.json.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Number the parts of a job as the application would, and tell what is new, changed and gone. The file stays as it is."""
    found = _run("skalto.services.commands.registering:list_marks", {"path": str(_existing(file))}, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
        return
    _print_parts(found["parts"])
    for name in ("new", "changed", "gone"):
        if found[name]:
            typer.echo(f"{name}: {', '.join(found[name])}")


@app.command()
def release(
    file: Annotated[Path, typer.Argument(help="A job file, NAME.skalto.json.")],
    out: Annotated[Path, typer.Option("--out", help="The folder that the files go into.")],
    rules: Annotated[
        str, typer.Option("--rules", help="Release rules: a .json file, or the name of those that ship.")
    ] = "shop",
    only: Annotated[
        list[str] | None, typer.Option("--only", help="Only parts and sheets whose mark, name or component matches.")
    ] = None,
    accept_missing: Annotated[
        bool, typer.Option("--accept-missing", help="Although parts that look like sheet have no flat pattern.")
    ] = False,
    changed_since: Annotated[
        Path | None, typer.Option("--changed-since", help="The folder of an earlier release: what has not changed is not made.")
    ] = None,
    overwrite: _OverwriteOption = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Make the files that release rules make of a job, several at once, with a manifest; each is checked before it is there."""
    from skalto.services.commands.releasing import release_job

    def told(text: str) -> None:
        if sys.stderr.isatty():
            sys.stderr.write(f"\r\033[K{text}")
            sys.stderr.flush()

    since = str(changed_since) if changed_since is not None else ""
    found = release_job(str(_existing(file)), str(out), rules, only or (), since, overwrite, accept_missing, told)
    told("")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
    else:
        for row in found["files"]:
            error = f": {row['error']}" if "error" in row else ""
            typer.echo(f"{row['state']:6} {row['file']}{error}")
        _print_notices(found)
        typer.echo(f"{found['made']} made, {found['kept']} kept, {found['failed']} failed")
    if not found["holds"]:
        raise SystemExit(1)


def _print_parts(rows: list[dict[str, Any]]) -> None:
    for row in rows:
        told = [row["kind"], row["material"], "" if row["thickness"] is None else f"{row['thickness']:g} mm"]
        told += ["" if row["mass"] is None else f"{row['mass']:.4g} g"]
        typer.echo(f"{row['mark']:8} {row['quantity']:4} x {row['name']}: {', '.join(text for text in told if text)}".strip())


@app.command()
def cutter(
    file: Path,
    bed: Annotated[str, typer.Option("--bed", help="The bed, such as 610x305mm.")] = "",
    corner: Annotated[str, typer.Option("--corner", help="The corner that the page goes to: top-left, …")] = "top-left",
    material: Annotated[str, typer.Option("--material", help="A material of the cutter's chart.")] = "",
    thickness: Annotated[str, typer.Option("--thickness", help="Its thickness.")] = "",
    kerf: Annotated[str, typer.Option("--kerf", help="What the beam takes, instead of the chart's.")] = "",
    page: Annotated[int, typer.Option("--page", help="Which page of a PDF, from 1.")] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Run a finished PDF, DXF or SVG in the stand-in cutter: the time that it takes, and the pieces that fall out."""
    options = {"bed": bed, "corner": corner, "material": material, "thickness": thickness, "kerf": kerf, "page": page}
    found = _run("skalto.services.commands.cutting:run_file", {"path": str(_existing(file)), "options": options}, "reading")
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
    else:
        _print_run(found)
    if not found["holds"]:
        raise SystemExit(1)


def _print_run(found: dict[str, Any]) -> None:
    size = "no size" if found["size"] is None else "{:g} x {:g} mm".format(*found["size"])
    typer.echo(f"{found['file']}: {size}, {found['material']} {found['thickness']:g} mm, kerf {found['kerf']:g} mm")
    spent = ", ".join(f"{name} {value:.1f}" for name, value in found["seconds"].items() if value)
    typer.echo(f"{found['cut_length']:.1f} mm cut, {found['pierces']} pierces; {found['total_seconds']:.1f} s ({spent})")
    for own in found["pieces"]:
        x0, y0, x1, y1 = own["box"]
        typer.echo(f"  piece {x1 - x0:.3f} x {y1 - y0:.3f} mm at ({x0:.3f}, {y0:.3f}), {own['area']:.2f} mm²")
    for line in found["refusals"]:
        typer.echo(f"error: {line}")
    for line in found["notices"]:
        typer.echo(f"info: {line}")


@app.command()
def serve(
    data: Annotated[Path | None, typer.Option("--data", help="The data folder.")] = None,
    port: Annotated[int | None, typer.Option("--port", help="The port.")] = None,
    host: Annotated[
        str | None, typer.Option("--host", help="The address to be reached at; other than 127.0.0.1 takes a token.")
    ] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Make the demo job if there is none.")] = False,
) -> None:
    """Start the web application and its workers; Ctrl-C ends both."""
    from skalto.api.serving import serve as run

    run(data, port, demo, host)


@app.command()
def tidy(
    data: Annotated[Path | None, typer.Option("--data", help="The data folder.")] = None,
    now: Annotated[bool, typer.Option("--now", help="Also what nobody has referred to for less than a day.")] = False,
) -> None:
    """Remove from a data folder what no job refers to any more. A server does so by itself: none may be running on it."""
    from skalto.services.running.tidied import tidy as run

    swept = run(data, now)
    typer.echo(f"{swept.removed} removed, {swept.size / 1e6:.1f} MB; {swept.waiting} wait until they are a day old")


@app.command()
def work(
    workers: Annotated[int | None, typer.Option("--workers", min=1, max=64, help="How many pieces of work at once.")] = None,
) -> None:
    """Work for a server elsewhere: SKALTO_REDIS names its queue, SKALTO_BLOBS its blob store. Ctrl-C ends it."""
    from skalto.services.running.working import work as run

    run(workers)


def _open_streams() -> None:
    """Standard streams that lead somewhere: the number of one that was closed would be the next file's, and what libraries
    print would go into it. What is no text of any language is printed as its bytes' numbers."""
    for number in range(3):
        try:
            os.fstat(number)
        except OSError:
            os.set_inheritable(os.open(os.devnull, os.O_RDWR), True)
    if sys.stdout is None:
        sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115
    if sys.stderr is None:
        sys.stderr = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")


INTERRUPTED, PIPE_CLOSED = 130, 141
"""128 and the number of SIGINT, of SIGPIPE: what shells take them for (common practice)."""


def _unprinted(error: OSError) -> NoReturn:
    """What was to be printed cannot be: nobody reads on, or there is no room."""
    # what is still in hand would fail once more at the end
    with suppress(OSError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    if error.errno == errno.EPIPE:
        raise SystemExit(PIPE_CLOSED) from None
    _refuse(f"What was found cannot be printed: {error.strerror or error}.")


def main() -> None:
    """The entry point: errors of input become one line and status 2."""
    _open_streams()
    printed_to = sys.stdout
    try:
        status = app(standalone_mode=False)
        sys.stdout.flush()
    except InputError as error:
        _refuse(str(error))
    except (typer.Abort, KeyboardInterrupt):
        _interrupted()
    except StoreFull as error:
        _refuse(str(error))
    except SystemExit:
        # where nobody reads on, typer puts another stream in place of this one and leaves with 1, as if a check had failed
        if sys.stdout is not printed_to:
            raise SystemExit(PIPE_CLOSED) from None
        raise
    except OSError as error:
        _unprinted(error)
    except Exception as error:
        # typer's own usage errors carry a status and a message
        code, message = getattr(error, "exit_code", None), getattr(error, "format_message", None)
        if code is None or message is None:
            raise
        _refuse(message())
    # typer hands back the status of an interruption and the like, without raising it
    if isinstance(status, int) and status:
        if status == INTERRUPTED:
            _interrupted()
        raise SystemExit(status)


def _interrupted() -> NoReturn:
    sys.stderr.write("Cancelled.\n")
    raise SystemExit(INTERRUPTED)


if __name__ == "__main__":
    main()
