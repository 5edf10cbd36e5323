"""The command line's use case that writes 3D files."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.services.commands.files_out import FilesOut
from skalto.services.commands.memory import workshop
from skalto.services.commands.scene_options import SceneOptions
from skalto.services.results.scenes import model_file, scene_file
from skalto.services.stored.annotations_3d import KINDS
from skalto.settings import environment_settings


def write_scene(path: str, out: str, options: dict[str, Any], overwrite: bool, report: Progress) -> dict[str, Any]:
    """A model, or the first 3D annotation of a PDF, as a file of its own: .u3d, .glb or .html; what went in as plain data.

    :param overwrite: whether a file that is there may be replaced.
    :raises InputError: for a bad file or option.
    """
    suffix = Path(out).suffix.lower()
    if suffix not in KINDS:
        raise InputError(
            f"{Path(out).name} does not end in {', '.join(KINDS)}, which are the kinds of 3D file that are written."
        )
    files = FilesOut(overwrite, [path])
    files.check(out)
    chosen = SceneOptions.model_validate(options)
    viewer = environment_settings().web / "viewer"
    with workshop(report) as bench:
        if path.lower().endswith(".pdf"):
            _, data = scene_file(Path(path).read_bytes(), suffix, viewer)
        else:
            source = bench.read(Path(path))
            data = model_file(bench.blobs, source, suffix, chosen.choices(), Path(path).stem[:60], viewer)
    files.add(out, data)
    return {"out": out, "bytes": len(data), "notices": files.write()}
