"""What a PDF's page paints, by its own operators, against what was asked for: paths by colour, dashes, ends, cover, layer and
view; texts glyph by glyph, with the fonts that draw them; pictures by place and content."""

from __future__ import annotations

import io
import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pikepdf
from fontTools.ttLib import TTFont, TTLibError
from numpy.typing import NDArray
from PIL import Image

from skalto.core.checks.flat_texts import Words, words_checks
from skalto.core.checks.paint import Paint, Paints
from skalto.core.checks.pdf_content import Content, State
from skalto.core.checks.strokes import AskedPicture, AskedText
from skalto.core.checks.verdict import Check
from skalto.core.geometry import Array
from skalto.core.lettering import FACES, closer, glyph_runs
from skalto.core.output.pdf.ink import Ink
from skalto.core.recipes import Recipe

_ENDS, _JOINS = ("flat", "round", "square"), ("mitre", "round", "bevel")
CLOSER = 1.0
"""What a gap between two glyphs may be off, in thousandths of the size of type."""
PLACE = 2e-3
"""What a picture's corners may be off, mm."""
ALIKE = 24.0
"""How far two pictures of the same may differ in the middle of a tile, 0 to 255: JPEG and another number of dots."""
_TILES = 24
_PAIR = re.compile(rb"<([0-9A-Fa-f]{4})>\s*<([0-9A-Fa-f]*)>\s*")


def _colour(shares: Sequence[float]) -> tuple[int, int, int]:
    red, green, blue = (round(255 * own) for own in shares)
    return red, green, blue


def paint_of(state: State, how: str, unit: float) -> Paint:
    """The paint of a path; *unit* is mm a unit of the page, *how* the operator that paints it."""
    common = {
        "opacity": state.opacity, "multiplied": state.multiplied, "layer": state.layer, "view": state.view,
        "unseen": state.unseen,
    }  # fmt: skip
    if how != "S":
        return Paint(colour=_colour(state.fill), rule="evenodd" if how == "f*" else "nonzero", **common)  # type: ignore[arg-type]
    return Paint(
        colour=_colour(state.stroke), dashes=tuple(own * unit for own in state.dashes), phase=state.phase * unit,
        ends=_ENDS[state.ends], joins=_JOINS[state.joins], **common,  # type: ignore[arg-type]
    )  # fmt: skip


def paints(content: Content, unit: float) -> Paints:
    """The paints of all painted paths, in order."""
    numbers: dict[tuple[int, str], int] = {}
    kinds: list[Paint] = []
    of = np.zeros(len(content.paths), np.int64)
    for n, (state, how) in enumerate(content.paths):
        key = id(state), how
        if key not in numbers:
            numbers[key] = len(kinds)
            kinds.append(paint_of(state, how, unit))
        of[n] = numbers[key]
    return Paints(of, kinds)


def face_of(font: Any) -> int | None:
    """The shipped face that a font says it is."""
    name = str(font.get("/BaseFont", "")).rpartition("+")[2]
    return next((n for n, face in enumerate(FACES) if face.name.replace(" ", "") == name.lstrip("/")), None)


def _found(content: Content, fonts: Mapping[str, Any], unit: float) -> Iterator[Words]:
    for own in content.texts:
        number = face_of(fonts[own.font]) if own.font in fonts else None
        face = FACES[number or 0]
        a, b, c, d, x, y = own.matrix
        size = own.size / face.size * unit
        said = own.said or "".join(_characters(number or 0).get(glyph, "?") for glyph in own.glyphs)
        yield Words(
            said, face.name if number is not None else f"a font {own.font[1:]}", x * unit, y * unit, (a * size, b * size),
            (c * size, d * size), (own.glyphs, own.ghost), (*own.closer[:-1], 0.0) if own.closer else (),
            replace(paint_of(own.state, "f", unit), rule=""),
        )  # fmt: skip


@cache
def _characters(face: int) -> dict[int, str]:
    """The characters of a face by glyph."""
    with TTFont(FACES[face].path, lazy=True) as font:
        return {font.getGlyphID(name): chr(code) for code, name in sorted(font.getBestCmap().items(), reverse=True)}


