"""A sheet onto a page that is finished already: as an incremental update (ISO 32000-1, 7.5.6), after which all old bytes are
still there."""

from __future__ import annotations

import io
import json
import re
import zlib
from dataclasses import dataclass
from typing import Any

import pikepdf
from pypdf import PdfReader, PdfWriter
from pypdf.errors import PyPdfError
from pypdf.generic import (
    ArrayObject,
    DecodedStreamObject,
    DictionaryObject,
    FloatObject,
    IndirectObject,
    NameObject,
    PdfObject,
    StreamObject,
    TextStringObject,
)

from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.quantities import PT_PER_MM

_PT = float(PT_PER_MM)
_PIECE = "/Skalto"
_TROUBLE = (
    PyPdfError,
    ValueError,
    KeyError,
    TypeError,
    AttributeError,
    IndexError,
    RecursionError,
    OSError,
    NotImplementedError,
)
"""What the library raises where a file breaks the rules that it counts on."""
_DAMAGED = "This PDF is damaged, or none: save it again with the program that made it."
_START = re.compile(rb"startxref\s+(\d{1,19})")
_SECTION = re.compile(rb"\s*(xref|\d+\s+\d+\s+obj)")
_VERSION = re.compile(r"\d\.\d")
ADDED_VERSION = "1.7"
"""The version that sheets are written in: 3D and measurement viewports came with 1.6 (ISO 32000-1, 13.6 and 12.9)."""

_LEAST = 1.0
"""The smallest side of an area, mm."""

Matrix = tuple[float, float, float, float, float, float]


@dataclass(frozen=True)
class PagePlace:
    """A page as a reader shows it: its size, mm, and the way from there, mm from the lower left as it is seen, to its own
    user space."""

    width: float
    height: float
    to_user: Matrix
    unit: float

    def box(self, area: Box) -> Box:
        """An area of the page as it is seen, mm, in user space."""
        a, b, c, d, e, f = self.to_user
        corners = [(a * x + c * y + e, b * x + d * y + f) for x in (area[0], area[2]) for y in (area[1], area[3])]
        xs, ys = zip(*corners, strict=True)
        return min(xs), min(ys), max(xs), max(ys)


def _opened(data: bytes) -> PdfReader:
    try:
        reader = PdfReader(io.BytesIO(data), strict=False)
        if reader.is_encrypted:
            raise InputError("This PDF is locked by a password: save it without one, then put the model onto it.")
        _ = len(reader.pages)
    except _TROUBLE:
        raise InputError(_DAMAGED) from None
    return reader


def _page_of(reader: PdfReader, number: int) -> Any:
    if not 1 <= number <= len(reader.pages):
        count = "1 page" if len(reader.pages) == 1 else f"{len(reader.pages)} pages"
        raise InputError(f"The PDF has {count}: there is no page {number}.")
    return reader.pages[number - 1]


def place_of(data: bytes, number: int = 1) -> PagePlace:
    """How a page lies, from 1: what is cut off by its crop box is not counted, and it is turned as a reader turns it.

    :raises InputError: for a file that is locked or damaged, and a page that is not there.
    """
    return _placed(_page_of(_opened(data), number))


def _placed(page: Any) -> PagePlace:
    try:
        media, crop = page.mediabox, page.cropbox
        x0, y0 = max(float(media.left), float(crop.left)), max(float(media.bottom), float(crop.bottom))
        x1, y1 = min(float(media.right), float(crop.right)), min(float(media.top), float(crop.top))
        unit, turn = float(page.get("/UserUnit", 1) or 1), int(page.rotation or 0) % 360
    except _TROUBLE:
        x0 = y0 = x1 = y1 = unit = turn = 0
    if not (x1 > x0 and y1 > y0 and unit > 0):
        raise InputError("This page has no size: save the PDF again with the program that made it.")
    f = _PT / unit
    wide, high = (x1 - x0) / f, (y1 - y0) / f
    if turn == 90:
        return PagePlace(high, wide, (0.0, f, -f, 0.0, x1, y0), unit)
    if turn == 180:
        return PagePlace(wide, high, (-f, 0.0, 0.0, -f, x1, y1), unit)
    if turn == 270:
        return PagePlace(high, wide, (0.0, -f, f, 0.0, x0, y1), unit)
    return PagePlace(wide, high, (f, 0.0, 0.0, f, x0, y0), unit)


