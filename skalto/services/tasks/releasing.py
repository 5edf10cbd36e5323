"""Tasks of a release: a part or an assembly as a file of its own, checked before it is handed on."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import orjson

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.core.release.rules import FileKind
from skalto.core.scene.choices import SceneSpec
from skalto.core.sheet_metal.choices import FlatSpec, UnfoldChoices
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


class MakePartFile(TaskArgument):
    """A component of a model as a *file*: what its product is *called*; how it is unfolded and how that is written where it
    is a DXF, of side B mirrored; what the job says of parts and colours, and where the viewer of a web page is."""

    source: str
    component: str
    file: FileKind
    called: str
    material: str = ""
    density: float = 0.0
    choices: UnfoldChoices = UnfoldChoices()
    writing: FlatWriting = FlatWriting()
    side_b: bool = False
    said: SceneSpec = SceneSpec()
    viewer: str = ""

    @property
    def key(self) -> str:
        plain: dict[str, Any] = keys.plain(self)
        return f"parts/{keys.digest({name: value for name, value in plain.items() if name != 'viewer'})}"


@task(MakePartFile, "writing")
def make_part_file(asked: MakePartFile, blobs: str, report: Progress) -> None:
    """The file, and beside it what was measured of it. :raises InputError: when it cannot be made, or is not as it should
    be."""
    store = Blobs(blobs)
    report(0.1, f"Making {asked.called}")
    match asked.file:
        case FileKind.FLAT | FileKind.PROFILE:
            data, told = _dxf(store, asked)
        case FileKind.STEP:
            data, told = _step(store, asked)
        case _:
            data, told = _scene(store, asked)
    store.put(f"{asked.key}{asked.file.suffix}", data)
    store.put(f"{asked.key}.json", orjson.dumps(told))


def _dxf(store: Blobs, asked: MakePartFile) -> tuple[bytes, dict[str, Any]]:
    from skalto.core.sheet_metal.pattern_dxf import other_side, reread, write_pattern
    from skalto.services.results.flat import flat_pattern

    made = flat_pattern(store, asked.source, FlatSpec(component=asked.component, choices=asked.choices))
    if asked.side_b:
        made = other_side(made)
    written = write_pattern(made, asked.writing)
    wrong = reread(written.data, made, asked.writing)
    if wrong:
        raise InputError(f"{asked.called}: the DXF was read again and is not as it should be: {wrong[0]}")
    told = {
        "cut_length": made.cut_length, "pierces": made.pierces, "thickness": made.thickness,
        "notes": [*made.warnings, *written.notes],
    }  # fmt: skip
    return written.data, told


def _step(store: Blobs, asked: MakePartFile) -> tuple[bytes, dict[str, Any]]:
    from skalto.core.output.step_files import against_step, step_file
    from skalto.services.results.models import kept_model

    model = kept_model(store, asked.source)
    component = next((own for own in model.tree.walk() if own.path == asked.component), None)
    if component is None:
        raise InputError(f"The model has no component {asked.component} any more.")
    data = step_file(model, component, asked.called)
    volume = sum(model.tree.shapes[leaf.shape].volume for leaf in component.walk() if leaf.shape is not None)
    if wrong := against_step(data, volume, asked.called):
        raise InputError(f"{asked.called}: {wrong}")
    return data, {"volume": volume}


def _scene(store: Blobs, asked: MakePartFile) -> tuple[bytes, dict[str, Any]]:
    from skalto.core.scene.choices import SceneChoices
    from skalto.core.sources.models.model import covered
    from skalto.services.results.scenes import model_file
    from skalto.services.stored.context import load_tree

    wanted = frozenset((asked.component,))
    hidden = frozenset(leaf.path for leaf in load_tree(store, asked.source).leaves() if not covered(leaf.path, wanted))
    choices = SceneChoices(hidden=hidden)
    data = model_file(store, asked.source, asked.file.suffix, choices, asked.called[:60], Path(asked.viewer), asked.said)
    return data, {}
