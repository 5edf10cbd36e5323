"""Jobs and their history in the database; migrations."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.store import jobs
from skalto.store.blobs import Blobs, content_hash
from skalto.store.migrations import names
from skalto.store.tables import TABLES, database


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Path]:
    path = tmp_path / "skalto.db"
    jobs.open_database(path)
    yield path
    database.close()


def _named(name: str) -> JobDocument:
    return JobDocument(name=name)


def test_undo_and_redo_walk_the_history(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    assert (job.undo, job.redo, job.number) == ("", "", "0001")
    jobs.add_step(job.id, _named("two"), "rename")
    jobs.add_step(job.id, _named("three"), "rename again")
    back = jobs.move_head(job.id, -1)
    assert (back.document.name, back.undo, back.redo) == ("two", "rename", "rename again")
    assert jobs.move_head(job.id, 1).document.name == "three"
    jobs.move_head(job.id, -1)
    jobs.move_head(job.id, -1)
    with pytest.raises(InputError, match="nothing to undo"):
        jobs.move_head(job.id, -1)
    # a new change takes the place of what was undone
    assert jobs.add_step(job.id, _named("other"), "rename").redo == ""
    with pytest.raises(InputError, match="nothing to redo"):
        jobs.move_head(job.id, 1)


def test_a_state_is_named_by_what_is_in_it(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    second = jobs.add_step(job.id, _named("two"), "rename")
    assert jobs.move_head(job.id, -1).state == job.state
    # a change after an undo has the number of what was undone, but not its state
    other = jobs.add_step(job.id, _named("other"), "rename")
    assert other.step == second.step
    assert len({job.state, second.state, other.state}) == 3


def test_history_outlives_a_restart(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    jobs.add_step(job.id, _named("two"), "rename")
    database.close()
    jobs.open_database(store)
    assert jobs.get_job(job.id).document.name == "two"
    assert jobs.move_head(job.id, -1).document.name == "one"


def test_a_deleted_job_is_gone_with_its_steps(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    jobs.delete_job(job.id)
    with pytest.raises(InputError, match="no such job"):
        jobs.get_job(job.id)
    with sqlite3.connect(store) as plain:
        assert plain.execute("SELECT count(*) FROM step").fetchone() == (0,)


def test_migrations_make_the_tables_that_the_code_expects(store: Path) -> None:
    with sqlite3.connect(store) as plain:
        assert plain.execute("PRAGMA user_version").fetchone() == (len(names()),)
        for table in TABLES:
            found = {row[1] for row in plain.execute(f'PRAGMA table_info("{table._meta.table_name}")')}
            assert found == {field.column_name for field in table._meta.sorted_fields}


def test_a_database_of_the_first_release_is_brought_forward(tmp_path: Path) -> None:
    """The first release's tables with a job in them, as its own statements made them."""
    import importlib

    path = tmp_path / "old.db"
    first = importlib.import_module("skalto.store.migrations.m0001_first")
    document = (
        '{"name":"Old","sources":[],"sheets":[{"id":"s","name":"Sheet 1","format":"A3","orientation":"landscape","frame":"iso",'
        '"views":[{"id":"v","source":"x","name":"top","look":[0,0,-1],"up":[0,1,0],"scale":"1:2","anchor":[0,0],'
        '"place":[10,20],"hidden":[],"classes":["visible","outline"]}]}]}'
    )
    with sqlite3.connect(path) as plain:
        for statement in first._STATEMENTS:
            plain.execute(statement)
        plain.execute("PRAGMA user_version = 1")
        plain.execute("INSERT INTO job VALUES (1, '0001', 0, '2026-11-01 08:00:00', '2026-11-01 08:00:00')")
        plain.execute("INSERT INTO step VALUES (1, 1, 0, 'new job', ?, '2026-11-01 08:00:00')", (document,))
        plain.execute("INSERT INTO incoming VALUES (1, 1, 'x', 'a.step', 5, 'reading', '', '2026-11-01 08:00:00')")
    jobs.open_database(path)
    try:
        sheet = jobs.get_job(1).document.sheet("s")
        assert (sheet.scale, sheet.views[0].place, sheet.views[0].own) == ("1:2", (10, 20), frozenset())
        assert jobs.all_reading()[0].replaces == ""
        jobs.keep_format("Label", "90x60mm")
        jobs.keep_format("Label", "100x60mm")
        assert jobs.own_formats() == {"Label": "100x60mm"}
        jobs.drop_format("Label")
        assert jobs.own_formats() == {}
    finally:
        database.close()


def test_migrating_twice_changes_nothing(store: Path) -> None:
    jobs.create_job(_named("kept"))
    database.close()
    jobs.open_database(store)
    assert [job.document.name for job in jobs.list_jobs()] == ["kept"]


def test_blobs(tmp_path: Path) -> None:
    blobs = Blobs(str(tmp_path / "blobs"))
    key = f"files/{content_hash(b'abc')}"
    assert not blobs.exists(key)
    blobs.put(key, b"abc")
    assert blobs.get(key) == b"abc"
    with pytest.raises(KeyError):
        blobs.get("files/none")
    assert not list((tmp_path / "blobs").rglob("*.part"))
