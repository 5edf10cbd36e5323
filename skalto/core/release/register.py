"""The parts register: one row for each distinct part and assembly of some models."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from pydantic import BaseModel, ConfigDict

from skalto.core.geometry import Array
from skalto.core.release.section import Identity, OwnField
from skalto.core.sources.models.model import Component, FileFacts, ModelTree
from skalto.core.sources.models.parts import SAME, Item, PartFacts, PartKind, items, key_in, said_of

_PLACE = 1e-4
"""Children of equal assemblies are in the same places within this, mm."""


class FoundKind(BaseModel):
    """What was found of a part by its shape: its kind, its thickness where it is a sheet, mm, and of what looks like one and
    has no flat pattern the reason, *unfit*."""

    model_config = ConfigDict(frozen=True)

    kind: PartKind
    thickness: float = 0.0
    unfit: str = ""


@dataclass(frozen=True)
class ModelAtHand:
    """A model of a job: its source's id and name, its tree, and what was found of its parts, by the path of a component."""

    source: str
    name: str
    tree: ModelTree
    found: Mapping[str, FoundKind] = field(default_factory=dict)


class Elsewhere(BaseModel):
    """Where a part is found again: in which source, the first component that is it, and its key there."""

    model_config = ConfigDict(frozen=True)

    source: str
    component: str
    key: str


class PartRow(BaseModel):
    """A distinct part or assembly: its *key* in the job (what is said of it is kept under that), where it is, and all that is
    known of it. *thickness* in mm, *mass* in g, None where they are not known; *size* its extents, mm, the longest first;
    *unfit* why what looks like sheet has no flat pattern, '' where it has one, looks like none, or somebody has said what it
    is; *opposite* the key of the part before it that it is the opposite hand of."""

    model_config = ConfigDict(frozen=True)

    key: str
    source: str
    component: str
    components: tuple[str, ...]
    kind: PartKind
    mark: str = ""
    name: str
    description: str = ""
    number: str = ""
    revision: str = ""
    material: str = ""
    finish: str = ""
    thickness: float | None = None
    density: float = 0.0
    mass: float | None = None
    size: tuple[float, float, float] = (0.0, 0.0, 0.0)
    fields: dict[str, str] = {}
    elsewhere: tuple[Elsewhere, ...] = ()
    quantity: int
    identity: Identity
    unfit: str = ""
    opposite: str = ""

    @property
    def keys(self) -> tuple[str, ...]:
        """All keys that it has in the job."""
        return tuple(dict.fromkeys((self.key, *(own.key for own in self.elsewhere))))

    @property
    def bought(self) -> bool:
        return self.kind is PartKind.BOUGHT

    def values(self) -> dict[str, str]:
        """All properties as words, for names of files, tables and title blocks."""
        return {
            "mark": self.mark, "name": self.name, "description": self.description, "number": self.number,
            "revision": self.revision, "material": self.material, "finish": self.finish,
            "thickness": "" if self.thickness is None else f"{self.thickness:.6g}",
            "kind": self.kind.value, "quantity": str(self.quantity),
            "mass": "" if self.mass is None else f"{self.mass:.6g}", **self.fields,
        }  # fmt: skip


def likeness(identity: Identity) -> object:
    """What equal parts share to the letter: only those that share it need be compared."""
    return identity.children, identity.faces, identity.told, identity.material.casefold(), len(identity.fingerprint)


def same_identity(one: Identity, other: Identity) -> bool:
    """Whether two parts are equal; see :func:`skalto.core.sources.models.parts.same_part`."""
    if (one.children, one.faces, one.told) != (other.children, other.faces, other.told):
        return False
    if one.material.casefold() != other.material.casefold() or len(one.fingerprint) != len(other.fingerprint):
        return False
    if not one.fingerprint:
        return bool(one.children) or (bool(one.content) and one.content == other.content)
    a, b = np.array(one.fingerprint), np.array(other.fingerprint)
    close = np.abs(a[:-1] - b[:-1]) <= SAME * np.maximum(np.abs(a[:-1]), np.abs(b[:-1]))
    return bool(close.all() and abs(a[-1] - b[-1]) < SAME)