def signatures_of(data: bytes) -> int:
    """How many signatures a PDF has: what is added to it comes after them. :raises InputError: when it cannot be opened."""
    reader = _opened(data)
    try:
        return _signatures(reader.trailer)
    except _TROUBLE:
        raise InputError(_DAMAGED) from None


def _signatures(trailer: Any) -> int:
    form = trailer["/Root"].get_object().get("/AcroForm")
    held = form.get_object() if form is not None else None
    rows = held.get("/Fields") if isinstance(held, DictionaryObject) else None
    listed = rows.get_object() if rows is not None else None
    fields = [*listed] if isinstance(listed, ArrayObject) else []
    count = 0
    seen: set[int] = set()
    while fields:
        field = fields.pop()
        if isinstance(field, IndirectObject):
            if field.idnum in seen:
                continue
            seen.add(field.idnum)
        own = field.get_object()
        if not isinstance(own, DictionaryObject):
            continue
        count += own.get("/FT") == "/Sig" and "/V" in own
        fields += [*own.get("/Kids", [])]
    return count


def put_onto(data: bytes, number: int, made: bytes, at: tuple[float, float], draws: bool = True) -> bytes:
    """A finished PDF with another's only page on its page *number*, from 1: as a form at true scale, with its measurement
    viewports, and its 3D annotations. Nothing of the old file is changed; what is new is appended.

    :param at: where the lower left of it comes, mm from the lower left of the page as it is seen. :param draws: whether there
        is anything on it beside 3D annotations; without, no operator is added.
    :raises InputError: for a file that is locked or damaged, a page that is not there, and what does not lie on the page.
    """
    reader = _opened(data)
    place = _placed(_page_of(reader, number))
    _sound(data, reader, number)
    source = PdfReader(io.BytesIO(made))
    sheet = source.pages[0]
    wide, high = float(sheet.mediabox.width) / _PT, float(sheet.mediabox.height) / _PT
    area = (at[0], at[1], at[0] + wide, at[1] + high)
    if min(wide, high) < _LEAST:
        raise InputError(f"An area of {wide:.4g} × {high:.4g} mm is too small: give it more than {_LEAST:g} mm.")
    if min(area[:2]) < -1e-6 or area[2] > place.width + 1e-6 or area[3] > place.height + 1e-6:
        raise InputError(
            f"The area lies beyond the page of {place.width:.4g} × {place.height:.4g} mm: move it, or make it smaller."
        )
    try:
        # what stands behind its last line would be part of that
        whole = data if data.endswith((b"\n", b"\r")) else data + b"\n"
        writer = PdfWriter(io.BytesIO(whole), incremental=True)
        page = _as_they_stand(writer, reader, number)
        _graft(writer, page, sheet, place, area, _saved(data, number) if draws else None)
        _claim(writer, data)
        out = io.BytesIO()
        writer.write(out)
        return _sectioned(data, out.getvalue(), reader.trailer)
    except _TROUBLE:
        raise InputError("Nothing can be appended to this PDF: save it again with the program that made it.") from None


def _claim(writer: PdfWriter, data: bytes) -> None:
    """Have the catalog claim the version of what is added, where the old file is of an earlier one: its first line cannot be
    changed (7.5.2, 7.7.2)."""
    root = writer._root_object
    head = data[data.find(b"%PDF-") + 5 :][:3].decode("ascii", "replace")
    said = [text for text in (head, str(root.get("/Version", "")).lstrip("/")) if _VERSION.fullmatch(text)]
    if max(said, default="1.0") < ADDED_VERSION:
        root[NameObject("/Version")] = NameObject(f"/{ADDED_VERSION}")


def _as_they_stand(writer: PdfWriter, reader: PdfReader, number: int) -> Any:
    """A page to change, as it is in the file. The writer has handed down to each page what it inherits: it is to write none of
    the others."""
    wanted: Any = None
    for n, page in enumerate(writer.pages, 1):
        reference = page.indirect_reference
        if n == number:
            wanted = page
            raw: Any = reader.get_object(reference.idnum) if reference is not None else page
            for key in [own for own in page if own not in raw]:
                del page[key]
        elif reference is not None and reference.idnum <= len(writer._original_hash):
            writer._original_hash[reference.idnum - 1] = page.hash_bin()
    # numbers of old objects stay theirs, that of the table of objects too
    size: Any = reader.trailer["/Size"]
    free = int(size) - 1 - len(writer._objects)
    writer._objects.extend([None] * max(free, 0))
    return wanted


