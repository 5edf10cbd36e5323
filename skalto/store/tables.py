"""The tables, as peewee models. Their shape changes through :mod:`skalto.store.migrations` alone."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from peewee import AutoField, CharField, DatabaseProxy, DateTimeField, ForeignKeyField, IntegerField, Model, TextField

database = DatabaseProxy()


def now() -> datetime:
    """This moment, UTC, without a zone as SQLite keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


class _Table(Model):  # type: ignore[misc]
    class Meta:
        database = database


class Job(_Table):
    """A job: *number* for people, *head* the step of its history that is in force."""

    id: Any = AutoField()
    number: Any = CharField(unique=True)
    head: Any = IntegerField(default=0)
    created: Any = DateTimeField(default=now)
    changed: Any = DateTimeField(default=now)


class Step(_Table):
    """A state of a job's document (JSON); step 0 is its beginning, *label* says what led to it."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="steps", on_delete="CASCADE")
    number: Any = IntegerField()
    label: Any = CharField()
    document: Any = TextField()
    made: Any = DateTimeField(default=now)

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


class Proof(_Table):
    """A finished file of a sheet: *key* names its blobs."""

    id: Any = AutoField()
    job: Any = ForeignKeyField(Job, backref="proofs", on_delete="CASCADE")
    sheet: Any = CharField()
    key: Any = CharField()
    made: Any = DateTimeField(default=now)


class OwnFormat(_Table):
    """A sheet format that people here keep under a name; *size* as it is typed."""

    id: Any = AutoField()
    name: Any = CharField(unique=True)
    size: Any = CharField()


TABLES = (Job, Step, Incoming, Proof, OwnFormat)
