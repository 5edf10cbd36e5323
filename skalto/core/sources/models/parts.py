"""The parts of an assembly: which components are the same part, what each weighs, and what class it is of."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from enum import StrEnum
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from skalto.core.job_section import JobSection
from skalto.core.sources.models.model import Component, ModelTree, ShapeFacts
from skalto.core.typed import Line

SAME = 1e-6
"""Relative: how far two volumes, areas or moments may differ in equal parts."""

FASTENERS = re.compile(r"\b(screw|bolt|nut|washer|stud|rivet|dowel|circlip|split pin|retaining ring)s?\b", re.IGNORECASE)
SHAFTS = re.compile(r"\b(shaft|axle|spindle|rod|pin|roller)s?\b", re.IGNORECASE)
BOUGHT = re.compile(r"\bbought\b|\bstandard part\b", re.IGNORECASE)
"""Classes by the words in a part's name, where nobody has said otherwise (common practice, no source)."""


class PartKind(StrEnum):
    """What a part is to whoever makes it."""

    PLATE = "plate"
    BENT = "bent sheet"
    ROLLED = "rolled sheet"
    TURNED = "turned"
    PROFILE = "profile"
    MADE = "part"
    BOUGHT = "bought"
    ASSEMBLY = "assembly"


class PartFacts(BaseModel):
    """What a person says of a part or an assembly; None or '' where the model is to say it. *mark* is what the part goes by
    in balloons, lists and file names; *density* is in g/cm³, *thickness* in mm; *fields* are the house's own, by name."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Line = Field(default="", max_length=120)
    number: Line = Field(default="", max_length=60)
    material: Line = Field(default="", max_length=80)
    density: float | None = Field(default=None, ge=0, le=30)
    bought: bool | None = None
    fastener: bool | None = None
    mark: Line = Field(default="", max_length=40)
    description: Line = Field(default="", max_length=200)
    revision: Line = Field(default="", max_length=12)
    finish: Line = Field(default="", max_length=80)
    kind: PartKind | None = None
    thickness: float | None = Field(default=None, gt=0, le=1000)
    fields: dict[Annotated[Line, Field(max_length=40)], Annotated[Line, Field(max_length=200)]] = {}


class PartSection(JobSection):
    """What a person says of the job's parts, and the colours of components, each by the key of the part or component."""

    parts: dict[str, PartFacts] = Field(default={})
    colours: dict[str, str] = Field(default={})


class Item(BaseModel):
    """A part of an assembly: its item number, the components that are it, and what a parts list says of it.

    *mass* is grams each, None without a density.
    """

    model_config = ConfigDict(frozen=True)

    item: int
    part: str
    name: str
    number: str
    mark: str = ""
    material: str
    density: float
    volume: float
    mass: float | None
    bought: bool
    fastener: bool
    shaft: bool
    colour: str
    components: tuple[str, ...]

    @property
    def quantity(self) -> int:
        return len(self.components)


def same_part(a: ShapeFacts, b: ShapeFacts) -> bool:
    """Whether one shape can be moved onto the other, as far as their integrals tell; a mirrored one cannot."""
    if not a.fingerprint or not b.fingerprint or a.faces != b.faces:
        return False
    first, second = np.array(a.fingerprint), np.array(b.fingerprint)
    close = np.abs(first[:-1] - second[:-1]) <= SAME * np.maximum(np.abs(first[:-1]), np.abs(second[:-1]))
    return bool(close.all() and abs(first[-1] - second[-1]) < SAME)


def key_in(tree: ModelTree, key: str) -> str:
    """The key of a part in one model alone, where another model of the job has one of its name."""
    return f"{key}@{tree.file}"


def said_of(facts: Mapping[str, PartFacts], tree: ModelTree, key: str) -> PartFacts:
    """What people say of a part of a model, by its key."""
    return facts.get(key_in(tree, key), facts.get(key, PartFacts()))


def material_of(tree: ModelTree, part: str, shape: ShapeFacts) -> str:
    """The material that a file gives a part: that of its shape, or a property that is called so."""
    return shape.material or tree.told_of(part).of("material")


def told_apart(one: PartFacts, other: PartFacts) -> bool:
    """Whether what is said of two parts of one shape makes them two: another material or finish. What nothing is said of is
    like the other."""
    return any(
        a and b and a.strip().casefold() != b.strip().casefold()
        for a, b in ((one.material, other.material), (one.finish, other.finish))
    )