def sound_for(data: bytes, number: int) -> None:
    """See to it that something can be put onto a page, from 1.

    :raises InputError: for a file that is locked, one whose objects or pages readers have to guess at, and a page that stands
        in it for others too.
    """
    _sound(data, _opened(data), number)


def _sound(data: bytes, reader: PdfReader, number: int) -> None:
    told = _START.findall(data)
    start = int(told[-1]) if told else len(data)
    if not _SECTION.match(data[start : start + 40]):
        raise InputError(
            "This PDF is damaged: the table of its objects is not where it says. Save it again with the program that made it."
        )
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            _ = len(pdf.pages)
    except pikepdf.PdfError:
        raise InputError(
            "This PDF is damaged: its pages run into one another. Save it again with the program that made it."
        ) from None
    objects = [getattr(page.indirect_reference, "idnum", None) for page in reader.pages]
    also = [n for n, own in enumerate(objects, 1) if own is not None and own == objects[number - 1] and n != number]
    if also:
        raise InputError(
            f"Page {number} of this PDF is kept as one with page {also[0]}, which would be changed too: print the pages to a "
            "new PDF, and use that."
        )


def _reference(owner: Any, name: str) -> bytes:
    """An entry of a trailer as it is written; b"" where it is not there."""
    try:
        out = io.BytesIO()
        owner.raw_get(name).write_to_stream(out)
        return f"{name} ".encode() + out.getvalue() + b" "
    except KeyError:
        return b""


def _sectioned(before: bytes, after: bytes, trailer: Any) -> bytes:
    """The update with a cross-reference section of the kind that the old file has (7.5.4, 7.5.8), in which the section itself
    is listed too, and with all that the old trailer says: the writer's own leaves both out."""
    start = int(after[after.rindex(b"startxref") + 9 :].split()[0])
    head, _, rest = after[start:].partition(b"stream\n")
    rows = _rows(head, rest[: rest.rindex(b"\nendstream")])
    place = int(before[before.rindex(b"startxref") + 9 :].split()[0])
    kept = b"".join(_reference(trailer, name) for name in ("/Root", "/Info", "/ID"))
    kept += b"/Prev %d " % place
    body = after[:start]
    if before[place : place + 4] == b"xref":
        size = max(int(trailer["/Size"]), max(rows) + 1)
        told = b"xref\n" + b"".join(_table(run, rows) for run in _runs(sorted(rows)))
        return body + told + b"trailer\n<< /Size %d " % size + kept + b">>\nstartxref\n%d\n%%%%EOF\n" % start
    own = max(int(trailer["/Size"]), max(rows) + 1)
    rows[own] = start
    numbers = sorted(rows)
    data = zlib.compress(b"".join(b"\x01" + rows[number].to_bytes(5, "big") + b"\0\0" for number in numbers))
    index = b" ".join(b"%d %d" % (run[0], len(run)) for run in _runs(numbers))
    told = b"%d 0 obj\n<< /Type /XRef /Size %d /W [ 1 5 2 ] /Index [ %s ] " % (own, own + 1, index) + kept
    told += b"/Filter /FlateDecode /Length %d >>\nstream\n" % len(data) + data + b"\nendstream\nendobj\n"
    return body + told + b"startxref\n%d\n%%%%EOF\n" % start


def _rows(head: bytes, packed: bytes) -> dict[int, int]:
    """Where the objects of a cross-reference stream lie, by their numbers."""
    index = [int(own) for own in re.findall(rb"/Index \[([\d ]*)\]", head)[0].split()]
    widths = [int(own) for own in re.findall(rb"/W \[([\d ]*)\]", head)[0].split()]
    data, step = zlib.decompress(packed), sum(widths)
    numbers = [first + n for first, count in zip(index[::2], index[1::2], strict=True) for n in range(count)]
    found = {}
    for place, number in enumerate(numbers):
        row = data[place * step : (place + 1) * step]
        if row[: widths[0]] == b"\x01":
            found[number] = int.from_bytes(row[widths[0] : widths[0] + widths[1]], "big")
    return found