def _wanted(texts: Sequence[AskedText]) -> Iterator[Words]:
    for asked in texts:
        item = asked.item
        for text, (x, y), (along, above) in zip(item.texts, item.start.tolist(), item.matrices().tolist(), strict=True):
            for run in glyph_runs(text, item.face):
                face = FACES[run.face]
                gaps = tuple(own * 1000 / face.units for own in closer(run))
                yield Words(
                    run.text, face.name, x, y, (along[0], along[1]), (above[0], above[1]), (run.glyphs, item.ghost),
                    (*gaps[:-1], 0.0) if gaps else (), asked.paint,
                )  # fmt: skip
                on = sum(run.advances) / face.capitals
                x, y = x + along[0] * on, y + along[1] * on


def text_checks(content: Content, fonts: Mapping[str, Any], texts: Sequence[AskedText], unit: float, page: int) -> list[Check]:
    """Each run of glyphs is one that was asked for, and each that was is there."""
    return words_checks(_found(content, fonts, unit), _wanted(texts), page)


Said = Mapping[tuple[int, int], set[str]]
"""What glyphs may be read as, by the number of their face and their own."""


def said_of(texts: Sequence[AskedText]) -> Said:
    """What the glyphs of texts stand for."""
    found: dict[tuple[int, int], set[str]] = defaultdict(set)
    for asked in texts:
        for text in asked.item.texts:
            for run in glyph_runs(text, asked.item.face):
                for glyph, characters in zip(run.glyphs, run.characters, strict=True):
                    found[run.face, glyph].add(characters)
    return found


def said_in(used: Mapping[int, tuple[Any, set[int]]]) -> Said:
    """What the glyphs of a file are read as, by its own maps."""
    found: dict[tuple[int, int], set[str]] = {}
    for face, (font, glyphs) in used.items():
        read, _ = _to_unicode(font.ToUnicode.read_bytes())
        found.update({(face, glyph): {read.get(glyph, "")} for glyph in glyphs})
    return found


def font_faults(used: Mapping[int, tuple[Any, set[int]]], says: Said) -> Counter[str]:
    """What of the fonts inside is not as their faces have it: outlines, widths, and what the glyphs are said to be.

    :param used: by the number of a face, its dictionary, and the glyphs that pages show. :param says: what they may be read as.
    """
    wrong: Counter[str] = Counter()
    for number, (font, glyphs) in used.items():
        face = FACES[number]
        descendant = font.DescendantFonts[0]
        with TTFont(io.BytesIO(descendant.FontDescriptor.FontFile2.read_bytes()), lazy=True) as own:
            if own["head"].unitsPerEm != face.units:
                wrong[f"{face.name} inside is of another size"] += 1
            inside = {glyph: _outline(own, glyph) for glyph in sorted(glyphs)}
        for glyph in sorted(glyphs):
            if inside[glyph] != _outline_of(number, glyph):
                wrong[f"{face.name} inside draws {_said(number, glyph)} otherwise"] += 1
        widths = _widths(descendant.W)
        for glyph in sorted(glyphs):
            width = _width_of(number, glyph) * 1000 / face.units
            if abs(widths.get(glyph, -1.0) - width) > 0.01:
                wrong[f"{face.name} inside has {_said(number, glyph)} of another width"] += 1
        read, strange = _to_unicode(font.ToUnicode.read_bytes())
        if strange:
            wrong[f"what {face.name} inside says is told in a way that is not ours"] += 1
        for glyph in sorted(glyphs):
            known = says.get((number, glyph))
            if known and read.get(glyph, "") not in known:
                wrong[f"{_said(number, glyph)} of {face.name} is read as “{read.get(glyph, '')}”"] += 1
    return wrong


def _said(face: int, glyph: int) -> str:
    return f"“{_characters(face).get(glyph, '?')}”"


def _outline(font: TTFont, glyph: int) -> Any:
    """The points of a glyph, those that lie on it, and where its contours end; None where there is none."""
    table = font["glyf"]
    try:
        points, ends, on = table[font.getGlyphName(glyph)].getCoordinates(table)
    except (KeyError, IndexError, AttributeError, TTLibError, AssertionError):
        return None
    return tuple(points), tuple(ends), bytes(own & 1 for own in on)


@cache
def _outline_of(face: int, glyph: int) -> Any:
    return _outline(_opened(face), glyph)


@cache
def _opened(face: int) -> TTFont:
    # read whole, so that no file stays open
    return TTFont(io.BytesIO(FACES[face].path.read_bytes()))


@cache
def _width_of(face: int, glyph: int) -> int:
    font = _opened(face)
    width: int = font["hmtx"][font.getGlyphName(glyph)][0]
    return width


