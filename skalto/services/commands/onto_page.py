"""The command line's way onto a page that is finished: what is asked for as a small sheet, then that sheet onto the page."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from skalto.core.checks.beside import with_checks
from skalto.core.checks.onto import onto_checks
from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.output.pdf.onto import put_onto, signatures_of
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.commands.options import ExportOptions

_LEAST = 10.0
"""The smallest side of an area, mm: that of a 3D annotation."""


@dataclass(frozen=True)
class Onto:
    """Onto which page of which file, from 1, and where: the lower left and the size of the area, mm from the lower left of the
    page as it is seen."""

    path: Path
    number: int
    place: tuple[float, float]
    size: tuple[float, float]

    @classmethod
    def read(cls, onto: str, at: str) -> Onto:
        """``PAGE.pdf`` or ``PAGE.pdf#2``, and ``x,y,w,h``. :raises InputError: when they are neither."""
        name, _, page = onto.rpartition("#")
        if not page.isdigit():
            name, page = onto, "1"
        path = Path(name)
        if not path.is_file():
            raise InputError(f"There is no file {path}.")
        try:
            x, y, wide, high = (float(own.strip().removesuffix("mm")) for own in at.split(","))
        except ValueError:
            raise InputError(f"“{at}” is no area: write --at x,y,w,h in mm, such as 20,30,120,80.") from None
        if not (_LEAST <= wide < 20_000 and _LEAST <= high < 20_000):
            raise InputError(f"An area is {_LEAST:g} mm or more each way: “{at}” is smaller, or larger than any page.")
        return cls(path, int(page), (x, y), (wide, high))

    def sheet(self, chosen: ExportOptions, drawing: bool) -> ExportOptions:
        """What is asked for, on a sheet as large as the area, with nothing about it; a model without views in 3D."""
        wide, high = self.size
        sized = chosen.model_copy(update={"paper": f"{wide:.6g}x{high:.6g}mm", "margin": chosen.margin or "0"})
        if drawing or chosen.solid.where or chosen.views:
            return sized
        return sized.model_copy(update={"solid": chosen.solid.model_copy(update={"where": "page"})})

    def put(self, made: bytes, sheet: SheetSpec, checked: Report, anyway: bool) -> tuple[bytes, Report]:
        """The page's file with a sheet on it, and what was measured in the sheet and in the whole.

        :raises InputError: for a page that nothing can be put onto, and one that is signed unless *anyway*.
        """
        data = self.path.read_bytes()
        signed = signatures_of(data)
        if signed and not anyway:
            count = "a signature" if signed == 1 else f"{signed} signatures"
            raise InputError(
                f"{self.path.name} has {count}: what is added comes after it, and readers will say so. Give --force to add it."
            )
        draws = bool(sheet.views or sheet.notes)
        written = put_onto(data, self.number, made, self.place, draws)
        return written, with_checks(checked, onto_checks(data, written, self.number))
