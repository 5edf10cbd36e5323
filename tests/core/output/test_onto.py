"""A model onto a page that is finished: files of another library, with fonts, a gradient and a form field, by readers and
renderers that wrote nothing."""

from __future__ import annotations

import io
import re
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pdfminer.high_level import extract_text
from reportlab.lib.colors import blue, red
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from skalto.core.checks.onto import onto_checks
from skalto.core.checks.solids import fields_of_pdf
from skalto.core.checks.vectors import read_page
from skalto.core.checks.version import version_check
from skalto.core.errors import InputError
from skalto.core.output.pdf.onto import place_of, put_onto, signatures_of
from skalto.core.progress import silent
from skalto.services.commands.exporting import export_file
from tests.campaigns.seeds import make

FACE = Path(__file__).parents[3] / "skalto" / "fonts" / "LiberationSans.ttf"
Told = dict[str, object]
AREA = (30.0, 120.0, 105.0, 70.0)


def finished(**page: object) -> bytes:
    """Two pages of another library."""
    pdfmetrics.registerFont(TTFont("Liberation", str(FACE)))
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(595, 842))
    canvas.setTitle("Assembly")
    for word in ("Übung one", "Page two"):
        canvas.setFont("Liberation", 20)
        canvas.drawString(72, 760, word)
        canvas.linearGradient(100, 40, 300, 90, (red, blue))
        canvas.acroForm.textfield(name=word, x=72, y=200, width=200, height=20, value="Ada")
        canvas.showPage()
    canvas.save()
    if not page:
        return out.getvalue()
    with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
        for key, value in page.items():
            pdf.pages[1][f"/{key}"] = value
        changed = io.BytesIO()
        pdf.save(changed, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    return changed.getvalue()


@pytest.fixture(scope="module")
def asked(plate_step: Path, tmp_path_factory: pytest.TempPathFactory):  # type: ignore[no-untyped-def]
    """What exports the plate onto a page: its options, and the file that comes of it."""
    folder = tmp_path_factory.mktemp("onto")

    def export(data: bytes, at: tuple[float, ...] = AREA, number: int = 2, **options: object) -> tuple[bytes, Told]:
        (folder / "page.pdf").write_bytes(data)
        told = {"views": (), "onto": f"{folder / 'page.pdf'}#{number}", "at": ",".join(map(str, at)), **options}
        report = export_file(str(plate_step), str(folder / "out.pdf"), told, True, silent)
        return (folder / "out.pdf").read_bytes(), report

    return export


@contextmanager
def _opened(data: bytes) -> Iterator[pdfium.PdfDocument]:
    document = pdfium.PdfDocument(data)
    try:
        yield document
    finally:
        document.close()


def by_pdfium(data: bytes, page: int, dpi: float = 72) -> np.ndarray:
    with _opened(data) as document:
        document.init_forms()
        return np.asarray(document[page].render(scale=dpi / 72).to_pil().convert("RGB"))


def by_poppler(data: bytes, page: int, folder: Path) -> np.ndarray:
    from PIL import Image

    for known in folder.glob("drawn-*.png"):
        known.unlink()
    (folder / "drawn.pdf").write_bytes(data)
    command = ["pdftoppm", "-r", "72", "-cropbox", "-f", str(page + 1), "-l", str(page + 1), "-png", "drawn.pdf", "drawn"]
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    return np.asarray(Image.open(next(folder.glob("drawn-*.png"))).convert("RGB"))


def changed_box(one: np.ndarray, other: np.ndarray) -> tuple[float, float, float, float]:
    """Where two pictures at 72 dpi differ, mm from the lower left."""
    assert one.shape == other.shape
    rows, columns = np.nonzero((one != other).any(axis=2))
    high = one.shape[0]
    box = (columns.min(), high - rows.max() - 1, columns.max() + 1, high - rows.min())
    return tuple(float(v) / 72 * 25.4 for v in box)  # type: ignore[return-value]


def test_two_pages_of_another_library_stay_and_the_model_is_there(asked, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    before = finished()
    after, report = asked(before)
    assert report["holds"], report["findings"]
    # the update cut off is the old file
    assert after[: len(before)] == before
    assert len(fields_of_pdf(before)) == 0
    (solid,) = fields_of_pdf(after)
    assert solid.page == 2
    assert solid.facts is not None
    assert [round(v, 2) for v in solid.box] == [30, 120, 135, 190]
    codes = {check["code"]: check["verdict"] for check in report["checks"]}
    assert {codes[code] for code in ("onto-bytes", "onto-pages", "onto-objects", "solid-volume", "solid-views")} == {"holds"}
    (tmp_path / "after.pdf").write_bytes(after)
    said = subprocess.run(["qpdf", "--check", "after.pdf"], cwd=tmp_path, capture_output=True, text=True)
    assert (said.returncode, said.stderr) == (0, "")
    with pikepdf.open(io.BytesIO(before)) as old, pikepdf.open(io.BytesIO(after)) as new:
        assert new.docinfo == old.docinfo
        for one, other in zip(old.pages, new.pages, strict=True):
            assert one.Contents.read_raw_bytes() == other.Contents.read_raw_bytes()
            assert one.Resources.unparse(resolved=True) == other.Resources.unparse(resolved=True)
        assert len(new.pages[1].Annots) == len(old.pages[1].Annots) + 1
        assert len(new.Root.AcroForm.Fields) == 2
    assert extract_text(io.BytesIO(after)) == extract_text(io.BytesIO(before))
    for draw in (by_pdfium, lambda data, page: by_poppler(data, page, tmp_path)):
        assert (draw(before, 0) == draw(after, 0)).all()
        x0, y0, x1, y1 = changed_box(draw(before, 1), draw(after, 1))
        assert x0 >= 29.5
        assert y0 >= 119.5
        assert x1 <= 135.5
        assert y1 <= 190.5
        assert x1 - x0 > 60


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
@pytest.mark.parametrize("unit", [1, 2])
def test_turned_cropped_and_large_pages_have_it_where_it_was_asked(  # type: ignore[no-untyped-def]
    asked, turn: int, unit: int, tmp_path: Path
) -> None:
    before = finished(Rotate=turn, UserUnit=unit, CropBox=[20, 30, 560, 800])
    place = place_of(before, 2)
    wide, high = 540 / 72 * 25.4 * unit, 770 / 72 * 25.4 * unit
    assert (place.width, place.height) == pytest.approx((high, wide) if turn in (90, 270) else (wide, high))
    after, report = asked(before, (40, 60, 90, 60))
    assert report["holds"], report["findings"]
    # a renderer leaves the unit to whoever asks
    found = [value * unit for value in changed_box(by_poppler(before, 1, tmp_path), by_poppler(after, 1, tmp_path))]
    assert found == pytest.approx((40, 60, 130, 120), abs=0.8 * unit)


@pytest.mark.parametrize("turn", [0, 90])
def test_a_view_is_there_at_true_scale_with_a_viewport_for_a_ruler(asked, turn: int) -> None:  # type: ignore[no-untyped-def]
    """The plate is 120 × 80 mm with holes (tests/conftest.py): its corners are found on the page by pdfium."""
    before = finished(Rotate=turn)
    after, report = asked(before, (20, 80, 150, 100), views=("top",))
    assert report["holds"], report["findings"]
    with _opened(before) as document:
        count = len(read_page(document, 1).paths.curves()[0])
    with _opened(after) as document:
        curves = read_page(document, 1).paths.curves()[0]
    assert len(curves) > count
    points = curves[count:].reshape(-1, 2)
    low, high = points.min(axis=0), points.max(axis=0)
    assert sorted((high - low).tolist()) == pytest.approx([80, 120], abs=2e-3)
    with pikepdf.open(io.BytesIO(after)) as pdf:
        page = pdf.pages[1]
        (port,) = page.VP
        assert float(port.Measure.X[0].C) == pytest.approx(25.4 / 72)
        first = page.Contents[1].read_raw_bytes()
    with pikepdf.open(io.BytesIO(before)) as pdf:
        assert first == pdf.pages[1].Contents.read_raw_bytes()


def reworked(change: Callable[[pikepdf.Pdf], None]) -> bytes:
    """The two pages, changed by another library."""
    with pikepdf.open(io.BytesIO(finished())) as pdf:
        change(pdf)
        out = io.BytesIO()
        pdf.save(out)
    return out.getvalue()


def test_what_pages_inherit_is_not_handed_down(asked) -> None:  # type: ignore[no-untyped-def]
    """Found in files of the world: every page was written anew with what it inherits."""

    def above(pdf: pikepdf.Pdf) -> None:
        for page in pdf.pages:
            del page.MediaBox
            page["/Number"] = pdf.make_indirect(pikepdf.Object.parse(b"7"))  # type: ignore[call-overload]  # a number that stands alone is an object too
        pdf.Root.Pages.MediaBox = [0, 0, 595, 842]

    before = reworked(above)
    after, report = asked(before)
    assert report["holds"], report["findings"]
    with pikepdf.open(io.BytesIO(after), inherit_page_attributes=False) as pdf:
        first, second = (page.objgen[0] for page in pdf.Root.Pages.Kids)
        assert "/MediaBox" not in pdf.Root.Pages.Kids[1]
        catalog = pdf.Root.objgen[0]
        written = re.findall(rb"(?:^|\n)(\d+) 0 obj", after[len(before) :])
        old = int(pdf.trailer.Size)
    assert str(second).encode() in written
    assert str(first).encode() not in written
    # no number of the old file's but the page's is given to anything else
    with pikepdf.open(io.BytesIO(before)) as pdf:
        size = int(pdf.trailer.Size)
    # and the catalog's, which claims the version of what was added
    assert {own for own in map(int, written) if own < size} == {second, catalog}
    assert old > size


@pytest.mark.parametrize(
    "left", [b"q 0.1 0 0 0.1 0 0 cm q 0 0 1 1 re W n", b"Q Q q 0 0 1 1 re W n", b"Q q Q Q 2 0 0 2 9 9 cm q"]
)
def test_what_a_page_leaves_behind_does_not_move_what_is_put_on_it(asked, left: bytes) -> None:  # type: ignore[no-untyped-def]
    def unbalanced(pdf: pikepdf.Pdf) -> None:
        pdf.pages[1].Contents = pdf.make_stream(pdf.pages[1].Contents.read_bytes() + b"\n" + left)

    before = reworked(unbalanced)
    after, report = asked(before, (20, 80, 150, 100), views=("top",))
    assert report["holds"], report["findings"]
    with _opened(before) as document:
        count = len(read_page(document, 1).paths.curves()[0])
    with _opened(after) as document:
        points = read_page(document, 1).paths.curves()[0][count:].reshape(-1, 2)
    assert np.ptp(points, axis=0).tolist() == pytest.approx([120, 80], abs=2e-3)
    # in the middle of its area, not where the page's own matrix would have it
    assert ((points.min(axis=0) + points.max(axis=0)) / 2).tolist() == pytest.approx([95, 130], abs=0.1)


def test_files_that_readers_have_to_guess_at_are_refused(asked) -> None:  # type: ignore[no-untyped-def]
    def sizeless(pdf: pikepdf.Pdf) -> None:
        for page in pdf.pages:
            del page.MediaBox

    whole = finished()
    kids = re.search(rb"/Kids \[ (\d+) 0 R (\d+) 0 R", whole)
    assert kids
    # the same object for both pages
    one_page = whole.replace(kids[0], kids[0].replace(kids[1] + b" 0 R", kids[2].ljust(len(kids[1])) + b" 0 R", 1))
    with pytest.raises(InputError, match="kept as one with page"):
        asked(one_page)
    with pytest.raises(InputError, match="not where it says"):
        asked(b"Here it begins\n" * 3 + reworked(lambda pdf: None))
    with pytest.raises(InputError, match="has no size"):
        asked(reworked(sizeless))


def test_the_update_begins_a_line_of_its_own(asked) -> None:  # type: ignore[no-untyped-def]
    """Of a file that ends at once behind its last mark, all that comes would be a comment (7.2.4)."""
    before = finished().rstrip()
    after, report = asked(before)
    assert report["holds"], report["findings"]
    assert after.startswith(before + b"\n")


def test_what_cannot_be_is_told_in_a_sentence(asked) -> None:  # type: ignore[no-untyped-def]
    data = finished()
    locked = io.BytesIO()
    with pikepdf.open(io.BytesIO(data)) as pdf:
        pdf.save(locked, encryption=pikepdf.Encryption(owner="a", user="b"))
    for broken, words in (
        (locked.getvalue(), "locked by a password"), (b"no pdf at all", "damaged, or none"), (data[:900], "damaged, or none"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=words):
            asked(broken)
    for at, number, words in (
        ((150, 120, 105, 70), 2, "beyond the page"), ((0, 0, 0.5, 70), 2, "10 mm or more"), (AREA, 3, "there is no page 3"),
        ((1, 2), 2, "is no area"), ((1, 2, -3, 4), 2, "10 mm or more"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=words):
            asked(data, at, number)


def test_a_drawing_goes_onto_a_page_too_and_an_area_alone_is_refused(plate_step: Path, tmp_path: Path) -> None:
    (tmp_path / "page.pdf").write_bytes(finished())
    told = {"onto": f"{tmp_path / 'page.pdf'}#1", "at": "20,30,130,100", "views": (), "units": "mm"}
    drawing = make("dxf", tmp_path)
    report = export_file(str(drawing), str(tmp_path / "out.pdf"), told | {"force": True}, True, silent)
    assert {check["verdict"] for check in report["checks"] if check["code"].startswith("onto")} == {"holds"}
    with pytest.raises(InputError, match="name that by --onto"):
        export_file(str(plate_step), str(tmp_path / "alone.pdf"), {"at": "1,2,30,40"}, True, silent)
    assert not (tmp_path / "alone.pdf").exists()


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_damage_ends_in_a_sentence_or_a_file_that_is_measured(data: st.DataObject) -> None:
    """A fuzz over a good file: bytes changed, cut out, doubled. What is written in spite of it begins with the old file."""
    bad = bytearray(finished())
    for _ in range(data.draw(st.integers(1, 5))):
        at = data.draw(st.integers(0, len(bad) - 1))
        match data.draw(st.sampled_from(("byte", "sign", "cut", "again"))):
            case "byte":
                bad[at] = data.draw(st.integers(0, 255))
            case "sign":
                bad[at] = data.draw(st.sampled_from(b"0123456789/<>[]() R"))
            case "cut":
                del bad[at : at + data.draw(st.integers(1, 50))]
            case _:
                bad[at:at] = bad[at : at + data.draw(st.integers(1, 30))]
    before = bytes(bad)
    with suppress(InputError):
        signatures_of(before)
        after = put_onto(before, 2, small(), (10, 10))
        assert after.startswith(before)
        assert {check.code for check in onto_checks(before, after, 2)} >= {"onto-bytes", "onto-pages", "onto-objects"}


def test_a_form_that_is_none_has_no_signature() -> None:
    data = finished()
    form = re.search(rb"/AcroForm (\d+) 0 R", data)
    assert form
    # a reference to what is not there is null (ISO 32000-1, 7.3.10)
    assert signatures_of(data.replace(form[0], b"/AcroForm 9 9 R".ljust(len(form[0])))) == 0


def small() -> bytes:
    """A page of 30 × 20 mm by another library, as what is put onto another."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(30 * 72 / 25.4, 20 * 72 / 25.4))
    canvas.line(5, 5, 50, 40)
    canvas.save()
    return out.getvalue()


def test_a_signed_file_is_told_before() -> None:
    with pikepdf.open(io.BytesIO(finished())) as pdf:
        value = pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.Sig, Contents=b"\0" * 8))
        field = pikepdf.Dictionary(FT=pikepdf.Name.Sig, T="Signed", V=value)
        pdf.Root.AcroForm.Fields.append(pdf.make_indirect(field))
        out = io.BytesIO()
        pdf.save(out)
    assert signatures_of(out.getvalue()) == 1
    assert signatures_of(finished()) == 0


def test_the_checks_find_what_was_changed(asked) -> None:  # type: ignore[no-untyped-def]
    before = finished()
    after, _ = asked(before)

    def failing(data: bytes) -> set[str]:
        return {check.code for check in onto_checks(before, data, 2) if check.verdict == "fails"}

    assert failing(after) == set()
    with pikepdf.open(io.BytesIO(after)) as pdf:
        stream = pdf.pages[0].Contents
        stream.write(stream.read_bytes() + b"\n0 0 m 9 9 l S\n")
        out = io.BytesIO()
        pdf.save(out)
    assert {"onto-bytes", "onto-pages"} <= failing(out.getvalue())
    # a whole new file in the place of an update, though it looks the same
    with pikepdf.open(io.BytesIO(after)) as pdf:
        out = io.BytesIO()
        pdf.save(out)
    assert "onto-bytes" in failing(out.getvalue())


def test_once_more_onto_the_same_page(asked) -> None:  # type: ignore[no-untyped-def]
    once, _ = asked(finished())
    twice, report = asked(once, (30, 30, 60, 40))
    assert report["holds"], report["findings"]
    assert twice.startswith(once)
    assert len(fields_of_pdf(twice)) == 2
    with pytest.raises(InputError, match="beyond"):
        put_onto(twice, 1, once, (200, 0))


def _of_version(data: bytes, head: bytes, catalog: str = "") -> bytes:
    """The same file, claiming another version: its table of objects stays where it is."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        if catalog:
            pdf.Root["/Version"] = pikepdf.Name(f"/{catalog}")
        out = io.BytesIO()
        pdf.save(out, force_version="1.3", object_stream_mode=pikepdf.ObjectStreamMode.disable)
    written = out.getvalue()
    return written.replace(b"%PDF-1.3", b"%PDF-" + head, 1)


@pytest.mark.parametrize(
    ("head", "catalog", "claims"),
    [
        (b"1.3", "", "1.7"),
        (b"1.3", "1.4", "1.7"),
        (b"1.3", "1.7", "1.7"),
        (b"1.7", "", ""),
        (b"2.0", "", ""),
        (b"1.4", "2.0", "2.0"),
    ],
)
def test_what_is_put_on_raises_the_version_that_the_file_claims(
    asked: Callable[..., tuple[bytes, Told]], head: bytes, catalog: str, claims: str
) -> None:
    """3D came with PDF 1.6 (ISO 32000-1, 13.6): readers of an earlier one need not show it."""
    before = _of_version(finished(), head, catalog)
    after, report = asked(before)
    assert after.startswith(before)
    with pikepdf.open(io.BytesIO(after)) as pdf:
        assert str(pdf.Root.get("/Version", "")).lstrip("/") == claims
    checks = {check["code"]: check for check in report["checks"]}  # type: ignore[attr-defined]
    assert (checks["version"]["verdict"], checks["onto-objects"]["verdict"]) == ("holds", "holds")
    assert report["holds"]


def test_a_file_that_claims_too_little_fails(asked: Callable[..., tuple[bytes, Told]]) -> None:
    after, _ = asked(_of_version(finished(), b"1.3"))
    low = after.replace(b"/Version /1.7", b"/Version /1.5")
    assert low != after
    check = version_check(low)
    assert (check.verdict, check.limit) == ("fails", "PDF 1.6")
    assert "3D" in check.reading
    # and a catalog in which anything else is changed is no longer as it was
    with pikepdf.open(io.BytesIO(after)) as pdf:
        number = pdf.Root.objgen[0]
    at = after.rindex(f"\n{number} 0 obj".encode())
    other = after[:at] + after[at:].replace(b"/Version /1.7", b"/Lang   (de)\n", 1)
    found = {own.code: own for own in onto_checks(_of_version(finished(), b"1.3"), other, 2)}
    assert found["onto-objects"].verdict == "fails"
