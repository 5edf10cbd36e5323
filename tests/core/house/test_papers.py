"""The papers say what is so: the examples are run, the reference is that of the code, and links lead somewhere."""

from __future__ import annotations

import re
import shlex
import subprocess
import sys
from pathlib import Path

import pytest

from skalto.demo.__main__ import main as write_demo_files
from tools.reference import PAPER, written

ROOT = Path(__file__).parents[3]
PAPERS = sorted([*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")])
EXAMPLES = re.findall(r"```\n\$ skalto ([^\n]*)\n(.*?)```", (ROOT / "README.md").read_text(encoding="utf-8"), re.DOTALL)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("examples")
    write_demo_files(folder)
    return folder


@pytest.mark.parametrize(("line", "output"), EXAMPLES, ids=[line.partition(" --out")[0] for line, _ in EXAMPLES])
def test_the_examples_of_the_readme_give_what_it_says(files: Path, line: str, output: str) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "skalto.cli", *shlex.split(line)], cwd=files, capture_output=True, text=True, check=False
    )
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout == output


def test_there_are_five_examples() -> None:
    assert len(EXAMPLES) == 5


def test_the_reference_of_the_command_line_is_that_of_the_code() -> None:
    paper = PAPER.read_text(encoding="utf-8")
    assert written(paper) == paper, "docs/cli.md is stale: run make docs"
    assert "### skalto job export" in paper
    assert "`--hidden-lines` facets" in paper


@pytest.mark.parametrize("paper", PAPERS, ids=lambda paper: str(paper.relative_to(ROOT)))
def test_links_lead_somewhere(paper: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)[^)]*\)", paper.read_text(encoding="utf-8")):
        if not target.startswith(("http:", "https:")):
            assert (paper.parent / target).exists(), target


def test_the_guide_lists_all_its_pages_and_every_picture_is_shown() -> None:
    guide = ROOT / "docs" / "guide"
    listed = set(re.findall(r"\(([\w-]+\.md)\)", (guide / "index.md").read_text(encoding="utf-8")))
    assert listed == {page.name for page in guide.glob("*.md")} - {"index.md"}
    pictures = {picture.name for picture in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert len(pictures) < 20
    shown = {name for paper in PAPERS for name in re.findall(r"screenshots/([\w-]+\.png)", paper.read_text(encoding="utf-8"))}
    assert shown == pictures


def test_the_list_of_decisions_counts_them() -> None:
    folder = ROOT / "docs" / "decisions"
    rows = re.findall(r"\| \[[^\]]+\]\(([^)]+)\) \| (\d+) \|", (folder / "README.md").read_text())
    assert {name: int(count) for name, count in rows} == {
        path.name: len(re.findall(r"(?m)^## ", path.read_text())) for path in folder.glob("*.md") if path.name != "README.md"
    }
