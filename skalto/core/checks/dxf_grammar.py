"""What a DXF file of ours may be made of, as tables of records and group codes (DXF reference, R2010): what is beyond them
fails by its name.

It reads the file's plain text by itself. Handles, comments, numbers in another form, records of tables that nothing uses, are
no matter.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence

from skalto.core.checks.verdict import Check
from skalto.core.lettering import FACES

Rule = Callable[[str], bool]
Rows = list[tuple[int, str]]
_NUMBER = re.compile(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d{1,3})?")


def _number(text: str) -> bool:
    return _NUMBER.fullmatch(text.strip()) is not None


def _above(text: str) -> bool:
    return _number(text) and float(text) > 0


def _is(*values: float) -> Rule:
    return lambda text: _number(text) and float(text) in values


def _said(*texts: str) -> Rule:
    wanted = {text.casefold() for text in texts}
    return lambda text: text.strip().casefold() in wanted


def _any(text: str) -> bool:
    return True


_ZERO, _X = _is(0), {10: _number, 20: _number, 30: _is(0)}
_COMMON: Mapping[int, Rule] = {5: _any, 330: _any, 100: _any, 8: _any, 6: _any, 370: _number, 420: _number, 440: _number}
"""What every entity may have: no z, no thickness (39), no scale of dashes (48), not invisible (60), not on a layout
for paper (67), no extrusion (210 to 230)."""

ENTITIES: Mapping[str, Mapping[int, Rule]] = {
    "LINE": {**_X, 11: _number, 21: _number, 31: _ZERO},
    "CIRCLE": {**_X, 40: _above},
    "ARC": {**_X, 40: _above, 50: _number, 51: _number},
    "ELLIPSE": {**_X, 11: _number, 21: _number, 31: _ZERO, 40: _above, 41: _number, 42: _number},
    "LWPOLYLINE": {90: _above, 70: _is(0, 1), 10: _number, 20: _number, 42: _number},
    "SPLINE": {**_X, 70: _is(0, 1, 8, 9, 11), 71: _is(3), 72: _number, 73: _number, 74: _ZERO, 40: _number},
    "TEXT": {
        **_X, 40: _above, 1: _any, 7: _any, 50: _number, 41: _above, 51: _number, 71: _is(0, 2), 72: _ZERO, 73: _ZERO,
        11: _number, 21: _number, 31: _ZERO,
    },
    "HATCH": {
        **_X, 210: _ZERO, 220: _ZERO, 230: _is(1), 2: _said("SOLID"), 70: _is(1), 71: _ZERO, 91: _above, 92: _number,
        72: _number,
        73: _number, 93: _number, 97: _ZERO, 75: _is(0, 1), 76: _is(0, 1), 98: _number, 11: _number, 21: _number, 94: _is(3),
        62: _is(7), 74: _ZERO, 95: _above, 96: _above, 40: _number, 42: _ZERO,
    },
}  # fmt: skip
"""What may be drawn, and of which group codes."""

RECORDS: Mapping[str, Mapping[int, Rule]] = {
    "LAYER": {70: _ZERO, 62: _above, 6: _said("CONTINUOUS"), 290: _is(1)},
    "STYLE": {70: _ZERO, 40: _ZERO, 41: _is(1), 50: _ZERO, 71: _ZERO, 3: _said("txt", *(f.file for f in FACES)), 4: _said("")},
    "LTYPE": {70: _ZERO, 74: _ZERO},
    "BLOCK_RECORD": {2: _said("*Model_Space", "*Paper_Space"), 70: _ZERO},
    "BLOCK": {2: _said("*Model_Space", "*Paper_Space"), 70: _ZERO, 1: _said(""), 10: _ZERO, 20: _ZERO, 30: _ZERO},
    "GROUP": {300: lambda text: re.fullmatch(r"view \d{1,6}( unseen)?", text.strip()) is not None, 70: _ZERO},
}
"""What entities lean on: what must hold of it where it is said. A layer that is off, frozen, locked or not printed is none of
ours."""

HEADER: Mapping[str, Rule] = {
    "$ACADVER": _said("AC1024"), "$FILLMODE": _is(1), "$QTEXTMODE": _ZERO, "$LTSCALE": _is(1), "$CELTSCALE": _is(1),
    "$ELEVATION": _ZERO, "$THICKNESS": _ZERO, "$ANGBASE": _ZERO, "$ANGDIR": _ZERO, "$PLINEWID": _ZERO, "$TILEMODE": _is(1),
    "$PLINEGEN": _ZERO, "$MEASUREMENT": _is(1), "$HIDETEXT": _is(1), "$INSBASE": _ZERO, "$UCSNAME": _said(""),
    "$PSLTSCALE": _is(1),
}  # fmt: skip
"""Settings of the file that change what is seen of it, and what they are."""

_SECTIONS = ("HEADER", "CLASSES", "TABLES", "BLOCKS", "ENTITIES", "OBJECTS")
_TABLES = {"TABLE", "ENDTAB", "VPORT", "LTYPE", "LAYER", "STYLE", "VIEW", "UCS", "APPID", "DIMSTYLE", "BLOCK_RECORD"}
_OBJECTS = {
    "DICTIONARY", "ACDBDICTIONARYWDFLT", "ACDBPLACEHOLDER", "LAYOUT", "MATERIAL", "MLINESTYLE", "MLEADERSTYLE",
    "DICTIONARYVAR", "GROUP",
    "VISUALSTYLE", "SCALE", "TABLESTYLE", "XRECORD",
}  # fmt: skip
_UNPRINTED = "DEFPOINTS"
"""A layer that is never printed, by its name: nothing lies on it."""


def _groups(text: str) -> Iterator[tuple[int, str]]:
    lines = text.splitlines()
    if len(lines) % 2:
        raise ValueError("a code without its value")
    for n in range(0, len(lines), 2):
        code = int(lines[n])
        if code != 999:
            yield code, lines[n + 1]


def _records(text: str) -> Iterator[tuple[str, Rows]]:
    own: Rows = []
    name = ""
    for code, value in _groups(text):
        if code == 0:
            if name:
                yield name, own
            name, own = value.strip(), []
        else:
            own.append((code, value))
    if name:
        yield name, own


class _Reader:
    def __init__(self) -> None:
        self.wrong: Counter[str] = Counter()
        self.count = 0
        self.space = ""
        self.layers: set[str] = set()
        self.types: set[str] = {"bylayer", "byblock", "continuous"}
        self.styles: set[str] = set()

    def read(self, data: bytes) -> None:
        section, seen = "", []
        ended = False
        for kind, rows in _records(data.decode("utf-8", "replace")):
            if ended:
                self.wrong["something after the end of the file"] += 1
                return
            if kind == "SECTION":
                section = next((value.strip() for code, value in rows if code == 2), "")
                seen.append(section)
                if section == "HEADER":
                    self._header(rows)
            elif kind == "ENDSEC":
                section = ""
            elif kind == "EOF":
                ended = True
            else:
                self.count += 1
                self._record(section, kind, rows)
        if tuple(seen) != _SECTIONS or not ended:
            self.wrong[f"sections {', '.join(seen) or 'none'}"] += 1

    def _header(self, rows: Rows) -> None:
        name = ""
        found: set[str] = set()
        for code, value in rows:
            if code == 9:
                name = value.strip()
                if name in found:
                    self.wrong[f"{name} twice"] += 1
                found.add(name)
            elif name in HEADER and not HEADER[name](value):
                self.wrong[f"{name} as {value.strip()[:20]!r}"] += 1

    def _record(self, section: str, kind: str, rows: Rows) -> None:
        if section == "ENTITIES":
            self._entity(kind, rows)
            return
        known = {"TABLES": _TABLES, "OBJECTS": _OBJECTS, "BLOCKS": {"BLOCK", "ENDBLK"}, "CLASSES": {"CLASS"}}.get(
            section, set()
        )
        if kind not in known:
            self.wrong[f"{kind} in {section.lower() or 'no section'}"] += 1
            return
        said = next((value.strip() for code, value in rows if code == 2), "")
        if kind == "BLOCK_RECORD" and said.casefold() == "*model_space":
            self.space = next((value.strip() for code, value in rows if code == 5), "")
        {"LAYER": self.layers, "LTYPE": self.types, "STYLE": self.styles}.get(kind, set()).add(said.casefold())
        rules = RECORDS.get(kind, {})
        for code, value in rows:
            rule = rules.get(code)
            if kind == "LAYER" and said.upper() == _UNPRINTED and code == 290:
                continue
            if rule is not None and not rule(value):
                self.wrong[f"{code} of a {kind} as {value.strip()[:20]!r}"] += 1
        if kind == "LAYER" and any(code in (440, 1001, 1071) for code, _ in rows):
            self.wrong["a layer that is seen through"] += 1

    def _entity(self, kind: str, rows: Rows) -> None:
        rules = ENTITIES.get(kind)
        if rules is None:
            self.wrong[f"a {kind}"] += 1
            return
        reactors = False
        for code, value in rows:
            text = value.strip()
            if code == 102:
                reactors = text == "{ACAD_REACTORS"
                if not reactors and text != "}":
                    self.wrong[f"{text[:20]} of a {kind}"] += 1
                continue
            if reactors:
                continue
            rule = rules.get(code) or _COMMON.get(code)
            if rule is None:
                self.wrong[f"group {code} of a {kind}"] += 1
            elif not rule(value):
                self.wrong[f"group {code} of a {kind} as {text[:20]!r}"] += 1
            elif code == 330 and text != self.space:
                self.wrong[f"a {kind} in another space"] += 1
            elif code == 8 and (text.casefold() not in self.layers or text.upper() == _UNPRINTED):
                self.wrong[f"a {kind} on the layer {text[:30]!r}"] += 1
            elif code == 6 and text.casefold() not in self.types:
                self.wrong[f"a {kind} of the line type {text[:30]!r}"] += 1
            elif code == 7 and text.casefold() not in self.styles:
                self.wrong[f"a {kind} of the style {text[:30]!r}"] += 1


def dxf_grammar_checks(data: bytes, blend: bool) -> list[Check]:
    """Whether a file is made of nothing but what we write; colours are never multiplied in one, so *blend* is not asked for."""
    reader = _Reader()
    try:
        reader.read(data)
    except ValueError as error:
        return [_check("fails", f"it is no DXF: {error}")]
    if reader.wrong:
        told = [f"{what}{f' ({n} times)' if n > 1 else ''}" for what, n in reader.wrong.items()]
        return [_check("fails", f"It has what we do not write: {', '.join(told[:5])}{_more(told)}")]
    return [_check("holds", f"{reader.count} records, each as we write it")]


def _more(told: Sequence[str]) -> str:
    return f", and {len(told) - 5} more" if len(told) > 5 else ""


def _check(verdict: str, reading: str) -> Check:
    return Check.model_validate({"code": "grammar", "title": "Made of", "verdict": verdict, "reading": reading})