def _runs(numbers: list[int]) -> list[list[int]]:
    """Numbers that follow one another, together."""
    runs: list[list[int]] = []
    for number in numbers:
        if runs and runs[-1][-1] + 1 == number:
            runs[-1].append(number)
        else:
            runs.append([number])
    return runs


def _table(run: list[int], rows: dict[int, int]) -> bytes:
    return b"%d %d\n" % (run[0], len(run)) + b"".join(b"%010d 00000 n \n" % rows[number] for number in run)


def _graft(
    writer: PdfWriter, page: Any, sheet: Any, place: PagePlace, area: Box, saved: tuple[int, int] | None
) -> None:  # fmt: skip
    a, b, c, d, e, f = place.to_user
    x, y = area[0], area[1]
    # from points of the sheet to user space
    matrix = (a / _PT, b / _PT, c / _PT, d / _PT, a * x + c * y + e, b * x + d * y + f)
    if saved is not None:
        _draw(writer, page, sheet, matrix, saved)
    ports = sheet.get("/VP")
    if ports:
        old = page.get("/VP")
        page[NameObject("/VP")] = ArrayObject(
            [*(old.get_object() if old is not None else []), *(_viewport(writer, own, matrix, place.unit) for own in ports)]
        )
    rects: list[Box] = []
    entries: list[IndirectObject] = []
    for own in sheet.get("/Annots", []):
        annotation = own.get_object().clone(writer)
        rect = _moved([float(v) for v in annotation["/Rect"]], matrix)
        annotation[NameObject("/Rect")] = _array(rect)
        annotation[NameObject("/P")] = page.indirect_reference
        _upright(annotation, place.to_user)
        entries.append(getattr(annotation, "indirect_reference", None) or writer._add_object(annotation))
        rects.append(rect)
    if entries:
        known = page.get("/Annots")
        page[NameObject("/Annots")] = ArrayObject([*(known.get_object() if known is not None else []), *entries])
        _facts(writer, page, sheet, rects, place.unit)


def _draw(writer: PdfWriter, page: Any, sheet: Any, matrix: Matrix, saved: tuple[int, int]) -> None:
    """The sheet's content as a form at the end of the page's, whose own streams stay as they are.

    :param saved: what the page does with graphics states, as :func:`_saved` has it.
    """
    form = DecodedStreamObject()
    form.set_data(sheet.get_contents().get_data())
    form[NameObject("/Type")] = NameObject("/XObject")
    form[NameObject("/Subtype")] = NameObject("/Form")
    form[NameObject("/BBox")] = _array((0.0, 0.0, float(sheet.mediabox.width), float(sheet.mediabox.height)))
    form[NameObject("/Resources")] = sheet["/Resources"].get_object().clone(writer)
    if "/Group" in sheet:
        form[NameObject("/Group")] = sheet["/Group"].get_object().clone(writer)
    resources = DictionaryObject(_inherited(page, "/Resources") or {})
    pictures = resources.get("/XObject")
    mine = DictionaryObject(pictures.get_object() if pictures is not None else {})
    name = next(own for n in range(len(mine) + 1) if (own := f"/SkaltoSheet{n}") not in mine)
    mine[NameObject(name)] = writer._add_object(form.flate_encode())
    resources[NameObject("/XObject")] = mine
    page[NameObject("/Resources")] = resources
    known = page.get("/Contents")
    streams: list[PdfObject] = []
    if known is not None:
        raw = page.raw_get("/Contents")
        inner = raw.get_object()
        streams = [*inner] if isinstance(inner, ArrayObject) else [raw]
    # whatever the page leaves behind is put back first, were it states that it saved and did not put back, or the reverse
    lowest, left = saved
    before = _stream(writer, b"q " * (1 - lowest) + b"\n")
    back = b"Q " * (1 - lowest + left)
    after = _stream(writer, b"\n" + back + b"q " + _cm(matrix) + name.encode() + b" Do Q\n")
    page[NameObject("/Contents")] = ArrayObject([before, *streams, after])


