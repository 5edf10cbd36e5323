"""Every choice of a recipe, shown by the file that it makes: read with pdfium, pdfminer.six, poppler, qpdf and pikepdf.pdfa."""

from __future__ import annotations

import gc
import io
import subprocess
import warnings
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pikepdf.pdfa
import pypdfium2 as pdfium
import pytest
from pdfminer.high_level import extract_text

from skalto.core.artwork import Areas, Artwork, EdgeClass, Ellipses, Lines, Polylines, Raster, Tags
from skalto.core.checks.inspection import archive_check
from skalto.core.checks.vectors import read_page
from skalto.core.errors import InputError
from skalto.core.lettering import lettered
from skalto.core.output.flat import flat_page
from skalto.core.output.pdf.document import write_pdf, written
from skalto.core.output.pdf.joining import Part, join
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.output.svg import write_svg
from skalto.core.pages.page import Page
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe, changed, recipe_from_json, recipe_to_json

RED, GREEN = (200, 30, 30), (20, 160, 60)


def drawn(layer: str, colour: tuple[int, int, int] | None = None) -> Tags:
    return Tags(EdgeClass.DRAWN, layer=layer, colour=colour)


def square(x: float, y: float, side: float) -> np.ndarray:
    corners = np.array(((x, y), (x + side, y), (x + side, y + side), (x, y + side)))
    return np.stack((corners, np.roll(corners, -1, axis=0)), axis=1)


