"""The tables, as peewee models. Their shape changes through :mod:`skalto.store.migrations` alone."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any

from peewee import (
    AutoField,
    BooleanField,
    CharField,
    DatabaseProxy,
    DateTimeField,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)

database = DatabaseProxy()


@contextmanager
def connected() -> Iterator[None]:
    """With this thread's connection, which stays open: the last one that closes has SQLite put all its log into the file."""
    database.connect(reuse_if_open=True)
    yield


def now() -> datetime:
    """This moment, UTC, without a zone as SQLite keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


def aware(moment: datetime) -> datetime:
    """A moment of the database with its zone, so that it is written as RFC 3339 has it."""
    return moment.replace(tzinfo=UTC)


class _Table(Model):  # type: ignore[misc]
    class Meta:
        database = database


class Job(_Table):
    """A job: *number* for people, *head* the step of its history that is in force, *listed* the one whose sheets are listed as
    drawings."""

    id: Any = AutoField()
    number: Any = CharField(unique=True)
    head: Any = IntegerField(default=0)
    listed: Any = CharField(default="")
    created: Any = DateTimeField(default=now)
    changed: Any = DateTimeField(default=now)


class Step(_Table):
    """A state of a job's document (JSON); step 0 is its beginning, *label* says what led to it, *person* whose browser did."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="steps", on_delete="CASCADE")
    number: Any = IntegerField()
    label: Any = CharField()
    document: Any = TextField()
    made: Any = DateTimeField(default=now)
    person: Any = CharField(default="")

    class Meta:
        indexes = ((("job", "number"), True),)


class Incoming(_Table):
    """A file on its way into a job: *source* its content's hash, *state* reading, failed or cancelled, *replaces* the source
    whose newer revision it is, or ''."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="incoming", on_delete="CASCADE")
    source: Any = CharField()
    name: Any = CharField()
    size: Any = IntegerField()
    state: Any = CharField(default="reading")
    error: Any = TextField(default="")
    replaces: Any = CharField(default="")
    came: Any = DateTimeField(default=now)
    person: Any = CharField(default="")


class Proof(_Table):
    """A finished file of a sheet: *key* names its blobs, *content* all that the sheet showed, '' where that is not known."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="proofs", on_delete="CASCADE")
    sheet: Any = CharField()
    key: Any = CharField()
    content: Any = CharField(default="")
    made: Any = DateTimeField(default=now)


class OwnFormat(_Table):
    """A sheet format that people here keep under a name; *size* as it is typed."""

    id: Any = AutoField()
    name: Any = CharField(unique=True)
    size: Any = CharField()


class CutterSettings(_Table):
    """The cutter's settings (JSON), in one row."""

    id: Any = AutoField()
    document: Any = TextField()


class RecipeVersion(_Table):
    """A version of a recipe (JSON), under the id that all its versions have; *gone* once the recipe was taken away."""

    id: Any = AutoField()
    recipe: Any = CharField()
    version: Any = IntegerField()
    document: Any = TextField()
    gone: Any = BooleanField(default=False)
    made: Any = DateTimeField(default=now)

    class Meta:
        indexes = ((("recipe", "version"), True),)


class Issue(_Table):
    """A sending-out of a pack, kept when its job is gone: *plan* is all that it was made from (JSON), *secret* the passwords
    until it has ended, *state* running, done, failed or cancelled."""

    id: Any = AutoField()
    job: Any = IntegerField()
    job_number: Any = CharField()
    job_name: Any = CharField()
    pack: Any = CharField()
    pack_id: Any = CharField()
    purpose: Any = CharField()
    revision: Any = CharField()
    note: Any = TextField(default="")
    state: Any = CharField(default="running", index=True)
    error: Any = TextField(default="")
    plan: Any = TextField()
    secret: Any = TextField(default="")
    began: Any = DateTimeField(default=now)
    ended: Any = DateTimeField(null=True)


class IssuedFile(_Table):
    """A file of an issue: *key* names its blob, *hash* is the SHA-256 of its bytes."""

    id: Any = AutoField()
    issue: Any = ForeignKeyField(Issue, backref="files", on_delete="CASCADE")
    name: Any = CharField()
    key: Any = CharField()
    hash: Any = CharField()
    size: Any = IntegerField()
    pages: Any = IntegerField()
    holds: Any = BooleanField()