def _saved(data: bytes, number: int) -> tuple[int, int]:
    """How many more graphics states a page's content puts back than it saved, at the worst (0 or less), and how many more it
    saved in the end."""
    lowest = depth = 0
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            # within strings and pictures these letters mean nothing: a reader of operators tells them apart
            for row in pikepdf.parse_content_stream(pdf.pages[number - 1], "q Q"):
                depth += 1 if str(row.operator) == "q" else -1
                lowest = min(lowest, depth)
    except (pikepdf.PdfError, TypeError, ValueError, IndexError):
        return 0, 0  # what readers make of such content is theirs
    return lowest, depth


def _cm(matrix: Matrix) -> bytes:
    return (" ".join(f"{own:.9f}".rstrip("0").rstrip(".") for own in matrix) + " cm ").encode()


def _stream(writer: PdfWriter, data: bytes) -> IndirectObject:
    made = DecodedStreamObject()
    made.set_data(data)
    return writer._add_object(made)


def _inherited(page: Any, name: str) -> Any:
    """An entry of a page, or of what is above it."""
    node, seen = page, 0
    while node is not None and seen < 50:
        if name in node:
            return node[name].get_object()
        above = node.get("/Parent")
        node, seen = (above.get_object() if above is not None else None), seen + 1
    return None


def _array(values: Any) -> ArrayObject:
    return ArrayObject([FloatObject(f"{own:.6f}") for own in values])


def _moved(rect: list[float], matrix: Matrix) -> Box:
    a, b, c, d, e, f = matrix
    corners = [(a * x + c * y + e, b * x + d * y + f) for x in (rect[0], rect[2]) for y in (rect[1], rect[3])]
    xs, ys = zip(*corners, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _viewport(writer: PdfWriter, port: Any, matrix: Matrix, unit: float) -> IndirectObject:
    made = port.get_object().clone(writer)
    made[NameObject("/BBox")] = _array(_moved([float(v) for v in made["/BBox"]], matrix))
    measure = made["/Measure"].get_object()
    for axis in ("/X", "/Y"):
        for row in measure.get(axis, []):
            own = row.get_object()
            # the sheet's units are points, the page's own may be larger
            own[NameObject("/C")] = FloatObject(f"{float(own['/C']) * unit:.10f}")
    return getattr(made, "indirect_reference", None) or writer._add_object(made)


def _upright(annotation: Any, to_user: Matrix) -> None:
    """The picture of an annotation, turned so that it stands upright on a page that is turned (12.5.5)."""
    a, b, c, d, _, _ = to_user
    scale = max(abs(a), abs(b))
    if b == 0 and a > 0:
        return
    for own in annotation.get("/AP", {}).values():
        form = own.get_object()
        if isinstance(form, StreamObject):
            form[NameObject("/Matrix")] = _array((a / scale, b / scale, c / scale, d / scale, 0.0, 0.0))


def _facts(writer: PdfWriter, page: Any, sheet: Any, rects: list[Box], unit: float) -> None:
    """By what the 3D annotations are judged, each at its new place, mm of user space."""
    private = sheet["/PieceInfo"][_PIECE]["/Private"]
    rows = ArrayObject()
    for own, rect in zip(private["/Solids"], rects, strict=True):
        told = json.loads(own.get_object().get_data())
        told["box"] = [value * unit / _PT for value in rect]
        stream = StreamObject()
        stream._data = zlib.compress(json.dumps(told).encode(), 6)
        stream[NameObject("/Filter")] = NameObject("/FlateDecode")
        rows.append(writer._add_object(stream))
    stamp = TextStringObject(str(sheet["/LastModified"]))
    old = page.get("/PieceInfo")
    pieces = DictionaryObject(old.get_object() if old is not None else {})
    known = pieces.get(_PIECE)
    piece = DictionaryObject(known.get_object() if known is not None else {})
    kept = piece.get("/Private")
    inner = DictionaryObject(kept.get_object() if kept is not None else {})
    before = inner.get("/Solids")
    inner[NameObject("/Solids")] = ArrayObject([*(before.get_object() if before is not None else []), *rows])
    piece[NameObject("/Private")] = inner
    piece[NameObject("/LastModified")] = stamp
    pieces[NameObject(_PIECE)] = piece
    page[NameObject("/PieceInfo")] = pieces
    page[NameObject("/LastModified")] = stamp
