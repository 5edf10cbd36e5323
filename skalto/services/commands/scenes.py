"""The command line's use case that writes 3D files."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.choices import SceneSpec
from skalto.services.commands.memory import Workshop, workshop, write_file
from skalto.services.commands.scene_options import SceneOptions
from skalto.services.results.scenes import scene_file
from skalto.services.stored.annotations_3d import KINDS
from skalto.settings import environment_settings


def write_scene(path: str, out: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """A model, or the first 3D annotation of a PDF, as a file of its own: .u3d, .glb or .html; what went in as plain data.

    :raises InputError: for a bad file or option.
    """
    suffix = Path(out).suffix.lower()
    if suffix not in KINDS:
        raise InputError(
            f"{Path(out).name} does not end in {', '.join(KINDS)}, which are the kinds of 3D file that are written."
        )
    chosen = SceneOptions.model_validate(options)
    viewer = environment_settings().web / "viewer"
    with workshop(report) as bench:
        if path.lower().endswith(".pdf"):
            _, data = scene_file(Path(path).read_bytes(), suffix, viewer)
        else:
            data = _of_model(bench, Path(path), suffix, chosen, viewer)
    write_file(out, data)
    return {"out": out, "bytes": len(data)}


def _of_model(bench: Workshop, path: Path, suffix: str, chosen: SceneOptions, viewer: Path) -> bytes:
    import numpy as np

    from skalto.core.output.glb import write_glb
    from skalto.core.output.review import pack_review, plain_view
    from skalto.core.output.u3d.reader import read_u3d
    from skalto.core.output.webpage import viewer_files, write_page
    from skalto.core.scene.solid import make_solid
    from skalto.services.results.scenes import load_scene

    source, name = bench.read(path), path.stem[:60]
    choices = chosen.choices()
    scene, u3d = load_scene(bench.blobs, source, SceneSpec(choices=choices))
    if suffix == ".u3d":
        return u3d
    if suffix == ".glb":
        return write_glb(read_u3d(u3d))
    # the page draws for itself: nobody sees a poster
    poster = np.zeros((1, 1, 4), np.uint8)
    field = Annotation3d(id="3d", source=source, name=name, choices=choices)
    made = make_solid(field, bench.facts(source).tree, scene, u3d, poster)
    told = {"unit": "mm", "tolerance": made.facts.chord, "first": 0, "groups": list(made.facts.groups), "size": len(u3d)}
    pack = pack_review(read_u3d(u3d), name, [plain_view(view) for view in made.views], told)
    return write_page(name, pack, *viewer_files(viewer))
