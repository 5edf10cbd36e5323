"""Packs whose sheets have recipes of their own, and issues that ask before a failing file goes out."""

from __future__ import annotations

import csv
import io
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path

import httpx
import pikepdf
import pytest

from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import edit, ended, file_of, pack, send, sheet_of
from tests.conftest import Running, write_step
from tests.core.modelled import pin_in_plate


def operators(data: bytes, page: int) -> list[str]:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        return [str(operator) for _, operator in pikepdf.parse_content_stream(pdf.pages[page])]


def set_recipe(client: httpx.Client, job: int, sheet: str, recipe: str) -> None:
    edit(client, job, kind="change_sheet", sheet=sheet, fields={"recipe": recipe})


@pytest.fixture(scope="module")
def mixed(running: Running, plate_step: Path) -> tuple[int, str, str]:
    """Two sheets of a plate, the second by the cutter's recipe."""
    client, job = running.client, new_job(running)
    source = bring_in(running, job, plate_step)
    shop = sheet_of(client, job, "Drawing", "A3", source, "front")
    cut = sheet_of(client, job, "Cut", "A3", source, "top")
    edit(client, job, kind="change_sheet", sheet=cut, fields={"clean": True, "recipe": "cutter"})
    return job, shop, cut


def test_each_sheet_goes_out_by_its_own_recipe(running: Running, mixed: tuple[int, str, str]) -> None:
    client, (job, shop, cut) = running.client, mixed
    pack(client, job, [shop, cut])
    preview = client.post(f"/api/jobs/{job}/issues/preview", json={"pack": "shop"}).json()
    assert preview["recipes"] == [{"sheet": shop, "message": "Shop drawing"}, {"sheet": cut, "message": "Cutter"}]
    found = ended(client, send(client, job))
    assert (found["state"], found["recipe"]) == ("done", "each sheet's own")
    data = file_of(client, found)
    # the drawing has text, the cutter's page none, and one width of line
    assert "Tj" in operators(data, 0)
    assert "Tj" not in operators(data, 1)
    assert operators(data, 1).count("w") == 1
    report = client.get(f"/api/issues/{found['id']}/files/{found['files'][0]['id']}/report").json()
    assert report["pages"][1]["max_line_width_mm"] == pytest.approx(0.0254, abs=1e-4)
    assert {check["page"] for check in report["checks"] if check["code"] == "strokes"} == {1, 2}
    assert [check["page"] for check in report["checks"] if check["code"] == "open"] == [2]
    # a recipe of the pack stands for all
    pack(client, job, [shop, cut], recipe="grey")
    preview = client.post(f"/api/jobs/{job}/issues/preview", json={"pack": "shop"}).json()
    assert {row["message"] for row in preview["recipes"]} == {"Review print, greyscale"}


def test_an_archive_does_not_go_into_one_file_with_others(running: Running, mixed: tuple[int, str, str]) -> None:
    client, (job, shop, cut) = running.client, mixed
    set_recipe(client, job, shop, "archive")
    pack(client, job, [shop, cut])
    preview = client.post(f"/api/jobs/{job}/issues/preview", json={"pack": "shop"}).json()
    assert preview["problems"][0].startswith("Drawing would be archived and the other sheets not")
    assert client.post(f"/api/jobs/{job}/issues", json={"pack": "shop"}).status_code == 422
    pack(client, job, [shop, cut], files="each", pattern="{title}")
    assert client.post(f"/api/jobs/{job}/issues/preview", json={"pack": "shop"}).json()["problems"] == []
    set_recipe(client, job, shop, "")


@pytest.mark.long
def test_the_command_line_does_the_same(
    running: Running, mixed: tuple[int, str, str], skalto: Callable[..., subprocess.CompletedProcess[str]], tmp_path: Path
) -> None:
    client, (job, shop, cut) = running.client, mixed
    pack(client, job, [shop, cut])
    zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{job}/file.zip").content)).extractall(tmp_path)
    (file,) = tmp_path.glob("*.skalto.json")
    made = skalto("pack", file, "--pack", "For the shop", "--out", tmp_path / "a.pdf")
    assert made.returncode == 0, made.stderr + made.stdout
    assert "Cut is written by the recipe Cutter." in made.stdout
    assert "Tj" in operators((tmp_path / "a.pdf").read_bytes(), 0)
    assert "Tj" not in operators((tmp_path / "a.pdf").read_bytes(), 1)
    made = skalto("job", "export", file, "--out", tmp_path / "b.pdf")
    assert made.returncode == 0, made.stderr + made.stdout
    assert "Tj" not in operators((tmp_path / "b.pdf").read_bytes(), 1)


def test_a_failing_check_asks_before_it_is_issued_and_is_marked(running: Running, tmp_path: Path) -> None:
    """A pin in a hole of its own size, by the kernel's hidden lines, which draw the rim behind it."""
    client, job = running.client, new_job(running)
    source = bring_in(running, job, write_step(pin_in_plate(0.0), tmp_path / "pin.step"))
    sheet = "pictorial"
    edit(client, job, kind="add_sheet", sheet={"id": sheet, "name": "Pictorial", "format": "A3"})
    wish = {"source": source, "name": "iso", "look": [1, 1, -1], "up": [0, 0, 1], "sheet": sheet}
    view = client.post(f"/api/jobs/{job}/views", json=wish).json()["view"]
    edit(client, job, kind="change_view", sheet=sheet, view=view, fields={"hidden_lines": "kernel"})
    pack(client, job, [sheet])
    issue = send(client, job, note="asked")
    found = ended(client, issue)
    assert found["state"] == "asking"
    assert "drawn as seen, and hidden by what lies in front" in found["error"]
    assert found["files"] == []
    # one that nobody answers can be cancelled; an answer comes once
    other = send(client, job)
    assert ended(client, other)["state"] == "asking"
    assert client.post(f"/api/issues/{other}/cancel").status_code == 204
    assert client.post(f"/api/issues/{other}/accept").status_code == 422
    accepted = client.post(f"/api/issues/{issue}/accept").json()
    assert accepted["state"] == "done"
    assert [file["holds"] for file in accepted["files"]] == [False]
    assert client.post(f"/api/issues/{issue}/accept").status_code == 422
    assert len(client.get(f"/api/issues/{issue}").json()["files"]) == 1
    rows = csv.DictReader(io.StringIO(client.get("/api/issues/register.csv", params={"text": "asked"}).text.lstrip("\ufeff")))
    assert [row["checks"] for row in rows] == ["fail"]
