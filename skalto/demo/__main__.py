"""The demo's files, to try the command line on: ``python -m skalto.demo FOLDER`` writes ``Ebba.step``,
``Drying rack.step`` and ``workshop.dxf``."""

from __future__ import annotations

import sys
from pathlib import Path

from skalto.demo.press import write_press
from skalto.demo.rack import NAME as RACK
from skalto.demo.rack import write_rack
from skalto.demo.workshop import write_workshop


def main(folder: Path) -> None:
    """Write the files into a folder, which is made."""
    folder.mkdir(parents=True, exist_ok=True)
    write_press(folder / "Ebba.step")
    write_rack(folder / RACK)
    write_workshop(str(folder / "workshop.dxf"))


if __name__ == "__main__":
    if len(sys.argv) != 2:
        sys.exit("Name one folder: python -m skalto.demo FOLDER")
    main(Path(sys.argv[1]))