def _widths(rows: Any) -> dict[int, float]:
    """Widths by glyph, of the form that has a row of one for each (9.7.4.3)."""
    values = list(rows)
    return {int(glyph): float(own[0]) for glyph, own in zip(values[::2], values[1::2], strict=True)}


def _to_unicode(data: bytes) -> tuple[dict[int, str], bool]:
    """What glyphs are read as (9.10.3), and whether there is more than single ones."""
    found: dict[int, str] = {}
    strange = any(word in data for word in (b"bfrange", b"usecmap", b"cidchar", b"cidrange", b"notdef"))
    for part in data.split(b"beginbfchar")[1:]:
        block = part.partition(b"endbfchar")[0]
        rest = _PAIR.sub(b"", block)
        strange = strange or bool(rest.strip())
        for glyph, text in _PAIR.findall(block):
            number = int(glyph, 16)
            strange = strange or number in found
            found[number] = bytes.fromhex(text.decode()).decode("utf-16-be", "replace")
    return found, strange


def picture_checks(
    content: Content, objects: Any, asked: Sequence[AskedPicture], recipe: Recipe, unit: float, page: int
) -> list[Check]:
    """Each picture lies where it was asked for, and shows what was; nothing where there are none."""
    drawn = [own for own in content.placed if own.name in objects and objects[own.name].get("/Subtype") == "/Image"]
    if len(drawn) != len(asked):
        reading = f"{len(drawn)} for the {len(asked)} that were asked for"
        return [_fails(reading, page)]
    for own, wanted in zip(drawn, asked, strict=True):
        item = wanted.item
        there = np.array((*item.across, *item.upward, *item.corner))
        box = tuple(float(v) for v in item.bounds()[0].ravel())
        off = float(np.abs(np.array(own.matrix) * unit - there).max())
        if off > PLACE:
            return [_fails(f"a picture is {off:.3f} mm off", page, box)]
        other = [
            what for what in paint_of(own.state, "f", unit).other_than(wanted.paint) if what in ("opacity", "layer", "view")
        ]
        if other:
            return [_fails(f"a picture has another {other[0]}", page, box)]
        if not shows(objects[own.name], item.pixels, Ink(recipe.colour)):
            return [_fails("a picture shows something else", page, box)]
    if not drawn:
        return []
    count = "1 picture" if len(drawn) == 1 else f"{len(drawn)} pictures"
    reading = f"{count}, each where it was asked for, with what it is to show"
    return [Check(code="painted-pictures", title="What pictures show", verdict="holds", reading=reading, page=page)]


def _fails(reading: str, page: int, place: Any = None) -> Check:
    return Check(code="painted-pictures", title="What pictures show", verdict="fails", reading=reading, page=page, place=place)


def _tiles(pixels: NDArray[Any]) -> Array:
    """The middle of each tile of a picture, (tiles, tiles, channels)."""
    picture = Image.fromarray(np.ascontiguousarray(pixels.astype(np.uint8)))
    return np.asarray(picture.resize((_TILES, _TILES), Image.Resampling.BOX), float)


def shows(entry: Any, pixels: NDArray[np.uint8], ink: Ink) -> bool:
    """Whether a picture's entry is that of given pixels, as a colour mode has them."""
    wanted = np.asarray(ink.pixels(pixels[..., :3]).convert("RGB"))
    found = np.asarray(pikepdf.PdfImage(entry).as_pil_image().convert("RGB"))
    if found.shape == wanted.shape and entry.Filter == "/FlateDecode":
        if not np.array_equal(found, wanted):
            return False
    elif np.abs(_tiles(found) - _tiles(wanted)).max() > ALIKE:
        return False
    cover = np.asarray(pikepdf.PdfImage(entry.SMask).as_pil_image().convert("L")) if "/SMask" in entry else None
    if cover is None:
        return bool(pixels[..., 3].min() == 255)
    return bool(np.abs(_tiles(cover) - _tiles(pixels[..., 3])).max() <= ALIKE)


def fonts_of(page: pikepdf.Page) -> dict[str, Any]:
    """The fonts of a page by the names that its content calls them."""
    fonts: Any = page.obj.get("/Resources", pikepdf.Dictionary()).get("/Font", {})
    return {name: fonts[name] for name in list(fonts)}


def objects_of(page: pikepdf.Page) -> Any:
    return page.obj.get("/Resources", pikepdf.Dictionary()).get("/XObject", {})
