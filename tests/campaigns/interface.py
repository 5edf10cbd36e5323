"""The whole interface by schemathesis, against jobs, sheets and sources that exist: no 5xx, and answers as they are described.

``python -m tests.campaigns.interface [--examples 50]`` starts a server of its own. Of names that schemathesis makes up, most
are put right, so that they are of things that are there; DELETE goes last, so that the others have something to reach.
"""

from __future__ import annotations

import argparse
import random
import tempfile
import warnings
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import hypothesis
import schemathesis
from hypothesis import HealthCheck, Phase

from tests.conftest import Running, plate_with_holes, write_step

OF_OURS = {400, 401, 403, 404, 409, 413, 421, 422, 429}
"""Refusals that every route may give."""

STREAMS = {"/api/events"}
"""Routes that answer for ever; tests/api/test_news.py has them."""


class Known:
    """A job with all that a route may ask for, made through the interface."""

    def __init__(self, client: httpx.Client, folder: Path) -> None:
        from tests.api.test_api import wait_for

        self._client, self._chance = client, random.Random(0)
        self.names: dict[str, list[Any]] = {}
        job = client.post("/api/jobs", json={"name": "Known"}).json()["id"]
        step, dxf = write_step(plate_with_holes(), folder / "plate.step"), folder / "plan.dxf"
        from tests.campaigns.seeds import make

        made = make("dxf", folder)
        made.rename(dxf)
        for path in (step, dxf):
            client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
        sources = wait_for(lambda: len(s := client.get(f"/api/jobs/{job}").json()["document"]["sources"]) == 2 and s)
        model, plan = (next(s["id"] for s in sources if s["name"] == path.name) for path in (step, dxf))
        wish = {"source": model, "name": "front", "look": [0, 1, 0], "up": [0, 0, 1], "sheet": None}
        placed = client.post(f"/api/jobs/{job}/views", json=wish).json()
        field = client.post(f"/api/jobs/{job}/fields", json={"source": model}).json()
        client.post(
            f"/api/jobs/{job}/edits", json={"kind": "keep_pack", "pack": {"id": "p", "name": "P", "sheets": [placed["sheet"]]}}
        )
        client.post(f"/api/jobs/{job}/sheets/{placed['sheet']}/proof")
        issue = client.post(f"/api/jobs/{job}/issues", json={"pack": "p", "purpose": "review", "revision": "A"}).json()
        self.names = {
            "job_id": [job], "source": [model, plan], "sheet": [placed["sheet"], field.get("sheet")], "view": [placed["view"]],
            "field": [field.get("field")], "annotation": [field.get("field")],
            "pack": ["p"], "recipe": ["shop", "cutter"], "pens": ["shop-1"],
            "issue": [issue.get("id")], "space": [""], "dimension": ["x"],
        }  # fmt: skip

    def put_into(self, case: Any) -> None:
        """Give a made-up request names of things that are there, half of the time."""
        for place in (case.path_parameters, case.query):
            for name in list(place or {}):
                if name in self.names and self._chance.random() < 0.7:
                    place[name] = self._chance.choice(self.names[name])
        body = case.body
        if isinstance(body, dict):
            for name in list(body):
                if name in self.names and isinstance(body[name], str) and self._chance.random() < 0.7:
                    body[name] = self._chance.choice(self.names[name])


def run(server: Running, folder: Path, examples: int) -> tuple[Counter[str], list[str]]:
    """Ask every route so many times; the statuses, and what was wrong with an answer."""
    warnings.simplefilter("ignore")
    known = Known(server.client, folder)
    schema = schemathesis.openapi.from_url(f"{server.address}/api/openapi.json")
    statuses: Counter[str] = Counter()
    faults: list[str] = []
    operations = [result.ok() for result in schema.get_all_operations()]
    operations.sort(key=lambda operation: operation.method.upper() == "DELETE")
    for operation in operations:
        if operation.path in STREAMS:
            continue
        own: dict[str, str] = {}
        _asked(operation, server.address, examples, known, statuses, own)
        faults += [f"{operation.method.upper()} {operation.path}: {wrong}\n    {how}" for wrong, how in own.items()]
    return statuses, faults


def _asked(
    operation: Any, address: str, examples: int, known: Known, statuses: Counter[str], own: dict[str, str]
) -> None:  # fmt: skip
    """Ask one route; what was wrong goes into *own*, with how to ask for it again."""

    @hypothesis.settings(
        max_examples=examples, database=None, deadline=None, phases=[Phase.generate], derandomize=True,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @hypothesis.given(case=operation.as_strategy())
    def ask(case: Any) -> None:
        known.put_into(case)
        try:
            answer = case.call(base_url=address, timeout=60)
        except Exception as error:  # what a client library itself refuses to send
            statuses[type(error).__name__] += 1
            return
        statuses[str(answer.status_code)] += 1
        wrong = _wrong(case, answer)
        if wrong:
            own[wrong] = case.as_curl_command()[:400]

    ask()


def _wrong(case: Any, answer: Any) -> str:
    if answer.status_code >= 500 and answer.status_code not in (503, 507):
        return f"{answer.status_code} {answer.text[:80]}"
    if answer.status_code in OF_OURS:
        told = answer.json().get("detail") if "json" in answer.headers.get("content-type", [""])[0] else None
        return "" if isinstance(told, str) and told else f"{answer.status_code} without a sentence"
    try:
        case.operation.schema[case.operation.path][case.operation.method.upper()].validate_response(answer)
    except Exception as error:
        if "Invalid Schema Object" in str(error):
            # schemathesis makes a form of its own of rows of rows (prefixItems within items), and refuses that
            return ""
        return f"not as described: {' '.join(str(error).split())[:300]}"
    return ""


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--examples", type=int, default=50)
    given = ask.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        server = Running(Path(folder) / "data")
        try:
            statuses, faults = run(server, Path(folder), given.examples)
        finally:
            server.interrupt()
            log = server.log.read_text()
            errors = [line for line in log.splitlines() if line and not line[0].isspace() and "Error" in line]
            print("\n".join(dict.fromkeys(errors)))
    print(f"{sum(statuses.values())} requests: {dict(sorted(statuses.items()))}")
    for fault in faults:
        print(fault)
    print(f"{len(faults)} answers were not as promised")
    raise SystemExit(1 if faults else 0)


if __name__ == "__main__":
    main()