def opposite_hands(one: Identity, other: Identity) -> bool:
    """Whether one part is the other seen in a mirror, and no movement brings it onto that."""
    if not one.fingerprint or not other.fingerprint or same_identity(one, other):
        return False
    turned = (*other.fingerprint[:-1], -other.fingerprint[-1])
    return same_identity(one, other.model_copy(update={"fingerprint": turned}))


def _with_hands(rows: Sequence[PartRow]) -> list[PartRow]:
    """Rows that say of which earlier one they are the opposite hand."""
    alike: dict[object, list[PartRow]] = {}
    found = []
    for row in rows:
        near = alike.setdefault(likeness(row.identity), [])
        hand = next((own.key for own in near if opposite_hands(own.identity, row.identity)), "")
        near.append(row)
        found.append(row.model_copy(update={"opposite": hand}) if hand else row)
    return found


def register(models: Sequence[ModelAtHand], said: Mapping[str, PartFacts], own: Sequence[OwnField] = ()) -> list[PartRow]:
    """The rows of some models, those of one model after the other: assemblies first, then made parts, then bought ones. A part
    that is in two models has one row.

    :param said: what people say, by key. :param own: the house's own fields.
    """
    rows: list[PartRow] = []
    alike: dict[object, list[int]] = {}
    keys: set[str] = set()
    for model in models:
        reader = _Reader(model, said, own)
        for row in reader.rows():
            near = alike.setdefault(likeness(row.identity), [])
            same = next((n for n in near if same_identity(rows[n].identity, row.identity)), None)
            if same is None:
                near.append(len(rows))
                rows.append(reader.under_own_key(row, keys))
                keys.add(rows[-1].key)
                continue
            known = rows[same]
            elsewhere = known.elsewhere
            if (row.source, row.key) != (known.source, known.key):
                elsewhere = (*elsewhere, Elsewhere(source=row.source, component=row.component, key=row.key))
            rows[same] = known.model_copy(update={"quantity": known.quantity + row.quantity, "elsewhere": elsewhere})
    return _with_hands(rows)


