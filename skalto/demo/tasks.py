"""Tasks that make the demo's files, as work for workers' processes."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Literal

from skalto.core.progress import Progress
from skalto.jobs.task import TaskArgument, task
from skalto.store.blobs import Blobs


class MakeFile(TaskArgument):
    """One of the demo's files, kept under a key of its own until it is a source."""

    which: Literal["press.step", "plan.dxf", "nameplate.dxf", "ornament.dxf", "rack.step"]

    @property
    def key(self) -> str:
        return f"demo/{self.which}"


@task(MakeFile, "looking")
def make_file(asked: MakeFile, blobs: str, report: Progress) -> None:
    """Build the press, fold the sheet metal, or draw the rooms, the nameplate, the ornament."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / asked.which
        if asked.which == "press.step":
            from skalto.demo.press import write_press

            report(0.1, "Building Ebba")
            write_press(path)
        elif asked.which == "nameplate.dxf":
            from skalto.demo.nameplate import write_nameplate

            write_nameplate(path)
        elif asked.which == "rack.step":
            from skalto.demo.rack import write_rack

            write_rack(path)
        elif asked.which == "ornament.dxf":
            from skalto.demo.nameplate import write_ornament

            write_ornament(path)
        else:
            from skalto.demo.workshop import write_workshop

            report(0.1, "Drawing the rooms")
            write_workshop(str(path))
        Blobs(blobs).put(asked.key, path.read_bytes())
