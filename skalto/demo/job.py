"""The demo job: Ebba as source, and four finished sheets."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from skalto.core.artwork import EdgeClass
from skalto.core.job import JobDocument, SourceRef
from skalto.core.models.building import turned_box
from skalto.core.models.model import ModelTree
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.sheets.arranging import projected_box
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.viewpoint import STANDARD
from skalto.jobs.child import Child
from skalto.services import keys
from skalto.services.context import load_tree
from skalto.services.studio import Studio, short_id
from skalto.store import jobs as store
from skalto.store.blobs import content_hash

SOURCE_NAME = "Ebba.step"
_SEEN = (EdgeClass.VISIBLE, EdgeClass.OUTLINE)
_ALL = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.HIDDEN)


class _Sheets:
    """Makes views of the press that show chosen parts, placed by the middle of what they show."""

    def __init__(self, source: str, tree: ModelTree) -> None:
        self._source = source
        self._tree = tree

    def view(
        self, viewpoint: str, scale: str, place: tuple[float, float], only: str = "", classes: tuple[EdgeClass, ...] = _SEEN
    ) -> ViewSpec:
        """A view of all, or of the component whose path ends in *only*, whose middle comes to *place*."""
        look = STANDARD[viewpoint]
        leaves = self._tree.leaves()
        hidden = frozenset(leaf.path for leaf in leaves if only and not leaf.path.endswith(f"/{only}"))
        tree = self._tree if not only else self._part_tree(only)
        middle, _ = projected_box(tree, look.axes())
        return ViewSpec(
            id=short_id(), source=self._source, name=viewpoint, look=look.look, up=look.up, scale=scale,
            anchor=(float(middle[0]), float(middle[1])), place=place, hidden=hidden, classes=classes,
        )  # fmt: skip

    def _part_tree(self, only: str) -> ModelTree:
        """The tree as if the model were one part, for its box."""
        leaf = next(leaf for leaf in self._tree.leaves() if leaf.path.endswith(f"/{only}"))
        assert leaf.shape is not None
        facts = self._tree.shapes[leaf.shape]
        low, high = turned_box(np.array(facts.low), np.array(facts.high), leaf.matrix())
        return self._tree.model_copy(update={"low": tuple(low), "size": tuple(high - low)})

    def all(self) -> tuple[SheetSpec, ...]:
        cheek, tray = "Cheek, left", "Ink tray"
        return (
            SheetSpec(
                id=short_id(), name="Assembly", format="A2",
                views=(
                    self.view("front", "1:2", (152, 315)),
                    self.view("left", "1:2", (430, 315)),
                    self.view("top", "1:2", (152, 117)),
                    self.view("iso", "1:2", (436, 118)),
                ),
            ),
            SheetSpec(
                id=short_id(), name="Cheek, left", format="A3",
                views=(
                    self.view("left", "1:1", (160, 148.5), cheek, _ALL),
                    self.view("front", "1:1", (330, 148.5), cheek, _ALL),
                ),
            ),
            SheetSpec(
                id=short_id(), name="Ink tray", format="A3",
                views=(
                    self.view("front", "1:1", (150, 235), tray, _ALL),
                    self.view("left", "1:1", (340, 235), tray, _ALL),
                    self.view("top", "1:1", (150, 130), tray),
                    self.view("iso", "1:2", (340, 110), tray),
                ),
            ),
            SheetSpec(
                id=short_id(), name="Cutting", format="600x400mm", orientation=Orientation.LANDSCAPE, frame=FrameStyle.NONE,
                views=(
                    self.view("left", "1:1", (160, 200), cheek),
                    self.view("left", "1:1", (440, 200), "Cheek, right"),
                ),
            ),
        )  # fmt: skip


def ensure_demo(studio: Studio) -> None:
    """Make the demo job unless there is a job already: build the press, read it, lay out the sheets, write the first proof."""
    if store.list_jobs():
        return
    print("Making the demo job …", flush=True)
    child = Child()

    def run(function: str, **arguments: object) -> None:
        child.run(function, arguments, lambda share, text: None, lambda: False)

    try:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / SOURCE_NAME
            run("skalto.demo.press:write_press_for_job", path=str(path))
            data = path.read_bytes()
        source = content_hash(data)
        studio.blobs.put(keys.file_key(source), data)
        blobs = studio.settings.blob_url
        run("skalto.services.tasks:read_source", blobs=blobs, source=source, name=SOURCE_NAME, limit=studio.settings.size_limit)
        tree = load_tree(studio.blobs, source)
        sheets = _Sheets(source, tree).all()
        reference = SourceRef(id=source, name=SOURCE_NAME, size=len(data))
        job = store.create_job(JobDocument(name="Ebba press", sources=(reference,), sheets=sheets), "demo job")
        for sheet in sheets:
            for view in sheet.views:
                spec = view.projection().model_dump_json()
                run("skalto.services.tasks:project_view", blobs=blobs, source=source, spec=spec)
        run("skalto.services.tasks:write_sheet", **studio.begin_proof(job.id, sheets[0].id))
    finally:
        child.close()
