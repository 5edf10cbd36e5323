"""Jobs and their history in the database; migrations."""

import errno
import importlib
import sqlite3
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path

import pytest
from peewee import SqliteDatabase

from skalto.core.errors import InputError, Moved, NotThere, StoreFull
from skalto.core.job import FORM, JobDocument
from skalto.store import jobs, migrations
from skalto.store.blobs import Blobs, content_hash
from skalto.store.migrations import names
from skalto.store.tables import TABLES, Step, database


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Path]:
    path = tmp_path / "skalto.db"
    jobs.open_database(path)
    yield path
    database.close()


def changed(job: int, name: str, label: str) -> jobs.StoredJob:
    """A change of the job as it stands."""
    return jobs.add_step(job, _named(name), label, jobs.get_job(job))


def _named(name: str) -> JobDocument:
    return JobDocument(name=name)


def test_undo_and_redo_walk_the_history(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    assert (job.undo, job.redo, job.number) == ("", "", "0001")
    changed(job.id, "two", "rename")
    changed(job.id, "three", "rename again")
    back = jobs.move_head(job.id, -1)
    assert (back.document.name, back.undo, back.redo) == ("two", "rename", "rename again")
    assert jobs.move_head(job.id, 1).document.name == "three"
    jobs.move_head(job.id, -1)
    jobs.move_head(job.id, -1)
    with pytest.raises(InputError, match="nothing to undo"):
        jobs.move_head(job.id, -1)
    # a new change takes the place of what was undone
    assert changed(job.id, "other", "rename").redo == ""
    with pytest.raises(InputError, match="nothing to redo"):
        jobs.move_head(job.id, 1)


def test_a_state_is_named_by_what_is_in_it(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    second = changed(job.id, "two", "rename")
    assert jobs.move_head(job.id, -1).state == job.state
    # a change after an undo has the number of what was undone, but not its state
    other = changed(job.id, "other", "rename")
    assert other.step == second.step
    assert len({job.state, second.state, other.state}) == 3


def test_a_change_of_what_has_moved_is_not_kept(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    changed(job.id, "two", "rename")
    with pytest.raises(Moved, match="changed meanwhile"):
        jobs.add_step(job.id, _named("lost"), "rename", job)
    # after an undo the step's number comes again with another document
    seen = jobs.get_job(job.id)
    jobs.move_head(job.id, -1)
    changed(job.id, "other", "rename")
    with pytest.raises(Moved):
        jobs.add_step(job.id, _named("lost"), "rename", seen)
    assert jobs.get_job(job.id).document.name == "other"


def test_many_at_once_lose_nothing(store: Path) -> None:
    """Threads, each with a connection of its own, without the lock that the web process has beside."""
    job = jobs.create_job(_named("x"))

    def add(letter: str) -> None:
        for _ in range(10):
            while True:
                seen = jobs.get_job(job.id)
                try:
                    jobs.add_step(job.id, _named(seen.document.name + letter), "letter", seen)
                    break
                except Moved:
                    continue

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(add, "abcd"))
    name = jobs.get_job(job.id).document.name
    assert sorted(name) == sorted("x" + "abcd" * 10)


def test_an_undo_is_of_what_was_seen_and_of_ones_own(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    jobs.person.set("ann")
    seen = changed(job.id, "two", "rename")
    jobs.person.set("bo")
    there = changed(job.id, "three", "rename to three")
    assert (there.undo_other, there.redo_other) == (False, False)
    jobs.person.set("ann")
    assert jobs.get_job(job.id).undo_other
    with pytest.raises(Moved, match=r"changed meanwhile \(rename to three\)"):
        jobs.move_head(job.id, -1, seen.step)
    with pytest.raises(Moved, match=r"Someone else did this \(rename to three\)"):
        jobs.move_head(job.id, -1, there.step)
    assert jobs.get_job(job.id).document.name == "three"
    back = jobs.move_head(job.id, -1, there.step, anyway=True)
    assert (back.document.name, back.redo_other) == ("two", True)
    with pytest.raises(Moved, match="Someone else"):
        jobs.move_head(job.id, 1, back.step)
    jobs.person.set("")


def test_an_id_and_a_number_are_never_given_again(store: Path) -> None:
    first, second = jobs.create_job(_named("one")), jobs.create_job(_named("two"))
    jobs.delete_job(second.id)
    third = jobs.create_job(_named("three"))
    assert (third.id, third.number) == (3, "0003")
    for job in (first, third):
        jobs.delete_job(job.id)
    again = jobs.create_job(_named("four"))
    assert (again.id, again.number) == (4, "0004")
    with pytest.raises(NotThere):
        jobs.add_step(third.id, _named("lost"), "rename", third)
    # so it is with every row that has an id
    coming = jobs.add_incoming(again.id, "0" * 64, "a.step", 1)
    jobs.remove_incoming(coming.id)
    assert jobs.add_incoming(again.id, "0" * 64, "a.step", 1).id == coming.id + 1
    rows = database.execute_sql("SELECT name, sql FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
    assert all("AUTOINCREMENT" in sql for _, sql in rows.fetchall())


def _of_form_7(path: Path) -> None:
    """A database of before ids were kept: job 1 was deleted after two issues, and another has its id."""
    old = SqliteDatabase(str(path))
    for number, name in enumerate(migrations.names()[:7], 1):
        importlib.import_module(f"skalto.store.migrations.{name}").forward(old)
        old.execute_sql(f"PRAGMA user_version = {number}")
    row = "INSERT INTO issue VALUES (?, ?, '0001', ?, '', '', '', 'A', '', 'done', '', '{}', '', ?, NULL)"
    old.execute_sql("INSERT INTO job VALUES (1, '0001', 0, '2026-05-01 10:00:00', '2026-05-01 10:00:00', '')")
    document = JobDocument(name="new").model_dump_json()
    step = "INSERT INTO step VALUES (1, 1, 0, 'new job', ?, '2026-05-01 10:00:00', '')"
    old.execute_sql(step, (document,))
    for own, job, name, began in (
        (1, 1, "old", "2026-04-01 10:00:00"), (2, 1, "new", "2026-05-02 10:00:00"), (3, 5, "gone", "2026-04-02 10:00:00"),
    ):  # fmt: skip
        old.execute_sql(row, (own, job, name, began))
        old.execute_sql("INSERT INTO issuedsheet VALUES (?, ?, ?, 's', '')", (own, own, job))
    old.close()


def test_what_a_deleted_job_left_is_not_taken_for_the_next_ones(tmp_path: Path) -> None:
    _of_form_7(tmp_path / "old.db")
    jobs.open_database(tmp_path / "old.db")
    # the deleted job's issue has an id of its own now, over all that were ever given
    assert database.execute_sql("SELECT id, job FROM issue ORDER BY id").fetchall() == [(1, 6), (2, 1), (3, 5)]
    assert database.execute_sql("SELECT issue_id, job FROM issuedsheet ORDER BY id").fetchall() == [(1, 6), (2, 1), (3, 5)]
    assert jobs.create_job(_named("next")).id == 7
    assert database.execute_sql("PRAGMA foreign_key_check").fetchall() == []
    assert database.execute_sql("PRAGMA foreign_keys").fetchone() == (1,)


def test_a_newer_database_is_refused_and_left_as_it_is(tmp_path: Path) -> None:
    jobs.open_database(tmp_path / "new.db")
    here = len(migrations.names())
    database.execute_sql(f"PRAGMA user_version = {here + 3}")
    database.close()
    with pytest.raises(InputError, match=rf"newer release: its database is of form {here + 3}.+ up to form {here}"):
        jobs.open_database(tmp_path / "new.db")
    assert database.execute_sql("PRAGMA user_version").fetchone() == (here + 3,)


def test_a_job_that_cannot_be_read_is_told_alone(store: Path) -> None:
    whole = jobs.create_job(_named("whole"))
    for text, told in (
        (f'{{"form": {FORM + 1}, "name": "later", "unheard_of": 1}}', f"newer release, in form {FORM + 1}"),
        ('{"name": "odd", "unheard_of": 1}', "unheard_of"),
        ("no JSON", "cannot be read"),
    ):
        job = jobs.create_job(_named("broken"))
        Step.update(document=text).where(Step.job == job.id).execute()
        listed = {row.id: row for row in jobs.list_jobs()}
        assert told in listed[job.id].problem
        assert listed[job.id].document.name in ("later", "odd", f"Job {job.number}")
        assert (listed[whole.id].problem, listed[whole.id].document.name) == ("", "whole")
        with pytest.raises(InputError, match="cannot be read"):
            jobs.get_job(job.id)
        # nothing of it is lost: what is there stays until it is deleted
        assert Step.get(Step.job == job.id).document == text
        jobs.delete_job(job.id)


def test_times_carry_their_zone(store: Path) -> None:
    assert jobs.create_job(_named("one")).changed.utcoffset() == timedelta(0)


@pytest.mark.parametrize(
    "key", ["../up", "files/../../up", "/etc/passwd", "files//x", "files/.hidden", "", "a\\b", "files/x/", "a\0b", "a b", "ü"]
)
def test_no_key_leads_out_of_the_store(key: str, tmp_path: Path) -> None:
    (tmp_path / "up").write_bytes(b"secret")
    blobs = Blobs(str(tmp_path / "blobs"))
    for ask in (blobs.get, blobs.exists, blobs.drop, lambda k: blobs.put(k, b"x"), lambda k: blobs.fetch(k, tmp_path / "got")):
        with pytest.raises(KeyError):
            ask(key)
    assert (tmp_path / "up").read_bytes() == b"secret"
    assert [p.name for p in tmp_path.iterdir() if p.name not in ("up", "blobs")] == []


def test_what_has_no_room_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    blobs = Blobs(str(tmp_path))
    blobs.put("kept", b"as it was")

    def full(path: str, data: bytes) -> None:
        Path(path).write_bytes(data[:3])
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(blobs._files, "pipe_file", full)
    with pytest.raises(StoreFull, match="The disk is full"):
        blobs.put("kept", b"anew, and more")
    assert [p.name for p in tmp_path.iterdir()] == ["kept"]
    assert blobs.get("kept") == b"as it was"


def test_history_outlives_a_restart(store: Path) -> None:
    job = jobs.create_job(_named("one"))
    changed(job.id, "two", "rename")
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
        assert (str(sheet.scale), sheet.views[0].place, sheet.views[0].overrides) == ("1:2", (10, 20), frozenset())
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
