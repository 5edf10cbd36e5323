"""Tasks of cutting: flat parts found, profiles made, parts arranged, a finished file run in the stand-in cutter."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import orjson

from skalto.core.cutting.choices import PlacedProfile
from skalto.core.cutting.decorations import Decoration
from skalto.core.cutting.section import CutList
from skalto.core.progress import Progress
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.model import Component
from skalto.core.viewpoint import STANDARD
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.services.stored.context import ContextSpec
from skalto.store.blobs import Blobs

if TYPE_CHECKING:
    from skalto.services.results.profiles import ShapePlate


class FindFlatParts(TaskArgument):
    """Which parts of a model are flat plates."""

    source: str

    @property
    def key(self) -> str:
        return keys.model_key(self.source, "flat-parts-3")


class MakeProfiles(TaskArgument):
    """The profiles of a cutting list's parts with what is drawn on them, and the *decorations* on its plates themselves."""

    cut_list: CutList
    decorations: tuple[Decoration, ...] = ()

    @property
    def key(self) -> str:
        # what comes of it goes by the place of each part: other lists have other ids for the same parts
        parts = [
            (part.name, keys.plain(part.origin), [keys.plain(own) for own in part.decorations]) for part in self.cut_list.parts
        ]
        return f"profiles/all-{keys.digest(parts, [keys.plain(own) for own in self.decorations])}"


class ArrangeParts(TaskArgument):
    """The parts of a cutting list to be arranged, in so many *seconds* at most, with a *seed*; those *pinned* stay, each on its
    plate."""

    cut_list: CutList
    pinned: tuple[tuple[int, PlacedProfile], ...] = ()
    seconds: float = 20.0
    seed: int = 1

    @property
    def key(self) -> str:
        return f"arrangements/{keys.digest(keys.plain(self))}"


class RunInCutter(TaskArgument):
    """A page of a finished file to run in the stand-in cutter; the *context* says what it should be."""

    file: str
    suffix: str
    page: int
    sheet: SheetSpec
    context: ContextSpec

    @property
    def key(self) -> str:
        return f"runs/{keys.digest(self.file, self.page, keys.plain(self.context))}"


@task(FindFlatParts, "readying")
def find_flat_parts(asked: FindFlatParts, blobs: str, report: Progress) -> None:
    """Each part of a model with its thickness where it is a flat plate, and why not where it is none."""
    from skalto.core.sources.models.parts import items
    from skalto.services.results.flat import unfolded_thickness
    from skalto.services.results.profiles import shape_plates
    from skalto.services.stored.context import load_tree

    store = Blobs(blobs)
    tree = load_tree(store, asked.source)
    leaves = {leaf.path: leaf for leaf in tree.leaves()}
    shapes = [leaf.shape for leaf in leaves.values() if leaf.shape is not None]
    plates = shape_plates(store, asked.source, shapes, report)
    rows = []
    for item in items(tree, {}):
        leaf = leaves[item.components[0]]
        assert leaf.shape is not None, "leaves have shapes"
        own = plates[leaf.shape]
        rows.append(
            {
                "component": leaf.path, "components": item.components, "name": item.name, "quantity": item.quantity,
                "material": tree.shapes[leaf.shape].material, "bought": item.bought,
                "thickness": own.thickness, "why_not": own.why_not, "faces": _faces(own, leaf),
                "unfolds": unfolded_thickness(store, asked.source, leaf.shape) if own.why_not else 0.0,
            }
        )  # fmt: skip
    store.put(f"{asked.key}.json", orjson.dumps(rows))


def _faces(own: ShapePlate, leaf: Component) -> list[dict[str, object]]:
    """Flat faces, each with the standard view that looks at it, where one does."""
    turn = leaf.matrix()[:3, :3]
    rows: list[dict[str, object]] = []
    for face in own.faces:
        towards = turn @ np.array(face.normal)
        seen = next((name for name, view in STANDARD.items() if np.dot(view.look, towards) < -1 + 1e-6), "")
        rows.append({"number": face.number, "area": face.area, "seen_from": seen})
    return rows


@task(MakeProfiles, "drawing")
def make_profiles(asked: MakeProfiles, blobs: str, report: Progress) -> None:
    """Profiles where they are not there yet, each as a picture with what is known of it, in the order of the parts."""
    from skalto.services.results.profiles import make_excerpts, part_profile, picture_of, picture_of_decoration
    from skalto.services.stored.profiles import load_excerpts

    store = Blobs(blobs)
    rows = []
    drawn = (*asked.decorations, *(own for part in asked.cut_list.parts for own in part.decorations))
    make_excerpts(store, drawn)
    excerpts = load_excerpts(store, drawn)
    for number, part in enumerate(asked.cut_list.parts):
        report(number / len(asked.cut_list.parts), f"Making the profile of {part.name}")
        rows.append(picture_of(part_profile(store, part, report), part, excerpts))
    on_plates = [picture_of_decoration(own, excerpts) for own in asked.decorations]
    store.put(f"{asked.key}.json", orjson.dumps({"parts": rows, "on_plates": on_plates}))


@task(ArrangeParts, "arranging")
def arrange_parts(asked: ArrangeParts, blobs: str, report: Progress) -> None:
    """An arrangement; while it gets better the best so far stands beside it. :raises InputError: when nothing can be laid."""
    from skalto.core.cutting.laying import laying_of
    from skalto.core.cutting.packing.search import arrangements
    from skalto.services.results.cutting import arranged
    from skalto.services.results.profiles import make_profiles as make
    from skalto.services.stored.profiles import load_profiles

    store = Blobs(blobs)
    make(store, asked.cut_list.parts, report)
    laying = laying_of(asked.cut_list, load_profiles(store, asked.cut_list.parts), asked.pinned)
    for number, found in enumerate(arrangements(laying, asked.seconds, asked.seed)):
        own = arranged(asked.cut_list, laying, found)
        store.put(f"{asked.key}.{'json' if found.last else 'best'}", orjson.dumps(own))
        report(min(0.99, number / 200), f"Arranging: {own['summary']}")
    store.drop(f"{asked.key}.best")


@task(RunInCutter, "looking")
def run_in_cutter(asked: RunInCutter, blobs: str, report: Progress) -> None:
    """What came of the run, and its film."""
    from skalto.core.checks.cut_pieces import run_page
    from skalto.core.pages.composition import compose
    from skalto.services.results.cutting import film_of

    report(0.1, "Running the file in the stand-in cutter")
    store = Blobs(blobs)
    cut = compose(asked.sheet, {}, asked.context.built(store, ())).cut
    assert cut is not None, "it is a plate"
    made = run_page(store.get(asked.file), asked.suffix, cut, asked.page)
    store.put(f"{asked.key}.json", orjson.dumps(film_of(made)))
