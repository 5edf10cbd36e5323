"""What a PDF of ours may be made of, as tables (ISO 32000-1; clause numbers are its): what is beyond them fails by its name.

They share nothing with the writer. Pages of other files that are placed as they are, are not looked into: they are held against
what they come from. What nothing refers to draws nothing, and is no matter.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Stream, String

from skalto.core.checks.verdict import Check
from skalto.core.recipes import Recipe, named

Holds = Callable[[Any], bool]
Rule = Holds | str
"""Whether a value may stand, or the name of the form that it has."""
_DATE = re.compile(r"D:\d{14}Z")


def _number(value: Any) -> bool:
    return isinstance(value, int | float | Decimal) and not isinstance(value, bool)


def _whole(value: Any) -> bool:
    return isinstance(value, int) and not isinstance(value, bool)


def _above(value: Any) -> bool:
    return _number(value) and value > 0


def _share(value: Any) -> bool:
    return _number(value) and 0 <= value <= 1


def _switch(value: Any) -> bool:
    return isinstance(value, bool)


def _text(value: Any) -> bool:
    return isinstance(value, String)


def _date(value: Any) -> bool:
    return isinstance(value, String) and _DATE.fullmatch(str(value)) is not None


def _name(value: Any) -> bool:
    return isinstance(value, pikepdf.Name)


def _any_number(value: Any) -> bool:
    return value is None or _number(value)


def _is(*words: Any) -> Holds:
    """A name of these, without its stroke, or a number."""
    names = {f"/{word}" if isinstance(word, str) else word for word in words}
    return lambda value: (
        (str(value) if _name(value) else value) in names if not isinstance(value, Dictionary | Array | Stream) else False
    )


def _said(*texts: str) -> Holds:
    return lambda value: _text(value) and str(value) in texts


def _row(rule: Holds, count: int | None = None) -> Holds:
    return lambda value: isinstance(value, Array) and (count is None or len(value) == count) and all(rule(own) for own in value)


def _window(value: Any) -> bool:
    """A box from the origin."""
    return _row(_number, 4)(value) and value[0] == value[1] == 0 and value[2] > 0 and value[3] > 0


def _colour(value: Any) -> bool:
    return isinstance(value, Array) and len(value) == 4 and value[0] == "/DeviceRGB" and all(map(_share, list(value)[1:]))


def _widths(value: Any) -> bool:
    """Glyphs, each with its width in a row of one (9.7.4.3)."""
    if not isinstance(value, Array) or len(value) % 2:
        return False
    rows = list(value)
    return all(map(_whole, rows[::2])) and all(_row(_number, 1)(own) for own in rows[1::2])


@dataclass(frozen=True)
class Form:
    """A dictionary, or a *stream*: what it must have, what it may; or of what kind all its entries are, whatever they are
    called."""

    must: Mapping[str, Rule] = field(default_factory=dict)
    may: Mapping[str, Rule] = field(default_factory=dict)
    each: Rule | None = None
    stream: bool = False


_PACKED = {"Length": _number, "Filter": _is("FlateDecode")}
_BITS = {"Type": _is("XObject"), "Subtype": _is("Image"), "Width": _above, "Height": _above, "BitsPerComponent": _is(1, 8)}

FORMS: Mapping[str, Form] = {
    "catalog": Form(
        {"Type": _is("Catalog"), "Pages": "pages", "ViewerPreferences": "preferences", "Lang": _said("en"),
        "Metadata": "packet"},
        {"Outlines": "bookmarks", "PageLabels": "labels", "OCProperties": "layers", "OutputIntents": "[intent",
        "Version": _name},
    ),
    "pages": Form({"Type": _is("Pages"), "Kids": "[page", "Count": _above}, {"Parent": "^"}),
    "page": Form(
        {"Type": _is("Page"), "Parent": "^", "MediaBox": _window, "TrimBox": _window, "Resources": "resources",
        "Contents": "contents",
         "LastModified": _date},
        {"VP": "[viewport", "PieceInfo": "pieces", "UserUnit": _above, "Annots": "[field"},
    ),
    "preferences": Form(
        {"PrintScaling": _is("None"), "PickTrayByPDFSize": lambda v: v is True, "DisplayDocTitle": lambda v: v is True},
        {"Enforce": _row(_is("PrintScaling"))},
    ),
    "packet": Form({"Type": _is("Metadata"), "Subtype": _is("XML"), "Length": _number}, {"Filter": _is("FlateDecode")},
    stream=True),
    "contents": Form({"Length": _number}, {"Filter": _is("FlateDecode")}, stream=True),
    "plain stream": Form({"Length": _number}, {"Filter": _is("FlateDecode")}, stream=True),
    # what a page draws with (7.8.3)
    "resources": Form({}, {"Font": "fonts", "XObject": "objects", "ExtGState": "states", "Properties": "properties"}),
    "fonts": Form(each="font"),
    "objects": Form(each="object"),
    "states": Form(each="state"),
    "properties": Form(each="layer"),
    "state": Form(
        {"Type": _is("ExtGState")}, {"BM": _is("Multiply"), "CA": _share, "ca": _share},
    ),
    "layer": Form({"Type": _is("OCG"), "Name": _text}),
    # fonts (9.7)
    "font": Form({
        "Type": _is("Font"), "Subtype": _is("Type0"), "BaseFont": _name, "Encoding": _is("Identity-H"),
        "DescendantFonts": "[glyphs",
        "ToUnicode": "plain stream",
    }),
    "glyphs": Form({
        "Type": _is("Font"), "Subtype": _is("CIDFontType2"), "BaseFont": _name, "FontDescriptor": "descriptor",
        "CIDSystemInfo": "system", "CIDToGIDMap": _is("Identity"), "DW": _is(0), "W": _widths,
    }),
    "system": Form({"Registry": _said("Skalto"), "Ordering": _said("Glyphs"), "Supplement": _is(0)}),
    "descriptor": Form({
        "Type": _is("FontDescriptor"), "FontName": _name, "Flags": _is(4), "ItalicAngle": _is(0), "StemV": _number,
        "Ascent": _number,
        "Descent": _number, "CapHeight": _number, "FontBBox": _row(_number, 4), "FontFile2": "program",
    }),
    "program": Form({**_PACKED, "Length1": _number}, stream=True),
    # pictures (8.9.5), and pages that are placed as they are (8.10)
    "picture": Form(
        {**_BITS, "Length": _number, "Filter": _is("FlateDecode", "DCTDecode"), "ColorSpace": _is("DeviceRGB", "DeviceGray")},
        {"SMask": "cover"}, stream=True,
    ),
    "cover": Form({**_BITS, **_PACKED, "ColorSpace": _is("DeviceGray")}, stream=True),
    "placed": Form(
        {"Type": _is("XObject"), "Subtype": _is("Form"), "FormType": _is(1), "BBox": _row(_number, 4), "Resources": "*",
        "Length": _number},
        {"Filter": _is("FlateDecode"), "Group": "*"}, stream=True,
    ),
    # rulers (12.9)
    "viewport": Form({"Type": _is("Viewport"), "BBox": _row(_number, 4), "Name": _text, "Measure": "measure"}),
    "measure": Form(
        {"Type": _is("Measure"), "Subtype": _is("RL"), "R": _text, "X": "[factor", "D": "[factor", "A": "[factor"},
    ),
    "factor": Form({"Type": _is("NumberFormat"), "U": _said("mm", "mm²"), "C": _above, "D": _is(1000), "F": _is("D")}),
    # what the file can be measured by (14.5)
    "pieces": Form({"Skalto": "piece"}),
    "piece": Form({"LastModified": _date, "Private": "private"}),
    "private": Form({"Format": _row(_number, 2), "Frame": _row(_number), "Views": "[known view"}, {"Solids": "[plain stream"}),
    "known view": Form(
        {"Mark": _text, "Name": _text, "Scale": _text, "Lengths": "[length"}, {"Turn": _number, "Region": _row(_number)},
    ),
    "length": Form({"Kind": _is("Width", "Height", "Diameter"), "Value": _number}, {"Centre": _row(_number, 2),
    "Component": _text}),
    # layers (8.11.4)
    "layers": Form({"OCGs": "[layer", "D": "layer states"}),
    "layer states": Form(
        {"Name": _said("Layers"), "BaseState": _is("ON"), "Order": "[layer", "ON": "[layer", "OFF": "[layer"},
        {"Locked": "[layer"},
    ),
    # bookmarks and labels (12.3.3, 12.4.2), the archive's colours (14.11.5)
    "bookmarks": Form({}, {"Type": _is("Outlines"), "First": "bookmark", "Last": "^", "Count": _whole}),
    "bookmark": Form(
        {"Title": _text, "Parent": "^", "Dest": lambda v: isinstance(v, Array)}, {"Next": "bookmark", "Prev": "^",
        "Count": _whole},
    ),
    "labels": Form({"Nums": "[label"}),
    "label": Form({"P": _text}),
    "intent": Form({
        "Type": _is("OutputIntent"), "S": _is("GTS_PDFA1"), "OutputConditionIdentifier": _said("sRGB"), "Info": _text,
        "RegistryName": _text, "DestOutputProfile": "profile",
    }),
    "profile": Form({"Length": _number, "N": _is(3)}, {"Filter": _is("FlateDecode")}, stream=True),
    # models in 3D (13.6)
    "field": Form({
        "Type": _is("Annot"), "Subtype": _is("3D"), "Rect": _row(_number, 4), "Contents": _text, "NM": _text, "F": _is(4),
        "3DD": "model", "3DV": _whole, "3DA": "activation", "3DI": lambda v: v is True, "AP": "appearances",
    }),
    "model": Form(
        {**_PACKED, "Type": _is("3D"), "Subtype": _is("U3D"), "VA": "[camera", "DV": _whole}, stream=True,
    ),
    "activation": Form({
        "A": _is("PO", "XA"), "AIS": _is("L"), "D": _is("PC", "XD"), "DIS": _is("U"), "TB": _switch, "NP": _switch,
    }),
    "appearances": Form({"N": "appearance"}),
    "appearance": Form(
        {"Type": _is("XObject"), "Subtype": _is("Form"), "BBox": _window, "Resources": "poster", "Length": _number},
        {"Filter": _is("FlateDecode")}, stream=True,
    ),
    "poster": Form({"XObject": "objects"}),
    "camera": Form(
        {"Type": _is("3DView"), "XN": _text, "IN": _text, "MS": _is("M"), "C2W": _row(_number, 12), "CO": _number,
        "P": "projection",
         "BG": "ground", "RM": "mode", "LS": "light", "NR": lambda v: v is True, "Units": "units"},
        {"NA": "[node", "SA": "[cut"},
    ),
    "projection": Form({"Subtype": _is("P", "O"), "CS": _is("ANF")}, {"FOV": _above, "PS": _is("Min"), "OS": _above,
    "OB": _is("Min")}),
    "ground": Form({"Type": _is("3DBG"), "Subtype": _is("SC"), "CS": _is("DeviceRGB"), "C": _row(_share, 3)}),
    "mode": Form({"Type": _is("3DRenderMode"), "Subtype": _name}),
    "light": Form({"Type": _is("3DLightingScheme"), "Subtype": _name}),
    "units": Form({
        "Type": _is("3DUnits"), "TSm": _is(1), "TSn": _is(1), "TU": _said("mm"), "DSm": _is(1), "DSn": _above,
        "DU": _said("mm", "in"),
    }),
    "node": Form({"Type": _is("3DNode"), "N": _text}, {"V": _switch, "O": _share, "RM": "mode"}),
    "cut": Form({
        "Type": _is("3DCrossSection"), "C": _row(_number, 3), "O": _row(_any_number, 3), "PO": _share, "PC": _colour,
        "IV": _switch,
        "IC": _colour, "ST": _switch, "SC": _switch,
    }),
    "information": Form(
        {"Title": _text, "Creator": _text, "Producer": _text, "CreationDate": _date, "ModDate": _date},
        {"Author": _text, "Subject": _text, "Keywords": _text},
    ),
}  # fmt: skip
"""What may stand in a file, by a name of ours. A rule that is a name leads to that form, ``[`` before it to a row of them;
``^`` leads back to where one comes from, and ``*`` into what another file had."""


class _Walk:
    def __init__(self) -> None:
        self.wrong: Counter[str] = Counter()
        self.count = 0
        self.known: set[tuple[tuple[int, int], str]] = set()

    def form(self, name: str, value: Any) -> None:
        if name == "object":
            name = "placed" if isinstance(value, Stream) and value.get("/Subtype") == "/Form" else "picture"
        if name == "contents" and isinstance(value, Array):
            self.row(name, value)
            return
        form = FORMS[name]
        if not isinstance(value, Stream if form.stream else Dictionary):
            self.wrong[f"a {name} that is none"] += 1
            return
        if value.is_indirect:
            if (value.objgen, name) in self.known:
                return
            self.known.add((value.objgen, name))
        self.count += 1
        given = {key[1:]: own for key, own in value.items()}
        for key, own in given.items():
            rule = form.each or form.must.get(key) or form.may.get(key)
            if rule is None:
                self.wrong[f"{key} of a {name}"] += 1
            else:
                self.value(f"{key} of a {name}", rule, own)
        for key in form.must.keys() - given.keys():
            self.wrong[f"a {name} without {key}"] += 1

    def row(self, name: str, value: Any) -> None:
        if not isinstance(value, Array):
            self.wrong[f"a row of {name} that is none"] += 1
            return
        for own in value:
            if name == "label" and _whole(own):
                continue
            self.form(name, own)

    def value(self, told: str, rule: Rule, own: Any) -> None:
        if not isinstance(rule, str):
            if not rule(own):
                said = "" if isinstance(own, Dictionary | Array | Stream) else f" as {str(own)[:30]!r}"
                self.wrong[f"{told}{said}"] += 1
        elif rule.startswith("["):
            self.row(rule[1:], own)
        elif rule not in ("^", "*"):
            self.form(rule, own)


def grammar_of(pdf: pikepdf.Pdf, recipe: Recipe) -> tuple[Counter[str], int]:
    """What of an opened file does not belong in it, with how often, and how many dictionaries were looked at."""
    walk = _Walk()
    walk.form("catalog", pdf.Root)
    if "/Info" in pdf.trailer:
        walk.form("information", pdf.trailer.Info)
    for key in pdf.trailer.keys() - {"/Root", "/Info", "/Size", "/ID", "/Encrypt", "/Prev", "/XRefStm"} - _OF_A_STREAM:
        walk.wrong[f"{key[1:]} of the trailer"] += 1
    if "/OCProperties" in pdf.Root and not walk.wrong:
        off = pdf.Root.OCProperties.D.OFF
        for group in off:
            if not named(recipe.start_hidden, str(group.Name)):
                walk.wrong[f"the layer {str(group.Name)!r} switched off"] += 1
    return walk.wrong, walk.count


_OF_A_STREAM = {"/Type", "/W", "/Index", "/Length", "/Filter", "/DecodeParms"}
"""What a cross-reference stream has beside a trailer (7.5.8.2)."""


def grammar_check(wrong: Mapping[str, int], count: int, operators: int) -> Check:
    """The finding of both tables, that of dictionaries and that of operators."""
    if wrong:
        told = [f"{what}{f' ({n} times)' if n > 1 else ''}" for what, n in wrong.items()]
        more = f", and {len(told) - 5} more" if len(told) > 5 else ""
        return _check("fails", f"It has what we do not write: {', '.join(told[:5])}{more}")
    return _check("holds", f"{count} dictionaries and {operators} operators, each as we write them")


def _check(verdict: str, reading: str) -> Check:
    return Check.model_validate({"code": "grammar", "title": "Made of", "verdict": verdict, "reading": reading})
