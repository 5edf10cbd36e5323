"""How ezdxf measures text: by the face or the strokes that will draw it."""

from __future__ import annotations

from typing import Any

from ezdxf.fonts.font_measurements import FontMeasurements
from ezdxf.fonts.fonts import AbstractFont, FontFace

from skalto.core.sources.drawings.faces import Choice, choose

_SMALL_LETTERS, _DESCENT = 0.66, 0.33
"""Heights of small letters and of what hangs below the line, in heights of a capital (common practice)."""


class ChosenFont(AbstractFont):  # type: ignore[misc]
    """A font as ezdxf measures text with it: by the face or the strokes that will draw it."""

    def __init__(self, choice: Choice, cap_height: float = 1.0, width_factor: float = 1.0) -> None:
        super().__init__(FontMeasurements(0.0, 1.0, _SMALL_LETTERS, _DESCENT).scale_from_baseline(cap_height))
        self.choice, self.cap_height, self.width_factor = choice, cap_height, width_factor

    def text_width(self, text: str) -> float:
        return float(self.choice.length(text) * self.cap_height * self.width_factor)

    def text_width_ex(self, text: str, cap_height: float, width_factor: float = 1.0) -> float:
        return float(self.choice.length(text) * cap_height * width_factor)

    def space_width(self) -> float:
        return self.text_width(" ")

    def text_path(self, text: str) -> Any:
        raise NotImplementedError

    def text_path_ex(self, text: str, cap_height: float, width_factor: float = 1.0) -> Any:
        raise NotImplementedError

    def text_glyph_paths(self, text: str, cap_height: float, width_factor: float = 1.0) -> Any:
        raise NotImplementedError


class TextMeasure:
    """ezdxf's text engine, for what it asks of one."""

    def get_font(self, face: FontFace) -> ChosenFont:
        return ChosenFont(choose(asked_for(face)))

    def get_font_measurements(self, face: FontFace, cap_height: float = 1.0) -> FontMeasurements:
        return FontMeasurements(0.0, 1.0, _SMALL_LETTERS, _DESCENT).scale(cap_height)

    def get_text_line_width(self, text: str, face: FontFace, cap_height: float = 1.0) -> float:
        return float(choose(asked_for(face)).length(text) * cap_height)


def asked_for(face: FontFace | None) -> str:
    """The font's name as the file has it: a file name, else the family."""
    return "" if face is None else str(face.filename or face.family)
