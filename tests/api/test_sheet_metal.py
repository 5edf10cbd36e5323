"""Sheet metal as a page uses it: parts found, unfolded, put on a sheet, dimensioned, proved, cut, and brought in anew."""

from __future__ import annotations

import io
import math
from pathlib import Path
from typing import Any

import ezdxf
import pytest

from skalto.demo.solids import block, cut
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_cutting import refused
from tests.api.test_issues import edit
from tests.conftest import Running
from tests.core.modelled import write_assembly
from tests.core.sheet_metal.shapes import Flat, Turn, cone, folded, rod

LENGTH = 80 + math.pi / 2 * (2 + 0.44 * 2)


def _angle() -> Any:
    angle = folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100)
    return cut(
        angle, rod((20, -5, 50), (0, 1, 0), 10, 20), rod((20, -5, 80), (0, 1, 0), 5, 20), cone((20, 0, 80), (0, 1, 0), 9, 7, 1)
    )


@pytest.fixture(scope="module")
def held(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    folder = tmp_path_factory.mktemp("metal")
    path = write_assembly({"Angle": _angle(), "Lump": block(20, 20, 20)}, folder / "bent.step")
    job = new_job(running, "Bent")
    return job, bring_in(running, job, path)


def _parts(running: Running, source: str) -> dict[str, Any]:
    rows = wait_for(lambda: running.client.get(f"/api/sources/{source}/sheet-metal").json()["parts"])
    return {row["name"]: row for row in rows}


def _pattern(running: Running, source: str, component: str, **choices: Any) -> dict[str, Any]:
    body = {"component": component, "choices": choices}
    got: dict[str, Any] = wait_for(
        lambda: running.client.post(f"/api/sources/{source}/flat-pattern", json=body).json()["pattern"]
    )
    return got


def test_parts_are_told_with_their_kind_and_reason(running: Running, held: tuple[int, str]) -> None:
    parts = _parts(running, held[1])
    assert (parts["Angle"]["kind"], parts["Angle"]["facts"]["thickness"]) == ("bent sheet", 2)
    assert parts["Lump"]["facts"] is None
    assert parts["Lump"]["reason"].endswith(".")


def test_a_pattern_by_any_rule(running: Running, held: tuple[int, str]) -> None:
    _, source = held
    path = _parts(running, source)["Angle"]["component"]
    made = _pattern(running, source, path)
    assert (made["facts"]["width"], made["facts"]["height"]) == pytest.approx((100, LENGTH))
    assert len(made["strips"]) == 3
    typed = _pattern(running, source, path, typed={"1": {"way": "allowance", "value": 5}})
    assert typed["facts"]["height"] == pytest.approx(85)
    refused(running.client.post(f"/api/sources/{source}/flat-pattern", json={"component": "Nobody"}), "no component Nobody")
    lump = _parts(running, source)["Lump"]["component"]

    def failed() -> str | None:
        answer = running.client.post(f"/api/sources/{source}/flat-pattern", json={"component": lump})
        return None if answer.status_code == 200 else str(answer.json()["detail"])

    assert "no flat pattern" in wait_for(failed)


def test_a_bend_table_is_read_and_written(running: Running) -> None:
    rule = running.client.post(
        "/api/bend-tables", json={"text": "thickness,radius,angle,k\n2,2,90,0.4\n", "name": "shop"}
    ).json()
    assert (rule["way"], rule["name"], rule["rows"][0]["value"]) == ("table", "shop", 0.4)
    assert "2.0,2.0,90.0,k,0.4" in running.client.post("/api/bend-tables.csv", json=rule).text
    refused(running.client.post("/api/bend-tables", json={"text": "x\n"}), "names its columns")
    assert running.client.get("/api/bend-tables/example").json()["name"] == "Example"


def test_the_dxf_is_handed_on_under_the_part_s_name(running: Running, held: tuple[int, str]) -> None:
    _, source = held
    path = _parts(running, source)["Angle"]["component"]
    for side_b, name in ((False, "Angle.dxf"), (True, "Angle-side-b.dxf")):
        body = {"spec": {"component": path}, "side_b": side_b}

        def written(body: dict[str, Any] = body) -> Any:
            got = running.client.post(f"/api/sources/{source}/flat-pattern.dxf", json=body)
            return None if got.status_code == 202 else got

        answer = wait_for(written)
        assert name in answer.headers["content-disposition"]
        layers = {e.dxf.layer for e in ezdxf.read(io.StringIO(answer.text)).modelspace()}
        assert {"outline", "openings"} <= layers
        assert ("sunk" in layers) == side_b


def test_on_a_sheet_it_is_dimensioned_changed_and_proved(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    path = _parts(running, source)["Angle"]["component"]
    _pattern(running, source, path)
    placed = running.client.post(f"/api/jobs/{job}/flat-patterns", json={"source": source, "component": path}).json()
    sheet, view = placed["sheet"], placed["view"]
    where = f"/api/jobs/{job}/sheets/{sheet}/views/{view}"
    wait_for(lambda: running.client.get(f"{where}/picture").json()["picture"])
    edges = wait_for(lambda: running.client.get(f"{where}/edges").json())
    assert {edge["shape"] for edge in edges} == {"line", "circle"}
    hole = next(edge for edge in edges if edge["shape"] == "circle")
    answer = running.client.post(f"{where}/dimensions", json={"first": hole["ref"], "second": None, "at": [10, 10]})
    assert answer.status_code == 201, answer.text
    edit(running.client, job, kind="change_view", sheet=sheet, view=view, fields={"holes": {}})

    def report() -> dict[str, Any] | None:
        return running.client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["report"]

    running.client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")
    checks = wait_for(report)["checks"]
    assert [check for check in checks if check["verdict"] == "fails"] == []
    assert any(f"{LENGTH:.2f}"[:5] in check["reading"] for check in checks)
    # a dimension follows the edge when the rule changes
    choices = {"rule": {"way": "deduction", "value": 3.2}}
    edit(running.client, job, kind="change_flat", sheet=sheet, view=view, fields={"choices": choices})
    wait_for(lambda: running.client.get(f"{where}/picture").json()["picture"])
    running.client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")
    checks = wait_for(report)["checks"]
    assert [check for check in checks if check["verdict"] == "fails"] == []
    assert any("84.8" in check["reading"] for check in checks)
    pulled = running.client.post(f"{where}/pulled", json={"at": [10, 200]})
    assert pulled.status_code in (404, 405, 422)


def test_a_bent_part_is_cut_unfolded(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    parts = wait_for(lambda: running.client.get(f"/api/sources/{source}/flat-parts").json()["parts"])
    angle = next(row for row in parts if row["name"] == "Angle")
    assert angle["why_not"]
    assert angle["unfolds"] == pytest.approx(2)
    wish = {
        "source": source, "components": angle["components"], "profiles": {angle["component"]: {"unfolded": {}, "bends": True}},
        "plates": [{"width": 300, "height": 200}],
    }  # fmt: skip
    answer = running.client.post(f"/api/jobs/{job}/cut-lists", json=wish)
    assert answer.status_code == 200, answer.text
    found = answer.json()
    own = next(row for row in found["job"]["document"]["cut_lists"] if row["id"] == found["cut_list"])
    # a plate of which nobody said how thick it is is as thick as what is unfolded
    assert own["plates"][0]["thickness"] == pytest.approx(2)
    profiles = wait_for(lambda: running.client.get(f"/api/jobs/{job}/cut-lists/{own['id']}/profiles").json()["profiles"])
    (picture,) = profiles.values()
    assert picture["box"] == pytest.approx([0, 0, 100, LENGTH], abs=1e-6)
    assert [mark["operation"] for mark in picture["marks"]] == ["score"]


def test_of_a_drawing_nothing_is_unfolded(running: Running, tmp_path: Path) -> None:
    document = ezdxf.new()
    document.modelspace().add_line((0, 0), (10, 0))
    document.saveas(tmp_path / "x.dxf")
    source = bring_in(running, new_job(running, "Drawn"), tmp_path / "x.dxf")
    refused(running.client.get(f"/api/sources/{source}/sheet-metal"), "sheet metal is read from models")
