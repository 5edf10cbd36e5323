"""How sheets go out from the command line: recipes, pens, colours, resolution, pictures, packs, checks."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import pikepdf
import pikepdf.pdfa
import pytest
from pdfminer.high_level import extract_text
from PIL import Image

from skalto.core.job import JobDocument
from skalto.core.packs import Pack
from skalto.core.pens import SHIPPED, pens_to_json
from skalto.core.quantities import Scale
from skalto.core.recipes import SHIPPED_RECIPES, changed, recipe_to_json
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.section import SourceRef
from skalto.demo.workshop import REGIONS, write_workshop
from skalto.store.blobs import content_hash
from tests.conftest import Ran
from tests.saved import packed_job


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("workshop") / "fit-out.dxf"
    write_workshop(str(path))
    return path


GROUND = ("--region", ",".join(f"{v:g}" for v in REGIONS[0]), "--scale", "1:50", "--paper", "A3")


def content(path: Path) -> set[str]:
    with pikepdf.open(path) as pdf:
        return {str(operator) for _, operator in pikepdf.parse_content_stream(pdf.pages[0])}


def exported(skalto_here: Ran, workshop: Path, out: Path, *options: str | Path) -> Path:
    status, said, told = skalto_here("export", workshop, "--out", out, "--overwrite", *GROUND, *options)
    assert status == 0, f"{said}{told}"
    return out


def test_each_choice_of_output_shows_in_the_file(skalto_here: Ran, workshop: Path, tmp_path: Path) -> None:
    out = tmp_path / "a.pdf"
    assert {"RG", "BDC", "Tj"} <= content(exported(skalto_here, workshop, out))
    assert not {"RG", "rg"} & content(exported(skalto_here, workshop, out, "--color", "gray"))
    assert not {"RG", "rg"} & content(exported(skalto_here, workshop, out, "--color", "black"))
    assert "gs" in content(exported(skalto_here, workshop, out, "--crossing", "blend"))
    with pikepdf.open(exported(skalto_here, workshop, out, "--no-layers")) as pdf:
        assert "/OCProperties" not in pdf.Root
    assert "Press room" not in extract_text(exported(skalto_here, workshop, out, "--text", "outlines"))
    assert pikepdf.pdfa.validate_written(exported(skalto_here, workshop, out, "--archive"), "2b").passed
    exported(skalto_here, workshop, out, "--pens", "hairline")
    _, report, _ = skalto_here("check", out, "--json")
    page = json.loads(report)["pages"][0]
    assert page["min_line_width_mm"] == page["max_line_width_mm"] == 0.0254


def test_recipes_and_pens_come_from_files_too(skalto_here: Ran, workshop: Path, tmp_path: Path) -> None:
    recipe, pens = tmp_path / "bench.recipe.json", tmp_path / "wide.pens.json"
    recipe.write_bytes(recipe_to_json(changed(SHIPPED_RECIPES[0], id="b", name="Bench", colour="grey", left_out=("DOORS",))))
    pens.write_bytes(pens_to_json(SHIPPED[0].model_copy(update={"id": "w", "name": "Wide", "all_widths": 0.7})))
    out = exported(skalto_here, workshop, tmp_path / "a.pdf", "--recipe", recipe, "--pens", pens)
    assert not {"RG", "rg"} & content(out)
    with pikepdf.open(out) as pdf:
        assert "DOORS" not in {str(g.Name) for g in pdf.Root.OCProperties.OCGs}
    status, report, _ = skalto_here("check", out, "--recipe", recipe, "--json")
    found = json.loads(report)
    assert status == 0
    assert {c["code"]: c["verdict"] for c in found["checks"]}["colour"] == "holds"
    assert found["pages"][0]["max_line_width_mm"] == 0.7
    # held against another recipe, what differs is found
    status, report, _ = skalto_here("check", out, "--recipe", "cutter")
    assert status == 1
    assert "Layers" in report


def test_a_recipe_s_words_describe_the_file(skalto_here: Ran, workshop: Path, job: Path, tmp_path: Path) -> None:
    recipe = tmp_path / "words.recipe.json"
    words = {"title": "{job} - {title}", "author": "House group", "subject": "{revision}", "keywords": "plan, {format}"}
    recipe.write_bytes(recipe_to_json(changed(SHIPPED_RECIPES[0], id="w", name="Words", **words)))
    with pikepdf.open(exported(skalto_here, workshop, tmp_path / "a.pdf", "--recipe", recipe)) as pdf:
        assert (str(pdf.docinfo["/Author"]), str(pdf.docinfo["/Keywords"])) == ("House group", "plan, A3")
    out = tmp_path / "all.pdf"
    status, _, told = skalto_here("pack", job, "--pack", "Joiner", "--out", out, "--recipe", recipe)
    assert status == 0, told
    with pikepdf.open(out) as pdf:
        assert (str(pdf.docinfo["/Title"]), str(pdf.docinfo["/Subject"])) == ("Fit-out - Joiner", "B")


def test_pictures_by_their_ending(skalto_here: Ran, workshop: Path, tmp_path: Path) -> None:
    for name, mode in (("a.png", "RGB"), ("a.jpg", "RGB"), ("a.tiff", "RGB")):
        picture = Image.open(exported(skalto_here, workshop, tmp_path / name, "--dpi", "100"))
        assert (picture.size, picture.mode) == ((1654, 1169), mode)
    picture = Image.open(exported(skalto_here, workshop, tmp_path / "b.tif", "--dpi", "200", "--color", "black"))
    assert (picture.size, picture.mode) == ((3307, 2339), "1")


def test_pictures_finer_than_line_work_are_not_taken(skalto_here: Ran, workshop: Path, tmp_path: Path) -> None:
    status, _, told = skalto_here(
        "export", workshop, "--out", tmp_path / "a.pdf", *GROUND, "--dpi", "300", "--picture-dpi", "400"
    )
    assert (status, "finer than the line work at 300 dpi" in told) == (2, True)


BAD = [
    (("--recipe", "grandma"), "is not a recipe"),
    (("--recipe", "gone.json"), "There is no recipe file"),
    (("--pens", "feather"), "is not a pen set"),
    (("--color", "sepia"), "write color, gray or black"),
    (("--crossing", "knot"), "write cover or blend"),
    (("--text", "runes"), "write text or outlines"),
    (("--dpi", "9000"), "dpi"),
]


@pytest.mark.parametrize(("options", "words"), BAD)
def test_a_bad_choice_is_said_in_one_line(
    options: tuple[str, ...], words: str, skalto_here: Ran, workshop: Path, tmp_path: Path
) -> None:
    status, _, told = skalto_here("export", workshop, "--out", tmp_path / "x.pdf", *options)
    assert status == 2
    assert len(told.strip().splitlines()) == 1
    assert words in told


@pytest.fixture
def job(workshop: Path, tmp_path: Path) -> Path:
    """A job file with two sheets, and a pack of both the other way round."""
    data = workshop.read_bytes()
    source = content_hash(data)
    sheets = []
    for n, (name, format_) in enumerate((("Ground floor", "A3"), ("Upper floor", "A2"))):
        view = ViewSpec(
            id=f"v{n}",
            source=source,
            name="plan",
            content=DrawingContent(excerpt=Excerpt(region=REGIONS[n])),
            scale=Scale(1, 50),
        )
        x0, y0, x1, y1 = REGIONS[n]
        view = view.model_copy(update={"anchor": ((x0 + x1) / 2, (y0 + y1) / 2), "place": (210.0, 160.0)})
        sheets.append(
            SheetSpec(id=f"s{n}", name=name, format=format_, scale=Scale(1, 50), views=(view,), title={"revision": "B"})
        )
    packs = (
        Pack(id="j", name="Joiner", sheets=("s1", "s0"), recipe="grey", files="each"),
        Pack(id="e", name="Empty"),
    )
    document = JobDocument(
        name="Fit-out", sources=(SourceRef(id=source, name="fit-out.dxf", size=len(data), drawing=True),), sheets=tuple(sheets),
        packs=packs,
    )  # fmt: skip
    _, archive = packed_job(document, "0007", {source: data})
    with zipfile.ZipFile(io.BytesIO(archive)) as unpacked:
        unpacked.extractall(tmp_path / "job")
    return next((tmp_path / "job").glob("*.skalto.json"))


def test_a_pack_goes_to_a_folder_or_to_one_file(skalto_here: Ran, job: Path, tmp_path: Path) -> None:
    status, out, told = skalto_here("pack", job, "--pack", "joiner", "--out", tmp_path / "out", "--json")
    assert status == 0, told
    report = json.loads(out)
    names = [Path(row["file"]).name for row in report["files"]]
    assert names == ["01_B_Upper_floor.pdf", "02_B_Ground_floor.pdf"]
    assert report["holds"]
    assert not {"RG", "rg"} & content(tmp_path / "out" / names[0])
    one = tmp_path / "all.pdf"
    status, out, told = skalto_here("pack", job, "--pack", "Joiner", "--out", one, "--color", "color")
    assert status == 0, told
    with pikepdf.open(one) as pdf:
        assert [page.label for page in pdf.pages] == ["Upper floor", "Ground floor"]
    assert "RG" in content(one)


@pytest.mark.parametrize(
    ("pack", "out", "words"),
    [
        ("Mason", "x.pdf", "it has Joiner, Empty"),
        ("Empty", "x.pdf", "has no sheet"),
        ("Joiner", "x.docx", "neither a .pdf nor a folder"),
    ],
)
def test_a_pack_that_cannot_go_says_why(pack: str, out: str, words: str, skalto_here: Ran, job: Path, tmp_path: Path) -> None:
    status, _, told = skalto_here("pack", job, "--pack", pack, "--out", tmp_path / out)
    assert (status, words in told) == (2, True), told


def test_a_whole_job_goes_out_as_a_tiff_of_its_sheets(skalto_here: Ran, job: Path, tmp_path: Path) -> None:
    status, _, told = skalto_here("job", "export", job, "--out", tmp_path / "all.tiff", "--dpi", "60", "--color", "gray")
    assert status == 0, told
    picture = Image.open(tmp_path / "all.tiff")
    assert (picture.n_frames, picture.mode) == (2, "L")  # type: ignore[attr-defined]
    status, _, told = skalto_here("job", "export", job, "--out", tmp_path / "all.png")
    assert "write a PDF or TIFF file" in told
