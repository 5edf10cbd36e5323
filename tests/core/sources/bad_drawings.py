"""Damaged and foreign drawings: what each is, how it is made, and what must be said of it, or that it is recovered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import pikepdf

Make = Callable[[Path], Path]


def _good(folder: Path) -> Path:
    doc: Any = ezdxf.new("R2010", units=4)
    space = doc.modelspace()
    space.add_lwpolyline([(0, 0), (100, 0), (100, 50), (0, 50)], close=True)
    space.add_circle((50, 25), 10)
    path = folder / "plan.dxf"
    doc.saveas(path)
    return path


def _bytes(name: str, data: bytes) -> Make:
    def make(folder: Path) -> Path:
        path = folder / name
        path.write_bytes(data)
        return path

    return make


def _changed(change: Callable[[bytes], bytes]) -> Make:
    def make(folder: Path) -> Path:
        path = _good(folder)
        path.write_bytes(change(path.read_bytes()))
        return path

    return make


def _empty_dxf(folder: Path) -> Path:
    path = folder / "empty.dxf"
    ezdxf.new("R2010").saveas(path)
    return path


def _locked_pdf(folder: Path) -> Path:
    pdf = pikepdf.new()
    pdf.add_blank_page()
    path = folder / "locked.pdf"
    pdf.save(path, encryption=pikepdf.Encryption(owner="o", user="u", R=6))
    return path


def _blank_pdf(folder: Path) -> Path:
    pdf = pikepdf.new()
    pdf.add_blank_page()
    path = folder / "blank.pdf"
    pdf.save(path)
    return path


def _cut_pdf(folder: Path) -> Path:
    data = _blank_pdf(folder).read_bytes()
    path = folder / "cut.pdf"
    path.write_bytes(data[: len(data) // 3])
    return path


def _bomb() -> bytes:
    return b'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]><svg><text>&b;</text></svg>'


REFUSED: dict[str, tuple[Make, str]] = {
    "a closed format by another name": (_bytes("plan.dxf", b"AC1027" + b"\0" * 400), "in a closed format"),
    "a PDF file by another name": (_bytes("plan.dxf", b"%PDF-1.7\n" + b"x" * 99), "a PDF file"),
    "an archive by another name": (_bytes("plan.dxf", b"PK\x03\x04" + b"x" * 99), "an archive: unpack it"),
    "a picture by another name": (_bytes("plan.dxf", b"\x89PNG\r\n\x1a\n" + b"x" * 99), "a picture of pixels"),
    "a STEP file by another name": (_bytes("plan.dxf", b"ISO-10303-21;\nHEADER;\n"), "a STEP file"),
    "text that is no drawing": (_bytes("notes.dxf", b"These are notes.\nNot a drawing.\n" * 40), "not a DXF file"),
    "bytes that are nothing": (_bytes("noise.dxf", bytes(range(256)) * 20), "not a DXF file"),
    "no byte at all": (_bytes("none.dxf", b""), "is empty"),
    "a DXF that draws nothing": (_empty_dxf, "draws nothing"),
    "SVG that is not XML": (_bytes("plan.svg", b"<svg><path d='M0 0'"), "not well-formed XML"),
    "XML that is not SVG": (_bytes("plan.svg", b"<?xml version='1.0'?><html/>"), "XML, but not SVG"),
    "SVG that swells": (_bytes("plan.svg", _bomb()), "declares entities"),
    "SVG that draws nothing": (_bytes("plan.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>"), "draws nothing"),
    "a PDF that is locked": (_locked_pdf, "needs a password"),
    "a PDF cut short": (_cut_pdf, "damaged"),
    "a PDF that is none": (_bytes("plan.pdf", b"hello"), "not a PDF file"),
}


def _crlf_mess(data: bytes) -> bytes:
    return b"\r\n\r\n" + data


def _half(data: bytes) -> bytes:
    """Cut off in the middle of the entities, as a broken copy is."""
    at = data.rindex(b"CIRCLE")
    return data[: at + 60]


def _no_number(data: bytes) -> bytes:
    """A coordinate that is a word."""
    at = data.index(b"CIRCLE", data.index(b"ENTITIES"))
    return data[:at] + data[at:].replace(b"\n 40\n10.0\n", b"\n 40\n10.0\n 41\nwide\n", 1)


def _strange_number(data: bytes) -> bytes:
    """A group code that is no number, once."""
    at = data.index(b"LWPOLYLINE", data.index(b"ENTITIES"))
    return data[:at] + data[at:].replace(b"\n 90\n", b"\nxx\n", 1).replace(b"\r\n 90\r\n", b"\r\nxx\r\n", 1)


RECOVERED: dict[str, Make] = {
    "empty lines before the header": _changed(_crlf_mess),
    "cut off among the entities": _changed(_half),
    "a value that is no number": _changed(_no_number),
    "a group code that is no number": _changed(_strange_number),
}

__all__ = ["RECOVERED", "REFUSED"]