class IssuedSheet(_Table):
    """A sheet of an issue, and all that it showed (*content*), '' where that is not known."""

    id: Any = AutoField()
    issue: Any = ForeignKeyField(Issue, backref="sheets", on_delete="CASCADE")
    job: Any = IntegerField(index=True)
    sheet: Any = CharField()
    content: Any = CharField(default="")


class Drawing(_Table):
    """A sheet of a job as the register of drawings lists it (JSON), and a short name for all that it shows."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="drawings", on_delete="CASCADE")
    sheet: Any = CharField()
    content: Any = CharField()
    document: Any = TextField()


class SharedVersion(_Table):
    """A version of something that all jobs share (JSON), of a *kind*, under the id that all its versions have; *gone* once it
    was taken away."""

    id: Any = AutoField()
    kind: Any = CharField()
    shared: Any = CharField()
    version: Any = IntegerField()
    document: Any = TextField()
    gone: Any = BooleanField(default=False)
    made: Any = DateTimeField(default=now)

    class Meta:
        indexes = ((("kind", "shared", "version"), True),)


class StateChange(_Table):
    """A line of the log of states, never changed: a *subject* of a job (``part:…`` or ``sheet:…``) came into a *state* at a
    *revision*."""

    id: Any = AutoField()
    job: Any = IntegerField(index=True)
    subject: Any = CharField()
    state: Any = CharField()
    revision: Any = CharField(default="")
    person: Any = CharField(default="")
    note: Any = TextField(default="")
    made: Any = DateTimeField(default=now)


class Release(_Table):
    """A release of a job's files into an outbox: by which *rules* (JSON), *state* running, paused, done, failed or cancelled;
    *whole* where all of the job was released."""

    id: Any = AutoField()
    job: Any = IntegerField(index=True)
    job_number: Any = CharField()
    job_name: Any = CharField()
    rules: Any = TextField()
    outbox: Any = CharField()
    whole: Any = BooleanField(default=True)
    person: Any = CharField(default="")
    note: Any = TextField(default="")
    state: Any = CharField(default="running", index=True)
    error: Any = TextField(default="")
    began: Any = DateTimeField(default=now)
    ended: Any = DateTimeField(null=True)


class ReleaseFile(_Table):
    """A file of a release: its *path* in the outbox, its *work* (JSON), *state* waiting, working, made, kept, failed or
    cancelled; the higher its *priority* the sooner; *log* says what became of it, a line each time; *subject* is what it is
    of, a kind and an id (``sheet:…``)."""

    id: Any = AutoField()
    release: Any = ForeignKeyField(Release, backref="files", on_delete="CASCADE")
    path: Any = CharField()
    kind: Any = CharField()
    called: Any = CharField()
    work: Any = TextField()
    state: Any = CharField(default="waiting")
    priority: Any = IntegerField(default=0)
    share: Any = FloatField(default=0.0)
    text: Any = CharField(default="")
    error: Any = TextField(default="")
    log: Any = TextField(default="")
    about: Any = TextField()
    began: Any = DateTimeField(null=True)
    ended: Any = DateTimeField(null=True)
    subject: Any = CharField(default="", index=True)

    class Meta:
        indexes = ((("release", "state"), False),)


class JobSource(_Table):
    """A source that a job has, or had in a state that undo goes back to."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="sources", on_delete="CASCADE")
    source: Any = CharField(index=True)

    class Meta:
        indexes = ((("job", "source"), True),)


class Made(_Table):
    """A result under its *key*, and the *sources* that it is made from, with blanks between."""

    id: Any = AutoField()
    key: Any = CharField(unique=True)
    sources: Any = TextField()


class Orphan(_Table):
    """A source or a result that nothing refers to, and since when that is known."""

    id: Any = AutoField()
    what: Any = CharField(unique=True)
    since: Any = DateTimeField(default=now)


class About(_Table):
    """What is to be known of the database itself: ``database`` is its own name."""

    id: Any = AutoField()
    name: Any = CharField(unique=True)
    value: Any = CharField()


class SignedOut(_Table):
    """A session that was ended, by its name, and the second since 1970 until which it would have held."""

    id: Any = AutoField()
    name: Any = CharField(unique=True)
    until: Any = IntegerField()


TABLES = (
    Job, Step, Incoming, Proof, OwnFormat, CutterSettings, RecipeVersion, Issue, IssuedFile, IssuedSheet, Drawing,
    SharedVersion, StateChange, Release, ReleaseFile, JobSource, Made, Orphan, About, SignedOut,
)  # fmt: skip
