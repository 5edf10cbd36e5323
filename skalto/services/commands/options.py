"""What the command line was asked for, as typed, and what of it means."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from skalto.core.annotation.title_block import COMPUTED, LABELS
from skalto.core.errors import InputError
from skalto.core.paper import FrameStyle
from skalto.core.projection.methods import HiddenLines
from skalto.core.quantities import parse_length
from skalto.services.commands.output_options import OutputOptions
from skalto.services.commands.scene_options import SceneOptions


class ExportOptions(BaseModel):
    """What ``skalto export`` was asked for, as typed."""

    model_config = ConfigDict(frozen=True)

    views: tuple[str, ...] = ("front",)
    scale: str = ""
    paper: str = ""
    """Empty for the format that the file's unit suggests."""
    orientation: str = "auto"
    show: tuple[str, ...] = ()
    hide: tuple[str, ...] = ()
    lines: str = "visible"
    hidden_lines: HiddenLines = HiddenLines.FACETS
    frame: FrameStyle = FrameStyle.NONE
    arrangement: str = ""
    title: tuple[str, ...] = ()
    dims: str = "none"
    parts_list: bool = False
    margin: str = ""
    force: bool = False
    region: str = ""
    units: str = ""
    page: int | None = None
    layers_on: tuple[str, ...] = ()
    layers_off: tuple[str, ...] = ()
    shift: str = ""
    onto: str = ""
    at: str = ""
    output: OutputOptions = OutputOptions()
    solid: SceneOptions = SceneOptions()

    def refuse_for_models(self) -> None:
        """:raises InputError: when something was asked that only drawings have."""
        asked: dict[str, object] = {"--region": self.region, "--page": self.page, "--shift": self.shift}
        asked |= {"--layers-on": self.layers_on, "--layers-off": self.layers_off}
        for option, value in asked.items():
            if value:
                raise InputError(f"{option} is for drawings: of a model choose views and components.")

    def refuse_for_drawings(self) -> None:
        """:raises InputError: when something was asked that only models have."""
        asked: dict[str, object] = {
            "--show": self.show,
            "--hide": self.hide,
            "--arrangement": self.arrangement,
            "--parts-list": self.parts_list,
            "--3d": self.solid.where,
        }
        asked |= {"--view": self.views != ("front",), "--lines": self.lines != "visible", "--dims": self.dims != "none"}
        asked |= {"--hidden-lines": self.hidden_lines is not HiddenLines.FACETS}
        for option, value in asked.items():
            if value:
                raise InputError(f"{option} is for models: of a drawing choose a region and layers.")


def title_of(texts: Sequence[str]) -> dict[str, str]:
    fields = {}
    for text in texts:
        key, sign, value = text.partition("=")
        key = key.strip().lower()
        if not sign or key not in LABELS or key in COMPUTED:
            known = ", ".join(k for k in LABELS if k not in COMPUTED)
            raise InputError(f"“{text}” is not a title field: write KEY=VALUE with one of {known}.")
        fields[key] = value.strip()
    return fields


def margins_of(text: str) -> tuple[float, float, float, float] | None:
    """One length for all sides, or four: left, bottom, right, top."""
    if not text:
        return None
    sides = [float(parse_length(part)) for part in text.split(",")]
    if len(sides) not in (1, 4) or min(sides) < 0 or max(sides) > 500:
        raise InputError(f"“{text}” is not a margin: write one length, or left,bottom,right,top, of 0 to 500 mm each.")
    left, bottom, right, top = sides * 4 if len(sides) == 1 else sides
    return left, bottom, right, top