@dataclass(frozen=True, eq=False)
class _Reader:
    """Reads the rows of one model."""

    model: ModelAtHand
    said: Mapping[str, PartFacts]
    own: Sequence[OwnField]

    def rows(self) -> list[PartRow]:
        parts = [self._part(item) for item in items(self.model.tree, self.said)]
        return [*self._assemblies(parts), *parts]

    def under_own_key(self, row: PartRow, taken: Collection[str]) -> PartRow:
        """A row under a key of its own, where another model's part of its name is another part."""
        if row.key not in taken:
            return row
        key = key_in(self.model.tree, row.key)
        if key in taken:
            key = f"{key} ({row.kind.value})"
        if key in self.said:
            return row.model_copy(update={"key": key})
        # what was said under the name was said of the other
        return row.model_copy(update={"key": key, "mark": "", "number": "", "name": row.key, "description": "", "revision": ""})

    def _facts(self, key: str, part: str) -> PartFacts:
        """What people say of a part, and where they say nothing the file."""
        said, told = said_of(self.said, self.model.tree, key), self.model.tree.told_of(part)
        if told == FileFacts():
            return said
        fields = {f.name: value for f in self.own if (value := _typed(f, told.of(f.name)))}
        return said.model_copy(
            update={
                "number": said.number or told.number,
                "description": said.description or told.description,
                "revision": said.revision or (told.revision or told.of("revision"))[:12],
                "finish": said.finish or told.of("finish", "surface finish")[:80],
                "fields": fields | said.fields,
            }
        )

    def _told(self, facts: PartFacts) -> tuple[tuple[str, str], ...]:
        values = [("finish", facts.finish.strip().casefold())]
        values += [(f.name, facts.fields.get(f.name, "").casefold()) for f in self.own if f.compared]
        return tuple(row for row in values if row[1])

    def _own_values(self, facts: PartFacts) -> dict[str, str]:
        return {f.name: facts.fields.get(f.name, "") for f in self.own}

    @cached_property
    def _leaves(self) -> dict[str, Component]:
        return {leaf.path: leaf for leaf in self.model.tree.leaves()}

    def _part(self, item: Item) -> PartRow:
        first = item.components[0]
        shape = self.model.tree.shapes[self._leaves[first].shape or 0]
        facts, found = self._facts(item.part, self._leaves[first].part), self.model.found.get(first)
        kind = facts.kind or (PartKind.BOUGHT if item.bought or item.fastener else found.kind if found else PartKind.MADE)
        thickness = facts.thickness or (found.thickness if found else 0.0)
        sides = sorted((b - a for a, b in zip(shape.low, shape.high, strict=True)), reverse=True)
        return PartRow(
            key=item.part, source=self.model.source, component=first, components=item.components, kind=kind, mark=facts.mark,
            name=item.name, description=facts.description, number=item.number, revision=facts.revision,
            material=item.material, finish=facts.finish, thickness=round(thickness, 6) if thickness else None,
            density=item.density, mass=item.mass, size=(sides[0], sides[1], sides[2]), fields=self._own_values(facts),
            quantity=item.quantity, unfit=found.unfit if found and facts.kind is None and kind is not PartKind.BOUGHT else "",
            identity=Identity(
                faces=shape.faces, fingerprint=shape.fingerprint, material=item.material, told=self._told(facts),
                content=shape.content,
            ),
        )  # fmt: skip

    def _assemblies(self, parts: Sequence[PartRow]) -> list[PartRow]:
        """Distinct assemblies: those are equal that have the same children in the same places."""
        row_of = {path: row for row in parts for path in row.components}
        groups: dict[str, list[Component]] = {}

        def name_of(component: Component) -> str:
            if component.shape is not None:
                known = row_of.get(component.path)
                return repr((known.identity.content, known.material.casefold(), known.identity.told)) if known else "curve"
            back = np.linalg.inv(component.matrix())
            children = sorted((name_of(child), _rounded(back @ child.matrix())) for child in component.children)
            whole = repr((children, self._told(self._facts(component.part, component.part))))
            name = hashlib.sha256(whole.encode()).hexdigest()[:32]
            groups.setdefault(name, []).append(component)
            return name

        for component in self.model.tree.components:
            name_of(component)
        # the whole before what it is made of
        return [self._assembly(name, group, row_of) for name, group in reversed(groups.items())]

    def _assembly(self, name: str, group: Sequence[Component], row_of: Mapping[str, PartRow]) -> PartRow:
        first = group[0]
        facts = self._facts(first.part, first.part)
        masses = [row_of[own.path].mass for own in first.walk() if own.path in row_of]
        known = [mass for mass in masses if mass is not None]
        sides = sorted(first.size, reverse=True)
        return PartRow(
            key=first.part, source=self.model.source, component=first.path, components=tuple(own.path for own in group),
            kind=PartKind.ASSEMBLY, mark=facts.mark, name=facts.name or first.part, description=facts.description,
            number=facts.number, revision=facts.revision, finish=facts.finish,
            mass=sum(known) if known and len(known) == len(masses) else None, size=(sides[0], sides[1], sides[2]),
            fields=self._own_values(facts), quantity=len(group),
            identity=Identity(children=name, told=self._told(facts)),
        )  # fmt: skip


def _typed(field: OwnField, text: str) -> str:
    """What a file says of a field of the house's own; '' where it does not fit."""
    try:
        return field.read(text)
    except ValueError:
        return ""


def _rounded(placement: Array) -> list[list[int]]:
    """A placement in steps, so that what is equal but for rounding is equal."""
    steps: list[list[int]] = np.floor(placement[:3] / _PLACE + 0.3137).astype(np.int64).tolist()
    return steps
