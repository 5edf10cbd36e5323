"""What all jobs share, in versions: template sheets and release rules."""

from __future__ import annotations

from typing import Any, Generic, TypeVar

from pydantic import BaseModel

from skalto.core.errors import InputError, NotThere
from skalto.store.tables import SharedVersion, connected, database
from skalto.store.telling import tell

Shared = TypeVar("Shared", bound=BaseModel)


def _name(value: BaseModel) -> str:
    plain: Any = value
    return str(plain.name).casefold()


class SharedStore(Generic[Shared]):
    """Values of one *kind* that have an ``id``, a ``name`` and a ``version``; *called* is what one is in a sentence."""

    def __init__(self, kind: str, of: type[Shared], called: str) -> None:
        self.kind, self._of, self._called = kind, of, called

    def kept(self) -> list[Shared]:
        """The last version of each, by name."""
        with connected():
            rows = SharedVersion.select().where(SharedVersion.kind == self.kind).order_by(SharedVersion.version)
            last = {row.shared: row for row in rows}
        found = [self._of.model_validate_json(row.document) for row in last.values() if not row.gone]
        return sorted(found, key=_name)

    def keep(self, value: Shared) -> Shared:
        """Keep a value as the next version of its id; unchanged, it stays the version that it is.

        :raises InputError: when another has its name.
        """
        plain: Any = value
        with connected(), database.atomic("IMMEDIATE"):
            for other in self.kept():
                known: Any = other
                if known.id != plain.id and known.name.casefold() == plain.name.casefold():
                    raise InputError(f"There is a {self._called} {plain.name} already: choose another name.")
                if known.id == plain.id and known.model_copy(update={"version": plain.version}) == plain:
                    return other
            last = self._last(plain.id)
            made = value.model_copy(update={"version": last.version + 1 if last is not None else 1})
            version: Any = made
            SharedVersion.create(kind=self.kind, shared=plain.id, version=version.version, document=made.model_dump_json())
        tell("settings", 0)
        return made

    def remove(self, shared: str) -> None:
        """Take one away; what was made with it keeps its copy. :raises NotThere: when there is none."""
        with connected(), database.atomic("IMMEDIATE"):
            row = self._last(shared)
            if row is None or row.gone:
                raise NotThere(f"This {self._called} is no longer kept: choose another.")
            row.gone = True
            row.save()
        tell("settings", 0)

    def _last(self, shared: str) -> Any:
        rows = SharedVersion.select().where((SharedVersion.kind == self.kind) & (SharedVersion.shared == shared))
        return rows.order_by(SharedVersion.version.desc()).first()
