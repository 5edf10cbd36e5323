"""The cutter's settings that people keep, shared by all jobs."""

from __future__ import annotations

from skalto.core.cutter.machine import Machine
from skalto.store.tables import CutterSettings, connected, database
from skalto.store.telling import tell

_ROW = 1


def kept_machine() -> Machine:
    """The cutter as it is kept, or as it ships."""
    with connected():
        row = CutterSettings.get_or_none(CutterSettings.id == _ROW)
        return Machine() if row is None else Machine.model_validate_json(row.document)


def keep_machine(machine: Machine) -> None:
    """Keep the cutter's settings."""
    with connected(), database.atomic("IMMEDIATE"):
        text = machine.model_dump_json()
        kept = CutterSettings.insert(id=_ROW, document=text)
        kept.on_conflict(conflict_target=[CutterSettings.id], update={"document": text}).execute()
    tell("settings", 0)
