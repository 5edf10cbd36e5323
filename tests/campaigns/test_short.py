"""Short forms of the campaigns, and the worst files that the long ones found."""

from __future__ import annotations

import contextlib
import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import psutil
import pytest

from tests.campaigns import disk, releases
from tests.campaigns.crowd import Crowd
from tests.campaigns.interface import run as ask_all
from tests.campaigns.kills import Campaign
from tests.campaigns.mutants import mutant, wrong
from tests.campaigns.seeds import FORMATS, all_seeds
from tests.campaigns.trying import Tried
from tests.conftest import Running

pytestmark = pytest.mark.long

CORPUS = Path(__file__).parent / "corpus"
REFUSED = {
    "array.dxf": "would draw 1 800 000 000 entities, most of them by block B",
    "nested.dxf": "most of them by block L10",
    "header.dxf": "damaged|recovered",
    "laughs.pdf": "paints more than 200000 forms on page 1",
    "laughs.svg": "repeats itself too often",
    "curve.svg": "draws a place further away",
    "far.svg": "draws a place further away",
    "units.svg": "has units of",
    "nosvg.svg": "is XML, but not SVG",
    "count.gltf": "names 300000000 items",
    "sparse.gltf": "names 300000000 items",
    "buffer.gltf": "names 300000000 items",
    "nan.gltf": "by what are no numbers",
    "lies.stl": "names 4000000000 triangles and holds 1",
    "lies.ply": "holds no surface",
    "endless.brep": "damaged in its shapes",
    "faces.brep": "it counts other faces",
    "kernel.brep": "the kernel cannot build it",
    "corners.glb": "names corners that it does not hold",
    "corners.gltf": "names corners that it does not hold",
    "away.obj": "308 mm away",
    "away.step": "308 mm away",
    "flat.obj": "without three coordinates",
}
"""What is said of files that cannot be used; the others are written."""


def test_the_worst_files_end_in_a_sentence_and_soon(tmp_path: Path) -> None:
    files = sorted(CORPUS.iterdir())
    assert set(REFUSED) <= {file.name for file in files}
    child = Tried()
    child.warm()
    try:
        for file in files:
            outcome = child.file(file, tmp_path / "out.pdf")
            assert outcome.kind in ("written", "refused"), (file.name, outcome)
            assert outcome.seconds < 30, (file.name, outcome)
            assert wrong(outcome) == "", (file.name, outcome)
            if file.name in REFUSED:
                assert any(words in outcome.said for words in REFUSED[file.name].split("|")), (file.name, outcome.said)
    finally:
        child.close()


def test_mutants_of_every_format_end_in_a_sentence(tmp_path: Path) -> None:
    """A few of each, after the whole file that they are damaged copies of; what the kernel crashes on is one sentence too, and
    the next file is none the worse."""
    seeds = all_seeds()
    child = Tried()
    endings = {"recipe": ".recipe", "pens": ".pens"}
    try:
        for format_ in FORMATS:
            path = tmp_path / f"file{endings.get(format_, '.' + format_)}"
            path.write_bytes(seeds[format_])
            assert child.file(path, tmp_path / "out.pdf").kind == "written", format_
            for number in range(1 if format_ in ("step", "iges", "brep") else 5):
                chance = random.Random(f"short {format_} {number}")
                path.write_bytes(mutant(seeds[format_], seeds[chance.choice(FORMATS)], chance))
                outcome = child.file(path, tmp_path / "out.pdf")
                assert wrong(outcome) == "", (format_, number, outcome)
    finally:
        child.close()