def picture(dpi: float = 300) -> Raster:
    """25.4 mm a side, so that its pixels are its resolution; half of it clear."""
    side = round(dpi)
    pixels = np.random.default_rng(4).integers(0, 255, (side, side, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    pixels[: side // 2, :, 3] = 0
    return Raster(Tags(EdgeClass.VISIBLE), pixels, np.array((60.0, 10.0)), np.array((25.4, 0)), np.array((0, 25.4)))


def sheet(name: str = "Plate") -> Page:
    """A square in four separate lines and a circle on layer CUT, a line on NOTES, a filled triangle, a picture and text."""
    circle = Ellipses(
        drawn("CUT", RED),
        np.array([[35.0, 25.0]]),
        np.array([[6.0, 0]]),
        np.array([[0, 6.0]]),
        np.zeros(1),
        np.array([2 * np.pi]),
    )
    curves = np.array([[a, a + (b - a) / 3, b - (b - a) / 3, b] for a, b in square(5, 45, 8)])
    area = Areas(drawn("FILLS", GREEN), curves, np.ones(4, bool), np.zeros(4, np.int64), np.zeros(1, np.int64))
    items = (
        picture(),
        area,
        Lines(drawn("CUT", RED), square(5, 5, 20)),
        circle,
        Lines(drawn("NOTES", (0, 0, 200)), np.array([[[5.0, 40.0], [50.0, 40.0]]])),
        lettered([(f"Steel, 3 mm, {name}", (20.0, 47.0), 5.0, 0.0, 0.0)]),
    )
    return Page(name, Fraction(100), Fraction(60), Artwork(), (), Artwork(items))


def made(passwords: Passwords | None = None, **choices: Any) -> bytes:
    return write_pdf([sheet()], Metadata("Plate"), changed(PLAIN, **choices), passwords)


def content(data: bytes) -> str:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        return str(pdf.pages[0].Contents.read_bytes().decode())


def operators(data: bytes) -> set[str]:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        return {str(operator) for _, operator in pikepdf.parse_content_stream(pdf.pages[0])}


def images(data: bytes) -> list[Any]:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        found = []
        for entry in (pdf.pages[0].Resources.get("/XObject") or {}).values():
            facts = {key: entry.get(key) for key in ("/Width", "/Height", "/BitsPerComponent")}
            facts |= {"space": str(entry.ColorSpace), "filter": str(entry.Filter), "mask": "/SMask" in entry}
            found.append(facts)
        return found


def drawn_by_pdfium(data: bytes, dpi: int = 150) -> np.ndarray:
    document = pdfium.PdfDocument(data)
    found = np.asarray(document[0].render(scale=dpi / 72).to_pil().convert("RGB")).astype(int)
    document.close()
    return found


def drawn_by_poppler(data: bytes, folder: Path, dpi: int = 150) -> np.ndarray:
    from PIL import Image

    path = folder / "page.pdf"
    path.write_bytes(data)
    subprocess.run(["pdftoppm", "-r", str(dpi), "-png", str(path), str(folder / "page")], check=True, timeout=60)
    return np.asarray(Image.open(next(folder.glob("page*.png"))).convert("RGB")).astype(int)


def qpdf_is_content(data: bytes, folder: Path, *options: str) -> None:
    path = folder / "checked.pdf"
    path.write_bytes(data)
    subprocess.run(["qpdf", "--check", *options, str(path)], check=True, capture_output=True, timeout=60)


COLOUR_OPERATORS = {"RG", "rg", "K", "k", "SC", "sc", "SCN", "scn", "CS", "cs"}


def test_greyscale_has_no_colour_operator_nor_picture() -> None:
    assert operators(made()) & COLOUR_OPERATORS
    data = made(colour="grey")
    assert operators(data) & COLOUR_OPERATORS == set()
    assert {row["space"] for row in images(data)} == {"/DeviceGray"}
    shown = drawn_by_pdfium(data)
    assert np.ptp(shown, axis=-1).max() == 0
    # the green fill as a grey: 0.299 R + 0.587 G + 0.114 B (ITU-R BT.601, from memory)
    grey = shown[-round(49 / 25.4 * 150), round(9 / 25.4 * 150), 0]
    assert grey == pytest.approx(0.299 * 20 + 0.587 * 160 + 0.114 * 60, abs=2)


def test_black_only_has_nothing_but_black_and_white() -> None:
    data = made(colour="black")
    assert operators(data) & COLOUR_OPERATORS == set()
    (row,) = images(data)
    assert (row["space"], row["/BitsPerComponent"]) == ("/DeviceGray", 1)
    text = content(data)
    assert all(line in ("0 g", "0 G", "1 g", "1 G") for line in text.splitlines() if line.endswith((" g", " G")))


def test_crossings_blend_only_when_asked() -> None:
    with pikepdf.open(io.BytesIO(made(crossing="blend"))) as pdf:
        assert str(pdf.pages[0].Resources.ExtGState.G0.BM) == "/Multiply"
        assert pdf.pages[0].Contents.read_bytes().startswith(b"/G0 gs")
    with pikepdf.open(io.BytesIO(made(crossing="cover"))) as pdf:
        assert "/ExtGState" not in pdf.pages[0].Resources


def layers(data: bytes) -> list[str]:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        if "/OCProperties" not in pdf.Root:
            return []
        return [str(group.Name) for group in pdf.Root.OCProperties.D.Order]


def test_layers_written_left_out_or_made_of_edge_classes() -> None:
    assert layers(made()) == ["CUT", "FILLS", "NOTES"]
    assert layers(made(layers="none")) == []
    assert operators(made(layers="none")) & {"BDC", "EMC"} == set()
    assert layers(made(layers="source and edge classes")) == ["CUT", "FILLS", "NOTES", "text", "visible"]
    # what is left out is not drawn, with layers or without
    for mode in ("source", "none"):
        data = made(left_out=("note*",), layers=mode)
        assert "NOTES" not in layers(data)
        plain, less = drawn_by_pdfium(made()), drawn_by_pdfium(data)
        row = -round(40 / 25.4 * 150)
        assert (plain[row - 2 : row + 2, 60:200] < 200).any()
        assert (less[row - 2 : row + 2, 60:200] > 250).all()


def test_layers_start_hidden_locked_and_in_order(tmp_path: Path) -> None:
    data = made(start_hidden=("NOTES",), locked=("CUT",), layer_order=("NOTES", "F*"))
    assert layers(data) == ["NOTES", "FILLS", "CUT"]
    with pikepdf.open(io.BytesIO(data)) as pdf:
        state = pdf.Root.OCProperties.D
        assert [str(g.Name) for g in state.OFF] == ["NOTES"]
        assert [str(g.Name) for g in state.ON] == ["FILLS", "CUT"]
        assert [str(g.Name) for g in state.Locked] == ["CUT"]
    # a reader that knows layers does not draw what is hidden (poppler)
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    hidden, shown = drawn_by_poppler(data, tmp_path / "a"), drawn_by_poppler(made(), tmp_path / "b")
    row = -round(40 / 25.4 * 150)
    assert (shown[row - 2 : row + 2, 60:200] < 200).any()
    assert (hidden[row - 2 : row + 2, 60:200] > 250).all()


def test_text_as_text_or_as_outlines() -> None:
    assert "Steel, 3 mm, Plate" in extract_text(io.BytesIO(made()))
    data = made(text="outlines")
    assert "Steel" not in extract_text(io.BytesIO(data))
    assert operators(data) & {"BT", "Tj", "Tf"} == set()
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert "/Font" not in pdf.pages[0].Resources
    # it looks as it did
    off = np.abs(drawn_by_pdfium(made(), 300) - drawn_by_pdfium(data, 300)).max(axis=-1)
    assert (off > 128).mean() < 0.0005


@pytest.mark.parametrize(("asked", "kept"), [(300, 300), (150, 150), (600, 300), (72, 72)])
def test_pictures_keep_no_more_than_the_resolution_asked_for(asked: int, kept: int) -> None:
    (row,) = images(made(picture_dpi=asked))
    assert (row["/Width"], row["/Height"]) == (kept, kept)
    assert row["mask"]


def test_pictures_finer_than_the_line_work_are_not_taken() -> None:
    with pytest.raises(InputError, match="finer than the line work at 300 dpi"):
        changed(PLAIN, dpi=300, picture_dpi=400)


def test_pictures_without_loss_or_as_jpeg() -> None:
    assert images(made())[0]["filter"] == "/FlateDecode"
    assert images(made(compression="jpeg"))[0]["filter"] == "/DCTDecode"
    assert len(made(compression="jpeg", quality=30)) < len(made(compression="jpeg", quality=95))


def test_garbage_is_not_held_against_an_archive(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The validator takes any warning for one about the file, that of a forgotten open file too."""
    data = made(file="archive", viewports=False)
    (tmp_path / "left").write_text("open")
    listen = warnings.simplefilter

    def listen_amid_garbage(*of: Any) -> None:
        listen(*of)
        ring: list[Any] = [(tmp_path / "left").open()]
        ring.append(ring)
        del ring
        [[] for _ in range(10 * gc.get_threshold()[0])]

    monkeypatch.setattr(warnings, "simplefilter", listen_amid_garbage)
    assert archive_check(data).verdict == "holds"


def test_an_archive_file_is_approved() -> None:
    """PDF/A-2b by pikepdf's validator, which knows no layers, so that an archive has none; the plain file is not one."""
    for more in (
        {},
        {"colour": "grey"},
        {"crossing": "blend"},
        {"text": "outlines"},
        {"compression": "jpeg"},
        {"start_hidden": ("CUT",)},
    ):
        report = pikepdf.pdfa.validate_written(io.BytesIO(made(file="archive", viewports=False, **more)), "2b")
        assert report.passed, [str(f) for f in report.findings]
    assert not pikepdf.pdfa.validate_written(io.BytesIO(made()), "2b").passed
    # viewports are allowed (ISO 32000-1, 12.9), but the validator does not know them: nothing else is found with them
    report = pikepdf.pdfa.validate_written(io.BytesIO(made(file="archive")), "2b")
    assert not report.violations
    assert all("/VP" in finding.message for finding in report.findings)
    assert layers(made(file="archive")) == []
    # what would start hidden is not drawn, where nothing could switch it on
    row = -round(40 / 25.4 * 150)
    assert (drawn_by_pdfium(made(file="archive", start_hidden=("NOTES",)))[row - 2 : row + 2, 60:200] > 250).all()
    with pytest.raises(InputError, match="may not be locked"):
        made(Passwords(open="x"), file="archive")


def test_the_smallest_file_is_smaller() -> None:
    assert len(made(file="smallest")) < len(made())


def test_a_cutter_s_file(tmp_path: Path) -> None:
    """formats: no clipping, one contour a path, closed ones with h, DeviceRGB, no layers, no text objects."""
    recipe = next(r for r in SHIPPED_RECIPES if r.id == "cutter")
    data = write_pdf([sheet()], Metadata("Plate"), recipe)
    text = content(data)
    assert text.startswith("0 0 0 RG\n0 0 0 rg\n")
    assert operators(data) & {"W", "W*", "BT", "BDC", "Do"} <= {"Do"}
    # the four lines of the square are one closed contour, and so is the circle
    closed = [line for line in text.splitlines() if line.endswith("h S")]
    assert len(closed) == 2
    assert sorted(line.count(" l") for line in closed) == [0, 3]
    document = pdfium.PdfDocument(data)
    paths = read_page(document, 0).paths
    assert np.nanmax(paths.width) == pytest.approx(0.0254, abs=1e-5)
    document.close()
    qpdf_is_content(data, tmp_path)


def test_what_is_drawn_twice_is_cut_once() -> None:
    recipe = next(r for r in SHIPPED_RECIPES if r.id == "cutter")
    lines = square(5, 5, 20)
    twice = np.concatenate((lines, lines[:, ::-1], lines[:1] + 1e-5))
    page = Page("x", Fraction(100), Fraction(60), Artwork(), (), Artwork((Lines(drawn("A"), twice),)))
    text = content(write_pdf([page], Metadata("x"), recipe))
    assert text.count(" S\n") == 1
    assert text.count("h S") == 1


def test_contours_of_lines_arcs_and_curves_join() -> None:
    """A slot: two lines and two half circles, each its own entity, is one closed contour."""
    recipe = next(r for r in SHIPPED_RECIPES if r.id == "cutter")
    tags = drawn("A")
    sides = Lines(tags, np.array([[[10.0, 10], [40, 10]], [[40.0, 20], [10, 20]]]))
    ends = Ellipses(
        tags, np.array([[40.0, 15], [10, 15]]), np.array([[5.0, 0], [5, 0]]), np.array([[0, 5.0], [0, 5]]),
        np.array([-np.pi / 2, np.pi / 2]), np.array([np.pi, np.pi]),
    )  # fmt: skip
    run = Polylines(tags, np.array([[60.0, 10], [70, 10], [70, 20]]), np.zeros(3), np.array([0, 3]), np.array([False]))
    page = Page("x", Fraction(100), Fraction(60), Artwork(), (), Artwork((sides, ends, run)))
    rows = [line for line in content(write_pdf([page], Metadata("x"), recipe)).splitlines() if line.endswith(" S")]
    assert sorted(row.endswith("h S") for row in rows) == [False, True]


def test_metadata_is_in_both_places_and_agrees() -> None:
    metadata = Metadata("Plate", author="A. Lind", subject="Cheek of the press", keywords="steel, 8 mm")
    for recipe in (PLAIN, changed(PLAIN, file="archive")):
        with pikepdf.open(io.BytesIO(write_pdf([sheet()], metadata, recipe))) as pdf:
            info = {key: str(value) for key, value in pdf.docinfo.items()}
            assert (info["/Title"], info["/Author"]) == ("Plate", "A. Lind")
            assert (info["/Subject"], info["/Keywords"]) == ("Cheek of the press", "steel, 8 mm")
            with pdf.open_metadata() as xmp:
                assert (xmp["dc:title"], xmp["dc:creator"]) == ("Plate", ["A. Lind"])
                assert (xmp["dc:description"], xmp["pdf:Keywords"]) == ("Cheek of the press", "steel, 8 mm")


def test_passwords_to_open_and_to_change(tmp_path: Path) -> None:
    data = made(Passwords(open="press", change="master"))
    with pytest.raises(pikepdf.PasswordError):
        pikepdf.open(io.BytesIO(data))
    with pikepdf.open(io.BytesIO(data), password="press") as pdf:
        assert (pdf.encryption.R, pdf.encryption.bits) == (6, 256)
        assert str(pdf.encryption.stream_method).endswith("aesv3")
        assert not pdf.allow.modify_other
        assert pdf.allow.print_highres
    with pikepdf.open(io.BytesIO(data), password="master") as pdf:
        assert pdf.owner_password_matched
    # to change alone: it opens without a word
    with pikepdf.open(io.BytesIO(made(Passwords(change="master")))) as pdf:
        assert pdf.is_encrypted
        assert not pdf.allow.modify_other
    qpdf_is_content(data, tmp_path, "--password=press")


def test_pages_joined_share_fonts_and_layers_and_keep_their_content(tmp_path: Path) -> None:
    recipe = changed(PLAIN, start_hidden=("NOTES",))
    parts = [
        Part((w := written([sheet(name)], Metadata(name), recipe)).data, w.glyphs, name) for name in ("Cheek", "Bed", "Tray")
    ]
    data = join(parts, Metadata("All"), recipe).data
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert len(pdf.pages) == 3
        with pdf.open_outline() as outline:
            assert [item.title for item in outline.root] == ["Cheek", "Bed", "Tray"]
        assert [str(label) for label in pdf.Root.PageLabels.Nums][1::2] != []
        assert [page.label for page in pdf.pages] == ["Cheek", "Bed", "Tray"]
        assert len({page.Resources.Font.F0.objgen for page in pdf.pages}) == 1
        for page, part in zip(pdf.pages, parts, strict=True):
            with pikepdf.open(io.BytesIO(part.data)) as own:
                assert page.Contents.read_bytes() == own.pages[0].Contents.read_bytes()
        assert [str(g.Name) for g in pdf.Root.OCProperties.OCGs] == ["CUT", "FILLS", "NOTES"]
    texts = extract_text(io.BytesIO(data)).split("\f")
    assert [name in text for name, text in zip(("Cheek", "Bed", "Tray"), texts, strict=False)] == [True] * 3
    assert len(data) < sum(len(part.data) for part in parts)
    qpdf_is_content(data, tmp_path)
    assert join(parts, Metadata("All"), recipe).data == data
    archive = changed(PLAIN, file="archive", viewports=False)
    kept = [
        Part((w := written([sheet(name)], Metadata(name), archive)).twin or b"", w.glyphs, name) for name in ("Cheek", "Bed")
    ]
    assert pikepdf.pdfa.validate_written(io.BytesIO(join(kept, Metadata("All"), archive).data), "2b").passed


def test_svg_takes_the_same_choices() -> None:
    page = sheet()
    assert b"#c81e1e" in write_svg(flat_page(page))
    grey = write_svg(flat_page(page, changed(PLAIN, colour="grey")))
    assert b"#c81e1e" not in grey
    assert b"#515151" in grey
    assert b"multiply" in write_svg(flat_page(page, changed(PLAIN, crossing="blend")))
    assert b"<text" not in write_svg(flat_page(page, changed(PLAIN, text="outlines")))
    assert b'id="NOTES"' not in write_svg(flat_page(page, changed(PLAIN, left_out=("NOTES",))))


def test_a_line_is_as_many_pixels_wide_as_its_pen_says(tmp_path: Path) -> None:
    """At 600 dpi a line of 0.5 mm is 11.8 pixels wide (poppler, without smoothing)."""
    lines = Lines(Tags(EdgeClass.VISIBLE), np.array([[[10.0, 10], [10, 50]]]))
    page = Page("x", Fraction(100), Fraction(60), Artwork(), (), Artwork((lines,)))
    path = tmp_path / "w.pdf"
    path.write_bytes(write_pdf([page], Metadata("x")))
    command = ["pdftoppm", "-r", "600", "-aaVector", "no", "-png", str(path), str(tmp_path / "w")]
    subprocess.run(command, check=True, timeout=60)
    from PIL import Image

    row = np.asarray(Image.open(next(tmp_path.glob("w*.png"))).convert("L"))[round(30 / 25.4 * 600)]
    assert int((row < 128).sum()) == pytest.approx(0.5 / 25.4 * 600, abs=1)


def test_a_recipe_goes_through_its_file() -> None:
    for recipe in SHIPPED_RECIPES:
        assert recipe_from_json(recipe_to_json(recipe)) == recipe


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (b"{", "not JSON"),
        (b"[]", "not a recipe"),
        (b'{"kind":"skalto.recipe","recipe":{"id":"a","name":"A","dpi":9}}', "dpi"),
        (b'{"kind":"skalto.recipe","recipe":{"id":"a","name":"A","dpi":300,"picture_dpi":600}}', "finer than the line work"),
        (b'{"kind":"skalto.recipe","recipe":{"id":"a","name":"A","format":"A99"}}', "A99"),
        (b'{"kind":"skalto.recipe","recipe":{"id":"a","name":"A","colour":"sepia"}}', "colour"),
    ],
)
def test_a_bad_recipe_file_says_what_is_wrong(data: bytes, told: str) -> None:
    with pytest.raises(InputError, match=told):
        recipe_from_json(data)


def test_shipped_recipes_are_what_they_are_called() -> None:
    by_id = {recipe.id: recipe for recipe in SHIPPED_RECIPES}
    assert by_id["archive"].file == "archive"
    assert by_id["cutter"].pens is not None
    assert isinstance(Recipe.model_validate(by_id["grey"].model_dump()), Recipe)
