"""The command line's use cases that look into a file: components, layers, checks, 3D."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.services.commands.memory import quiet
from skalto.settings import environment_settings


def tree_of(path: str, report: Progress) -> dict[str, Any]:
    """The component tree of a model file, as ``skalto tree --json`` prints it. :raises InputError: for a bad file."""
    from skalto.core.sources.reading import read_model

    with quiet():
        model = read_model(Path(path), Path(path).name, report, environment_settings().size_limit)
    return model.tree.report()


def layers_of(path: str, report: Progress) -> list[dict[str, Any]]:
    """The layers of a drawing, as ``skalto layers --json`` prints them. :raises InputError: for a bad file."""
    from skalto.core.sources.reading import read_drawing

    drawing = read_drawing(Path(path), Path(path).name, report, environment_settings().size_limit)
    return [
        {"name": row.name, "colour": row.colour, "width": row.width, "state": row.state, "count": row.count}
        for row in drawing.facts.layers
    ]


def check_file(path: str, recipe: str, password: str, report: Progress) -> dict[str, Any]:
    """Measure a finished PDF, and hold it against a recipe by its name or file, '' for none.

    :returns: the report as plain data and as JSON, and whether it holds. :raises InputError: for a bad file or recipe.
    """
    from skalto.core.checks.report import check_pdf
    from skalto.services.commands.output_options import recipe_named

    if Path(path).suffix.lower() in (".dxf", ".svg"):
        raise InputError("A DXF or SVG file says nothing of what it should be: name the job that it is of by --against.")
    found = check_pdf(Path(path).read_bytes(), recipe_named(recipe) if recipe else None, password=password)
    held = "Held against what it says of itself alone: name the job that it is of by --against for all that a proof looks at."
    return {"report": found.model_dump(mode="json"), "json": found.model_dump_json(), "holds": found.holds, "held": held}


def inspect_scene(path: str, report: Progress) -> list[dict[str, Any]]:
    """What the U3D file at *path*, or each 3D annotation of the PDF, holds: nodes, meshes, materials, views.

    :raises InputError: for a file that is damaged, or holds no 3D.
    """
    from skalto.core.checks.solids import fields_of_pdf
    from skalto.core.output.review import plain_view
    from skalto.core.output.u3d.reader import read_u3d
    from skalto.core.scene.inspecting import described_scene

    data = Path(path).read_bytes()
    if data[:5] != b"%PDF-":
        return [described_scene(read_u3d(data))]
    found = fields_of_pdf(data)
    if not found:
        raise InputError(f"{Path(path).name} has no 3D annotation.")
    rows = []
    for solid in found:
        views = [plain_view(view) for view in solid.views]
        placed = {"page": solid.page, "box": [round(v, 4) for v in solid.box], "poster": list(solid.poster)}
        opening = solid.opening | {"flags": solid.flags, "first": solid.first}
        rows.append(described_scene(read_u3d(solid.u3d)) | placed | {"opening": opening, "views": views})
    return rows