def test_kills_lose_nothing_that_was_acknowledged(tmp_path: Path) -> None:
    campaign = Campaign(tmp_path / "data", seed=1, drafters=3)
    for victim in ("process", "workers", "server", "all"):
        campaign.kill(victim)
    done = campaign.end()
    assert done["acknowledged"]["edits"] > 20
    # an edit that was not kept would be noticed, and half a file too
    campaign.drafters[0].acknowledged += 100
    with pytest.raises(AssertionError, match="is lost"):
        campaign.check()
    campaign.drafters[0].acknowledged -= 100
    # so would a job that is back, and an id that is given again
    assert done["acknowledged"]["deleted"] > 2
    campaign.leaver.gone.append(campaign.drafters[0].job)
    with pytest.raises(AssertionError, match=str(campaign.drafters[0].job)):
        campaign.check()
    campaign.leaver.gone.pop()
    whole = next((tmp_path / "data" / "blobs" / "files").iterdir())
    whole.write_bytes(whole.read_bytes()[:100])
    with pytest.raises(AssertionError, match="half a file"):
        campaign.check()


def test_the_whole_interface_answers_as_described(tmp_path: Path) -> None:
    server = Running(tmp_path / "data")
    try:
        statuses, faults = ask_all(server, tmp_path, 1)
    finally:
        server.interrupt()
    assert faults == []
    assert sum(statuses.values()) > 60
    assert statuses["200"] > 10


def test_several_at_once_lose_nothing(running: Running, tmp_path: Path) -> None:
    crowd = Crowd(running, 2, tmp_path)
    crowd.run(8, 4)
    # how many are done in the time is for the machine to say
    assert sum(crowd.acknowledged.values()) > 2
    assert (crowd.lost(), dict(crowd.refused)) == (0, {})
    assert all(len(found) == 1 for found in crowd.files.values())


def test_a_disk_that_is_full(tmp_path: Path) -> None:
    mounts = subprocess.run(["mount", "-t", "tmpfs", "tmpfs", str(tmp_path)], check=False, capture_output=True)
    if mounts.returncode:
        pytest.skip("nothing can be mounted here")
    subprocess.run(["umount", str(tmp_path)], check=True)
    disk.full_disk(tmp_path)


def test_a_database_that_a_backup_holds(running: Running) -> None:
    job = running.client.post("/api/jobs", json={"name": "Held"}).json()["id"]
    edit = {"kind": "rename_job", "name": "Freed"}
    with contextlib.closing(sqlite3.connect(running.data / "skalto.db", isolation_level=None)) as backup:
        backup.execute("BEGIN EXCLUSIVE")
        answer = running.client.post(f"/api/jobs/{job}/edits", json=edit)
        assert (answer.status_code, answer.json()["detail"]) == (503, disk.HELD)
        assert running.client.get(f"/api/jobs/{job}").json()["document"]["name"] == "Held"
        backup.execute("COMMIT")
    assert running.client.post(f"/api/jobs/{job}/edits", json=edit).status_code == 200


@pytest.mark.parametrize("preload", ["", "json"])
def test_a_child_does_not_outlive_its_parent_in_the_kernel_s_longest_loop(tmp_path: Path, preload: str) -> None:
    """A call into C that never gives Python its turn back, and the parent killed meanwhile; begun anew or forked."""
    script = (
        f"import json, sys\nfrom skalto.jobs.child import Child\nchild = Child({preload!r})\n"
        "child.run('tests.campaigns.test_short:quick', {}, lambda s, t: None, lambda: False)\n"
        "print(child.pid, flush=True)\n"
        "child.run('tests.campaigns.test_short:stuck', {}, lambda s, t: None, lambda: False)\n"
    )
    parent = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    pid = int(json.loads(parent.stdout.readline()))
    time.sleep(1)
    assert psutil.pid_exists(pid)
    os.kill(parent.pid, signal.SIGKILL)
    parent.wait()
    end = time.monotonic() + 5
    while _lives(pid):
        assert time.monotonic() < end, "it lives on"
        time.sleep(0.1)


def _lives(pid: int) -> bool:
    with contextlib.suppress(psutil.Error):
        return bool(psutil.Process(pid).status() != psutil.STATUS_ZOMBIE)
    return False


def quick(report: object) -> None:
    pass


def stuck(report: object) -> None:
    import ctypes

    ctypes.PyDLL(None).sleep(300)


def test_a_release_comes_to_its_end_whoever_is_killed(tmp_path: Path) -> None:
    assert sum(releases.run(3, tmp_path / "data", 1).values()) == 3
