"""The wheel: one file with the page, the viewer and the fonts in it, which serves the demo where there is no Node."""

from __future__ import annotations

import os
import re
import signal
import site
import subprocess
import sys
import time
import venv
import zipfile
from pathlib import Path

import httpx
import pytest

from tests.machines import free_port
from tools.wheel import PAGE, build

pytestmark = pytest.mark.long


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    if not (PAGE / "index.html").exists():
        pytest.skip("the page is not built")
    return build(tmp_path_factory.mktemp("wheel"))


def test_it_holds_all_that_is_shown(wheel: Path) -> None:
    names = set(zipfile.ZipFile(wheel).namelist())
    built = {f"skalto/page/{path.relative_to(PAGE).as_posix()}" for path in PAGE.rglob("*") if path.is_file()}
    assert built <= names
    assert any(name.startswith("skalto/fonts/") and name.endswith(".ttf") for name in names)
    metadata = zipfile.ZipFile(wheel).read(next(name for name in names if name.endswith("METADATA"))).decode()
    assert "Requires-Dist: cadquery-ocp-novtk" in metadata


def test_installed_alone_it_serves_the_demo(wheel: Path, tmp_path: Path) -> None:
    """In an environment of its own, which finds the libraries of this one but not this one's Skalto, and no Node."""
    place = tmp_path / "environment"
    venv.create(place)
    own = next((place / "lib").glob("python*/site-packages"))
    python = place / "bin" / "python"
    pip = [sys.executable, "-m", "pip", "--python", str(python), "install", "--quiet", "--no-deps", str(wheel)]
    subprocess.run(pip, check=True)
    (own / "libraries.pth").write_text("\n".join(site.getsitepackages()))
    around = {"PATH": str(place / "bin"), "HOME": str(tmp_path), "TMPDIR": os.environ.get("TMPDIR", "/tmp")}
    ask = [python, "-c", "import skalto; print(skalto.__file__)"]
    where = subprocess.run(ask, capture_output=True, text=True, cwd=tmp_path, env=around, check=True)  # type: ignore[arg-type]
    assert str(own) in where.stdout
    port = free_port()
    command = [str(place / "bin" / "skalto"), "serve", "--demo", "--data", str(tmp_path / "data"), "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=around, cwd=tmp_path, start_new_session=True)
    try:
        assert server.stdout is not None
        assert any("Skalto is at" in line for line in server.stdout)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client:
            page = client.get("/").text
            script = re.search(r'src="(/assets/[^"]+\.js)"', page)
            assert script is not None
            assert client.get(script[1]).status_code == 200
            end = time.monotonic() + 120
            while not any(job["document"]["name"] == "Ebba press" for job in client.get("/api/jobs").json()):
                assert time.monotonic() < end, "the demo was not made"
                time.sleep(0.5)
    finally:
        os.killpg(server.pid, signal.SIGINT)
        server.wait(20)


def test_without_the_page_it_says_what_to_do(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tools.wheel.PAGE", tmp_path / "nowhere")
    with pytest.raises(SystemExit, match="run make setup first"):
        build(tmp_path)
