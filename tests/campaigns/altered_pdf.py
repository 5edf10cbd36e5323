"""Ways to alter a finished PDF, by pikepdf, one line each: what does harm, and what changes nothing that anybody sees.

Each takes the opened file, its first page's operators as pikepdf reads them, and what chances are drawn from; it alters
either, and says False where the file has nothing to be altered so.
"""

from __future__ import annotations

import io
import random
import zlib
from collections.abc import Callable
from typing import Any

import pikepdf
from fontTools.ttLib import TTFont
from pikepdf import Array, Dictionary, Name, Operator, Pdf, Stream, String

Said = list[tuple[list[Any], str]]
"""Operators with their operands."""
Way = Callable[[Pdf, Said, random.Random], Any]
_PAINTS = {"S", "f", "f*"}
_FILLS = frozenset({"f", "f*"})
_OF_STROKES = {"RG", "G", "w", "d", "J", "j"}
_PT = 72 / 25.4


def _said(page: pikepdf.Page) -> Said:
    return [(list(one.operands), str(one.operator)) for one in pikepdf.parse_content_stream(page)]


def altered(data: bytes, way: Way, chance: random.Random) -> bytes | None:
    """A file altered in one way; None where it cannot be."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        page = pdf.pages[0]
        said = _said(page)
        before = repr(said)
        if way(pdf, said, chance) is False:
            return None
        if repr(said) != before:
            rows = [(operands, Operator(word)) for operands, word in said]
            page.obj.Contents = pdf.make_stream(pikepdf.unparse_content_stream(rows))
        out = io.BytesIO()
        pdf.save(out, static_id=True)
        return out.getvalue()


def _paths(said: Said, paints: frozenset[str]) -> list[tuple[int, int]]:
    """From where to where painted paths go that show something: longer than a hundredth of a millimetre."""
    found, begin = [], None
    for n, (_, word) in enumerate(said):
        if word in ("m", "re") and begin is None:
            begin = n
        elif word in _PAINTS | {"n"}:
            if begin is not None and word in paints and _long(said[begin:n]):
                found.append((begin, n + 1))
            begin = None
    return found


def _long(rows: Said) -> bool:
    points = [float(v) for operands, _ in rows for v in operands]
    x, y = points[::2], points[1::2]
    return bool(points) and max(max(x) - min(x), max(y) - min(y)) > 0.01 * _PT


def _on_a_path(change: Callable[[Said, int, int, random.Random], None], paints: frozenset[str] = frozenset({"S"})) -> Way:
    def way(pdf: Pdf, said: Said, chance: random.Random) -> bool:
        paths = _paths(said, paints)
        if not paths:
            return False
        change(said, *chance.choice(paths), chance)
        return True

    return way


def _moved(said: Said, begin: int, end: int, chance: random.Random) -> None:
    by = chance.choice((0.02, 0.1, 1.0, 10.0)) * _PT * chance.choice((-1, 1))
    for n in range(begin, end):
        operands, word = said[n]
        said[n] = ([float(v) + by for v in operands], word)


def _dropped(said: Said, begin: int, end: int, chance: random.Random) -> None:
    del said[begin:end]


def _doubled(said: Said, begin: int, end: int, chance: random.Random) -> None:
    said[end:end] = said[begin:end]


def _one_point(said: Said, begin: int, end: int, chance: random.Random) -> None:
    rows = [n for n in range(begin, end) if said[n][0]]
    operands, word = said[n := chance.choice(rows)]
    operands = [float(v) for v in operands]
    operands[-2 + chance.randrange(2)] += chance.choice((0.05, -0.3, 2.0)) * _PT
    said[n] = (operands, word)


def _put(text: bytes, where: str = "any") -> Way:
    """Operators put in: in front, behind, or anywhere between paths."""

    def way(pdf: Pdf, said: Said, chance: random.Random) -> None:
        rows = [(list(one.operands), str(one.operator)) for one in pikepdf.parse_content_stream(pdf.make_stream(text))]
        between = [0, len(said)] + [
            n + 1 for n, (_, word) in enumerate(said) if word in ("S", "ET") and not _within(said, n + 1)
        ]
        at = {"front": 0, "behind": len(said), "any": chance.choice(between)}[where]
        said[at:at] = rows

    return way


def _within(said: Said, at: int) -> bool:
    """Whether a place is in a text or between ``q`` and ``Q``."""
    depth = 0
    for _, word in said[:at]:
        depth += {"q": 1, "BT": 1, "Q": -1, "ET": -1}.get(word, 0)
    return depth > 0


def _operand(word: str, change: Callable[[list[Any], random.Random], list[Any]]) -> Way:
    """The operands of one of the operators of a kind."""

    def way(pdf: Pdf, said: Said, chance: random.Random) -> bool:
        rows = [n for n, (_, own) in enumerate(said) if own == word]
        chance.shuffle(rows)
        for n in rows:
            after = change(list(said[n][0]), chance)
            if repr(after) != repr(said[n][0]) and (word == "BDC" or _seen_after(said, n, word)):
                said[n] = (after, word)
                return True
        return False

    return way


def _seen_after(said: Said, at: int, word: str) -> bool:
    """Whether something is painted by what is set at a place before it is set anew."""
    filled = {"f", "f*", "Tj", "TJ"}
    paints = {"rg": filled, "g": filled, "cm": {"Do", "S"}, "Tf": {"Tj", "TJ"}}.get(
        word, {"S"} if word in _OF_STROKES else filled | {"S"}
    )
    for _, own in said[at + 1 :]:
        if own in paints:
            return True
        if own == word:
            return False
    return False


def _without(word: str) -> Way:
    def way(pdf: Pdf, said: Said, chance: random.Random) -> bool:
        rows = [n for n, (_, own) in enumerate(said) if own == word]
        if not rows:
            return False
        del said[chance.choice(rows)]
        return True

    return way


def _text(change: Callable[[Said, int, int, random.Random], bool | None]) -> Way:
    def way(pdf: Pdf, said: Said, chance: random.Random) -> bool:
        shown = [n for n, (_, word) in enumerate(said) if word in ("Tj", "TJ")]
        if not shown:
            return False
        end = chance.choice(shown)
        begin = max(n for n in range(end) if said[n][1] == "Tf")
        return change(said, begin, end, chance) is not False

    return way


def _another_glyph(said: Said, begin: int, end: int, chance: random.Random) -> bool:
    """A letter for another of the same text, or two exchanged."""
    operands, word = said[end]
    if word != "Tj":
        return False
    text = bytes(operands[0])
    pairs = [text[n : n + 2] for n in range(0, len(text), 2)]
    if len(set(pairs)) < 2:
        return False
    one, other = chance.sample(range(len(pairs)), 2)
    pairs[one] = pairs[other] if pairs[one] != pairs[other] else next(own for own in pairs if own != pairs[one])
    said[end] = ([String(b"".join(pairs))], word)
    return True


def _matrix(change: Callable[[list[float], random.Random], list[float]]) -> Callable[[Said, int, int, random.Random], None]:
    def way(said: Said, begin: int, end: int, chance: random.Random) -> None:
        n = max(n for n in range(end) if said[n][1] == "Tm")
        said[n] = (change([float(v) for v in said[n][0]], chance), "Tm")

    return way


def _of(path: str, change: Callable[[Any, Pdf, random.Random], Any]) -> Way:
    """What lies at a path from the page, ``[]`` one of a row or of a dictionary."""

    def way(pdf: Pdf, said: Said, chance: random.Random) -> bool:
        own: Any = pdf.pages[0].obj
        for key in path.split("/"):
            if key == "[]":
                rows = list(own) if isinstance(own, Array) else [own[name] for name in own.keys()]  # noqa: SIM118
                if not rows:
                    return False
                own = chance.choice(rows)
            elif key:
                if f"/{key}" not in own:
                    return False
                own = own[f"/{key}"]
        return change(own, pdf, chance) is not False

    return way


def _set(key: str, value: Any) -> Callable[[Any, Pdf, random.Random], None]:
    def change(own: Any, pdf: Pdf, chance: random.Random) -> None:
        own[f"/{key}"] = value(pdf) if callable(value) else value

    return change


def _times(key: str, by: float) -> Callable[[Any, Pdf, random.Random], None]:
    def change(own: Any, pdf: Pdf, chance: random.Random) -> None:
        own[f"/{key}"] = float(own[f"/{key}"]) * by

    return change


def _delete(key: str) -> Callable[[Any, Pdf, random.Random], bool]:
    def change(own: Any, pdf: Pdf, chance: random.Random) -> bool:
        if f"/{key}" not in own or (isinstance(own[f"/{key}"], Array) and not len(own[f"/{key}"])):
            return False
        del own[f"/{key}"]
        return True

    return change


def _box(key: str, by: float) -> Callable[[Any, Pdf, random.Random], None]:
    """One side of a box moved, in units."""

    def change(own: Any, pdf: Pdf, chance: random.Random) -> None:
        box = [float(v) for v in own[f"/{key}"]]
        box[chance.randrange(4)] += by * chance.choice((-1, 1))
        own[f"/{key}"] = Array(box)

    return change


def _root(change: Callable[[Any, Pdf, random.Random], Any]) -> Way:
    return lambda pdf, said, chance: change(pdf.Root, pdf, chance) is not False


def _annotation(**facts: Any) -> Way:
    def way(pdf: Pdf, said: Said, chance: random.Random) -> None:
        page = pdf.pages[0].obj
        own = Dictionary(Type=Name.Annot, Rect=Array([50, 50, 250, 250]), **facts)
        page.Annots = Array([*page.get("/Annots", Array()), pdf.make_indirect(own)])

    return way


def _glyph_of_another(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    """One figure drawn as another, in the font itself."""
    program = own.DescendantFonts[0].FontDescriptor.FontFile2
    font = TTFont(io.BytesIO(program.read_bytes()))
    table = font["glyf"]
    names = [name for name in table.keys() if table[name].numberOfContours > 0]  # noqa: SIM118
    if len(names) < 3:
        return False
    one, other = chance.sample(names[1:], 2)
    if table[one] == table[other]:
        return False
    table[one] = table[other]
    out = io.BytesIO()
    font.save(out)
    program.write(out.getvalue())
    program.Length1 = len(out.getvalue())
    return True


def _read_as_another(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    """A character that is read as another."""
    data = own.ToUnicode.read_bytes()
    rows = [line for line in data.split(b"\n") if line.startswith(b"<") and line.count(b"<") == 2 and line != b"<0000> <FFFF>"]
    shown = [line for line in rows if len(line) == 13]
    if not shown:
        return False
    line = chance.choice(shown)
    other = line[:8] + (b"0039" if b"0039" not in line else b"0036") + b">"
    own.ToUnicode = pdf.make_stream(data.replace(line, other))
    return True


def _other_pixels(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    if own.get("/Subtype") != "/Image" or own.get("/Filter") != "/FlateDecode":
        return False
    data = bytes(255 - v for v in own.read_bytes())
    own.write(zlib.compress(data), filter=Name.FlateDecode)
    return True


def _white_stream(pdf: Pdf, said: Said, chance: random.Random) -> None:
    page = pdf.pages[0].obj
    cover = pdf.make_stream(b"1 1 1 rg 60 60 m 300 60 l 300 300 l 60 300 l h f")
    page.Contents = Array([*(page.Contents if isinstance(page.Contents, Array) else [page.Contents]), cover])


def _layers_off(root: Any, pdf: Pdf, chance: random.Random) -> bool:
    if "/OCProperties" not in root:
        return False
    own = root.OCProperties.D
    on = [group for group in root.OCProperties.OCGs if group not in list(own.OFF)]
    if not on:
        return False
    own.OFF = Array([*own.OFF, chance.choice(on)])
    return True


def _usage(root: Any, pdf: Pdf, chance: random.Random) -> bool:
    if "/OCProperties" not in root:
        return False
    group = chance.choice(list(root.OCProperties.OCGs))
    group.Usage = Dictionary(Print=Dictionary(PrintState=Name.OFF))
    root.OCProperties.D.AS = Array([Dictionary(Event=Name.Print, Category=Array([Name.Print]), OCGs=Array([group]))])
    return True


def _layers_renamed(root: Any, pdf: Pdf, chance: random.Random) -> bool:
    if "/OCProperties" not in root:
        return False
    chance.choice(list(root.OCProperties.OCGs)).Name = String("another")
    return True


def _exchanged(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    """Two entries of a dictionary for one another."""
    names = [name for name in own.keys()]  # noqa: SIM118, C416
    if len(names) < 2:
        return False
    one, other = chance.sample(names, 2)
    own[one], own[other] = own[other], own[one]
    return True


def _page_again(pdf: Pdf, said: Said, chance: random.Random) -> None:
    pdf.pages.append(pdf.pages[0])


def _another_length(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    if not len(own.Lengths):
        return False
    row = chance.choice(list(own.Lengths))
    row.Value = float(row.Value) * chance.choice((1.0001, 1.01, 2.0))
    return True


def _one_length_less(own: Any, pdf: Pdf, chance: random.Random) -> bool:
    if not len(own.Lengths):
        return False
    del own.Lengths[0]
    return True


def _grown(values: list[Any], chance: random.Random) -> list[Any]:
    return [round(float(values[0]) * chance.choice((0.5, 0.8, 1.3, 2.0)), 4)]


def _other_colour(values: list[Any], chance: random.Random) -> list[Any]:
    """One channel changed by a tenth at least."""
    values = [float(v) for v in values]
    n = chance.randrange(len(values))
    values[n] = round(values[n] + chance.uniform(0.1, 0.5) * (1 if values[n] < 0.5 else -1), 3)
    return values


HARMFUL: dict[str, Way] = {
    "a stroke dropped": _on_a_path(_dropped),
    "a stroke doubled": _on_a_path(_doubled),
    "a stroke moved": _on_a_path(_moved),
    "a point of a stroke moved": _on_a_path(_one_point),
    "an area dropped": _on_a_path(_dropped, _FILLS),
    "an area moved": _on_a_path(_moved, _FILLS),
    "a point of an area moved": _on_a_path(_one_point, _FILLS),
    "all a little larger": _put(b"1.00001 0 0 1.00001 0 0 cm", "front"),
    "all moved": _put(b"1 0 0 1 .06 0 cm", "front"),
    "all turned": _put(b"0 1 -1 0 500 0 cm", "front"),
    "what follows moved": _put(b"1 0 0 1 3 0 cm"),
    "a width changed": _operand("w", _grown),
    "a colour changed": _operand("RG", _other_colour),
    "a grey changed": _operand("G", _other_colour),
    "a colour of areas changed": _operand("rg", _other_colour),
    "a colour put in": _on_a_path(lambda said, begin, end, chance: said.insert(begin, ([1, 1, 1], "RG"))),
    "white areas": _on_a_path(lambda said, begin, end, chance: said.insert(begin, ([1, 1, 1], "rg")), _FILLS),
    "dashes changed": _operand("d", lambda own, chance: [Array([7, 3, 2, 3]), own[1]]),
    "dashes begin elsewhere": _operand("d", lambda own, chance: [own[0], float(own[1]) + 5] if len(own[0]) else own),
    "ends changed": _operand("J", lambda own, chance: [(int(own[0]) + 1) % 3]),
    "corners changed": _operand("j", lambda own, chance: [(int(own[0]) + 1) % 3]),
    "a limit for corners": _put(b"1 M", "front"),
    "flatness": _put(b"100 i", "front"),
    "a rendering intent": _put(b"/Perceptual ri", "front"),
    "a rectangle over it": _put(b"1 1 1 rg 100 100 300 200 re f", "behind"),
    "an area over it": _put(b"1 1 1 rg 100 100 m 300 100 l 300 300 l h f 0 0 0 rg", "behind"),
    "a black area": _put(b"100 100 m 300 100 l 300 300 l h f"),
    "a stroke added": _put(b"100 100 m 300 100 l S"),
    "a curve of three points": _put(b"100 100 m 300 100 400 200 v S"),
    "filled and stroked": _put(b"100 100 m 300 100 l 300 300 l B"),
    "a clip": _put(b"100 100 200 200 re W n", "front"),
    "a clip within": _put(b"q 100 100 m 200 100 l 200 200 l h W n", "front"),
    "a shading": _put(b"/Sh0 sh", "behind"),
    "a picture in the content": _put(b"q 100 0 0 100 60 60 cm BI /W 1 /H 1 /BPC 8 /CS /G ID a EI Q", "behind"),
    "a form that is not there": _put(b"/Fm0 Do", "behind"),
    "a state that is not there": _put(b"/GS9 gs", "front"),
    "a text dropped": _text(lambda said, begin, end, chance: said.__delitem__(end)),
    "a text moved": _text(_matrix(lambda own, chance: [*own[:4], own[4] + chance.choice((0.1, 3, 40)), own[5]])),
    "a text larger": _text(_matrix(lambda own, chance: [own[0] * 1.02, own[1], own[2], own[3] * 1.02, *own[4:]])),
    "a text turned": _text(_matrix(lambda own, chance: [own[1], own[0], -own[3], own[2], *own[4:]])),
    "a text stretched": _text(_matrix(lambda own, chance: [own[0] * 1.1, own[1] * 1.1, *own[2:]])),
    "other letters": _text(_another_glyph),
    "a size of type changed": _operand("Tf", lambda own, chance: [own[0], float(own[1]) * 1.05]),
    "letters wider apart": _put(b"2 Tc", "front"),
    "letters scaled": _put(b"110 Tz", "front"),
    "letters raised": _put(b"3 Ts", "front"),
    "texts not seen": _text(
        lambda said, begin, end, chance: False if said[begin - 1][1] == "Tr" else said.insert(begin, ([3], "Tr"))  # type: ignore[func-returns-value]
    ),
    "a text added": _put(b"BT /F0 10 Tf 1 0 0 1 100 100 Tm <00240025> Tj ET", "behind"),
    "a gap between letters": _operand("TJ", lambda own, chance: [Array([own[0][0], 500, *list(own[0])[1:]])]),
    "a mark gone": _without("BDC"),
    "the end of a mark gone": _without("EMC"),
    "another view's": _operand("BDC", lambda own, chance: [own[0],
    Dictionary(Number=String("77"))] if str(own[0]) == "/View" else own),
    "a picture moved": _operand("cm", lambda own, chance: [*own[:4], float(own[4]) + 1, own[5]]),
    "a picture gone": _without("Do"),
    "a stream more": _white_stream,
    "no content": lambda pdf, said, chance: said.clear() if said else False,  # type: ignore[func-returns-value]
    # what the page and the file say
    "cropped": _of("", _set("CropBox", Array([50, 50, 300, 300]))),
    "turned": _of("", _set("Rotate", 90)),
    "turned by nothing": _of("", _set("Rotate", 180)),
    "in other units": _of("", _set("UserUnit", 2)),
    "the page larger": _of("", _box("MediaBox", 1.0)),
    "trimmed": _of("", _box("TrimBox", 10.0)),
    "an art box": _of("", _set("ArtBox", Array([50, 50, 300, 300]))),
    "a bleed box": _of("", _set("BleedBox", Array([0, 0, 30, 30]))),
    "a group": _of("", _set("Group", Dictionary(S=Name.Transparency, K=True))),
    "an action of the page": _of("", _set("AA", Dictionary(O=Dictionary(S=Name.JavaScript, JS=String("x"))))),
    "a thumbnail": _of("", _set("Thumb", lambda pdf: pdf.make_stream(b"x"))),
    "a time on the screen": _of("", _set("Dur", 3)),
    "a page again": _page_again,
    "a note on it": _annotation(Subtype=Name.Square, C=Array([1, 1, 1]), IC=Array([1, 1, 1])),
    "a stamp on it": _annotation(Subtype=Name.Stamp, F=4),
    "a form field on it": _annotation(Subtype=Name.Widget, FT=Name.Tx, T=String("x")),
    "a form": _root(_set("AcroForm", Dictionary(Fields=Array()))),
    "an action on opening": _root(_set("OpenAction", Dictionary(S=Name.JavaScript, JS=String("x")))),
    "a script": _root(_set("Names", Dictionary(JavaScript=Dictionary(Names=Array())))),
    "another language": _root(_set("Lang", "de")),
    "printed to fit": _root(lambda root, pdf, chance: root.ViewerPreferences.__setitem__("/PrintScaling", Name.AppDefault)),
    "a layer off": _root(_layers_off),
    "a layer that does not print": _root(_usage),
    "a layer of another name": _root(_layers_renamed),
    "layers exchanged": _of("Resources/Properties", _exchanged),
    "no known lengths": _of("", _delete("PieceInfo")),
    "another known length": _of("PieceInfo/Skalto/Private/Views/[]", _another_length),
    "a known length less": _of("PieceInfo/Skalto/Private/Views/[]", _one_length_less),
    "no rulers": _of("", _delete("VP")),
    "a ruler's factor": _of("VP/[]/Measure/X/[]", _times("C", 1.001)),
    "a ruler's distances": _of("VP/[]/Measure/D/[]", _times("C", 1.001)),
    "a ruler's areas": _of("VP/[]/Measure/A/[]", _times("C", 1.001)),
    "a ruler's own height": _of(
        "VP/[]/Measure", _set("Y", Array([Dictionary(Type=Name.NumberFormat, U=String("mm"), C=9, D=1000, F=Name.D)]))
    ),
    "a ruler's angles": _of("VP/[]/Measure", _set("T", Array([Dictionary(U=String("gon"), C=1.1)]))),
    "a ruler's ratio": _of("VP/[]/Measure", _set("R", String("1:3"))),
    "a ruler elsewhere": _of("VP/[]", _box("BBox", 5.0)),
    "inches of a ruler": _of("VP/[]/Measure/X/[]", _set("U", String("in"))),
    "a font's figures": _of("Resources/Font/[]", _glyph_of_another),
    "read as another": _of("Resources/Font/[]", _read_as_another),
    "a font by name alone": _of("Resources/Font/[]/DescendantFonts/[]/FontDescriptor", _delete("FontFile2")),
    "another encoding": _of("Resources/Font/[]", _set("Encoding", Name("/Identity-V"))),
    "widths of glyphs": _of("Resources/Font/[]/DescendantFonts/[]", _set("W", Array([0, Array([900])]))),
    "glyphs by another map": _of("Resources/Font/[]/DescendantFonts/[]", _set("CIDToGIDMap",
    lambda pdf: pdf.make_stream(bytes(400)))),
    "fonts exchanged": _of("Resources/Font", _exchanged),
    "a state with less cover": _of("Resources/ExtGState/[]", _set("CA", 0.2)),
    "a soft mask": _of("Resources/ExtGState/[]", _set("SMask", Dictionary(S=Name.Luminosity))),
    "a state with a width": _of("Resources/ExtGState/[]", _set("LW", 3)),
    "overprinted": _of("Resources/ExtGState/[]", _set("OP", True)),
    "another blend": _of("Resources/ExtGState/[]", _set("BM", Name.Screen)),
    "a pattern": _of("Resources", _set("Pattern", Dictionary())),
    "a colour space": _of("Resources", _set("ColorSpace", Dictionary(DefaultRGB=Name.DeviceCMYK))),
    "other pixels": _of("Resources/XObject/[]", _other_pixels),
    "pixels inside out": _of("Resources/XObject/[]", _set("Decode", Array([1, 0, 1, 0, 1, 0]))),
    "another picture for print": _of("Resources/XObject/[]", _set("Alternates", Array())),
    "a colour left out": _of("Resources/XObject/[]", _set("Mask", Array([0, 10, 0, 10, 0, 10]))),
    "a picture on a layer": _of("Resources/XObject/[]", _set("OC", Dictionary(Type=Name.OCMD))),
    "a field moved": _of("Annots/[]", _box("Rect", 3.0)),
    "a field hidden": _of("Annots/[]", _set("F", 2)),
    "a field that is not printed": _of("Annots/[]", _set("F", 0)),
    "a field on a layer": _of("Annots/[]", _set("OC", Dictionary(Type=Name.OCMD))),
    "no fields": _of("", _delete("Annots")),
    "a model changed": _of("Annots/[]/3DD", lambda own, pdf, chance: own.write(own.read_bytes()[:-4] + b"abcd")),
    "a model with a script": _of("Annots/[]/3DD", _set("OnInstantiate", lambda pdf: pdf.make_stream(b"x"))),
    "another first view": _of("Annots/[]", _set("3DV", 7)),
    "a model that sleeps": _of("Annots/[]/3DA", _set("A", Name.PV)),
    "another picture for it": _of("Annots/[]/AP/N/Resources/XObject/[]", _other_pixels),
    "a camera moved": _of("Annots/[]/3DD/VA/[]", lambda own, pdf, chance: own.C2W.__setitem__(9, float(own.C2W[9]) + 20)),
    "a model in other units": _of("Annots/[]/3DD/VA/[]/Units", _set("TU", String("in"))),
}  # fmt: skip
"""What somebody who reads, cuts or measures by the file would be misled by."""


def _in_two(pdf: Pdf, said: Said, chance: random.Random) -> None:
    page = pdf.pages[0].obj
    data = (
        page.Contents.read_bytes()
        if isinstance(page.Contents, Stream)
        else b"\n".join(own.read_bytes() for own in page.Contents)
    )
    lines = data.split(b"\n")
    at = len(lines) // 2
    page.Contents = Array([pdf.make_stream(b"\n".join(part)) for part in (lines[:at], lines[at:])])


def _spaces(pdf: Pdf, said: Said, chance: random.Random) -> None:
    page = pdf.pages[0].obj
    if isinstance(page.Contents, Stream):
        page.Contents = pdf.make_stream(page.Contents.read_bytes().replace(b" ", b"  ").replace(b"\n", b"\r\n"))


def _said_anew(pdf: Pdf, said: Said, chance: random.Random) -> None:
    rows = [(operands, Operator(word)) for operands, word in said]
    pdf.pages[0].obj.Contents = pdf.make_stream(pikepdf.unparse_content_stream(rows))


def _other_order(own: Any, pdf: Pdf, chance: random.Random) -> None:
    names = list(own.keys())
    chance.shuffle(names)
    kept = {name: own[name] for name in names}
    for name in names:
        del own[name]
    for name in names:
        own[name] = kept[name]


def _number_forms(pdf: Pdf, said: Said, chance: random.Random) -> None:
    for n, (operands, word) in enumerate(said):
        if word == "l" and chance.random() < 0.3:
            said[n] = ([pikepdf.Object.parse(f"{float(v):.6f}".encode()) for v in operands], word)


HARMLESS: dict[str, Way] = {
    "written anew": lambda pdf, said, chance: None,
    "its content said anew": _said_anew,
    "in two streams": _in_two,
    "more white space": _spaces,
    "numbers in another form": _number_forms,
    "entries in another order": _of("", _other_order),
    "resources in another order": _of("Resources", _other_order),
    "a shared resource": _of("", lambda own, pdf, chance: own.__setitem__("/Resources", pdf.make_indirect(own.Resources))),
    "not packed": _of("", lambda own, pdf, chance: own.__setitem__("/Contents", pdf.make_stream(
        b"\n".join(part.read_bytes() for part in ([own.Contents] if isinstance(own.Contents, Stream) else own.Contents))
    ))),
    "what nothing refers to": lambda pdf, said, chance: [pdf.make_indirect(Dictionary(A=1)), None][1],
}  # fmt: skip
"""What changes nothing that anybody sees or measures."""
