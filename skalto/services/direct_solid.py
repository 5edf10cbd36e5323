"""The command line's use cases of 3D: pages, files of their own, and what is inside a file."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from skalto.core.checks.solids import fields_of_pdf
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.output.glb import write_glb
from skalto.core.output.review import pack_review, plain_view
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.webpage import viewer_files, write_page
from skalto.core.paper import Orientation
from skalto.core.progress import Progress
from skalto.core.scene.choices import SceneSpec
from skalto.core.scene.field import FieldSpec
from skalto.core.scene.inspecting import described_scene
from skalto.core.sheets.fielding import bare_sheet, field_for
from skalto.core.sheets.referring import SourceFacts
from skalto.core.sources.models.model import hidden_by_patterns
from skalto.services.context import ContextSpec
from skalto.services.direct import ONLY_PDF, quiet, read_file, write_file
from skalto.services.fields import KINDS
from skalto.services.options import ExportOptions, title_of
from skalto.services.proofing import described
from skalto.services.results.scenes import scene_file, solid_from
from skalto.services.solid_options import SolidOptions
from skalto.services.writing import write_for
from skalto.settings import environment_settings


def export_page(path: str, out: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """A page that is nothing but a model, in 3D, as PDF, measured. :raises InputError: for a bad file or option."""
    chosen = ExportOptions.model_validate(options)
    chosen.refuse_for_models()
    chosen.solid.asked()
    if Path(out).suffix.lower() != ".pdf":
        raise InputError(ONLY_PDF)
    recipe = chosen.output.made()
    with quiet():
        model = read_file(Path(path), report)
        hidden = hidden_by_patterns(model.tree, chosen.show, chosen.hide)
        name = title_of(chosen.title).get("title") or Path(path).stem
        sheet = bare_sheet("0", name, chosen.paper or "A3")
        if chosen.orientation != "auto":
            sheet = sheet.model_copy(update={"orientation": Orientation(chosen.orientation)})
        field = field_for(sheet, "3d", "0", name[:60], whole=True)
        field = field.model_copy(update={"choices": chosen.solid.choices(hidden)})
        sheet = sheet.model_copy(update={"fields": (field,)})
        context = ContextSpec(today=date.today()).with_facts({"0": SourceFacts(model.tree, [])})
        solids = {field.id: solid_from(model, path, field, SceneSpec(choices=field.choices))}
        metadata = described(recipe, JobDocument(name=name), "", sheet, name)
        data, checked = write_for(out, [(sheet, context)], {}, metadata, report, recipe, solids)
    write_file(out, data)
    return checked.model_dump(mode="json") | {"holds": checked.holds, "scale": "3D", "format": sheet.paper().name}


def write_solid(path: str, out: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """A model, or the first 3D field of a PDF, as a file of its own: .u3d, .glb or .html; what went in as plain data.

    :raises InputError: for a bad file or option.
    """
    suffix = Path(out).suffix.lower()
    if suffix not in KINDS:
        raise InputError(
            f"{Path(out).name} does not end in {', '.join(KINDS)}, which are the kinds of 3D file that are written."
        )
    chosen = SolidOptions.model_validate(options)
    viewer = environment_settings().web / "viewer"
    with quiet():
        if path.lower().endswith(".pdf"):
            _, data = scene_file(Path(path).read_bytes(), suffix, viewer)
        else:
            data = _of_model(path, suffix, chosen, viewer, report)
    write_file(out, data)
    return {"out": out, "bytes": len(data)}


def _of_model(path: str, suffix: str, chosen: SolidOptions, viewer: Path, report: Progress) -> bytes:
    model = read_file(Path(path), report)
    name = Path(path).stem[:60]
    choices = chosen.choices()
    field = FieldSpec(id="3d", source="0", name=name, choices=choices)
    made = solid_from(model, path, field, SceneSpec(choices=choices), poster=False)
    if suffix == ".u3d":
        return made.u3d
    scene = read_u3d(made.u3d)
    if suffix == ".glb":
        return write_glb(scene)
    told = {"unit": "mm", "tolerance": made.facts.chord, "first": 0, "groups": list(made.facts.groups), "size": len(made.u3d)}
    pack = pack_review(scene, name, [plain_view(view) for view in made.views], told)
    return write_page(name, pack, *viewer_files(viewer))


def inspect_solid(path: str, report: Progress) -> list[dict[str, Any]]:
    """What the U3D file at *path*, or each 3D field of the PDF, holds: nodes, meshes, materials, views.

    :raises InputError: for a file that is damaged, or holds no 3D.
    """
    data = Path(path).read_bytes()
    if data[:5] != b"%PDF-":
        return [described_scene(read_u3d(data))]
    found = fields_of_pdf(data)
    if not found:
        raise InputError(f"{Path(path).name} has no 3D field.")
    rows = []
    for solid in found:
        views = [plain_view(view) for view in solid.views]
        placed = {"page": solid.page, "box": [round(v, 4) for v in solid.box], "poster": list(solid.poster)}
        opening = solid.opening | {"flags": solid.flags, "first": solid.first}
        rows.append(described_scene(read_u3d(solid.u3d)) | placed | {"opening": opening, "views": views})
    return rows