def _groups(tree: ModelTree, leaves: Sequence[Component], said: Mapping[str, PartFacts]) -> list[list[Component]]:
    """Leaves by part, in tree order: those of one shape, and those whose shapes are congruent and whose materials agree."""
    groups: list[list[Component]] = []
    group_of: dict[tuple[int, str], int] = {}
    nothing = PartFacts()
    for leaf in leaves:
        shape = leaf.shape
        assert shape is not None
        if (shape, leaf.part) not in group_of:
            facts, own = tree.shapes[shape], said.get(leaf.part, nothing)
            for number, group in enumerate(groups):
                other = tree.shapes[group[0].shape or 0]
                materials = (material_of(tree, part, of) for part, of in ((leaf.part, facts), (group[0].part, other)))
                alike = group[0].shape == shape or (same_part(facts, other) and len(set(materials)) == 1)
                if alike and not told_apart(own, said.get(group[0].part, nothing)):
                    group_of[shape, leaf.part] = number
                    break
            else:
                group_of[shape, leaf.part] = len(groups)
                groups.append([])
        groups[group_of[shape, leaf.part]].append(leaf)
    return groups


def _plain(name: str) -> str:
    """A part's name without its mark of being bought."""
    bare = name.rstrip()
    for said in ("(bought)", "(standard part)"):
        if bare.casefold().endswith(said):
            return bare[: -len(said)].rstrip()
    return name


def items(tree: ModelTree, facts: Mapping[str, PartFacts], shown: Sequence[Component] | None = None) -> list[Item]:
    """The parts of a model, made parts first, then bought ones, fasteners last, each kind in tree order; numbered from 1.

    :param facts: what people said, by part name. :param shown: only these leaves; all without.
    """
    found = []
    # loose curves are no parts
    bodies = [leaf for leaf in (tree.leaves() if shown is None else shown) if tree.shapes[leaf.shape or 0].faces]
    called: Counter[str] = Counter()
    for group in _groups(tree, bodies, facts):
        first = group[0]
        shape = tree.shapes[first.shape or 0]
        called[first.part] += 1
        # several parts of one name are told apart
        key = first.part if called[first.part] == 1 else f"{first.part} #{called[first.part]}"
        said = said_of(facts, tree, key)
        density = said.density if said.density is not None else shape.density
        found.append(
            Item(
                item=0,
                part=key,
                name=said.name or _plain(first.part),
                number=said.number or tree.told_of(first.part).number,
                mark=said.mark,
                material=said.material or material_of(tree, first.part, shape),
                density=density,
                volume=shape.volume,
                # mm³ times g/cm³ is a thousandth of a gram
                mass=shape.volume * density / 1000 if density and shape.volume else None,
                bought=said.bought if said.bought is not None else bool(BOUGHT.search(first.part)),
                fastener=said.fastener if said.fastener is not None else bool(FASTENERS.search(first.part)),
                shaft=bool(SHAFTS.search(first.part)) and not FASTENERS.search(first.part),
                colour=first.colour,
                components=tuple(leaf.path for leaf in group),
            )
        )
    found.sort(key=lambda item: (item.fastener, item.bought))
    return [item.model_copy(update={"item": number}) for number, item in enumerate(found, 1)]


def uncut_by_custom(tree: ModelTree, facts: Mapping[str, PartFacts], look: Sequence[float]) -> frozenset[str]:
    """The components that a section leaves whole by custom: fasteners, and shafts that it would cut lengthwise.

    ISO 128-3, from memory.

    :param look: the direction of looking, square to the cutting plane, model axes.
    """
    along = np.asarray(look, float) / np.linalg.norm(look)
    leaves = {leaf.path: leaf for leaf in tree.leaves()}

    def lengthwise(path: str) -> bool:
        leaf = leaves[path]
        shape = tree.shapes[leaf.shape or 0]
        size = np.subtract(shape.high, shape.low)
        axis = leaf.matrix()[:3, int(np.argmax(size))]
        return bool(abs(axis @ along) < 0.5 * np.linalg.norm(axis))

    found = items(tree, facts)
    return frozenset(path for item in found for path in item.components if item.fastener or (item.shaft and lengthwise(path)))
