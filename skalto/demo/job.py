"""The demo job: Ebba as source, and finished sheets of it for the shop and for the cutter."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import orjson

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Array
from skalto.core.job import JobDocument
from skalto.core.layout import families
from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
from skalto.core.layout.arrangement import shown_box
from skalto.core.packs import Pack
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.quantities import Scale
from skalto.core.release.marks import numbered
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.choices import Grouping, SceneChoices
from skalto.core.scene.views import Cut, PreparedView, RenderMode, standard_views
from skalto.core.sheets.annotations import Detail, Dimension, DimensionKind, HoleTable, Note, PartsList, Ref, Section
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import Arrangement, Furniture, SheetSpec, ViewSpec
from skalto.core.sources.models.model import ModelTree
from skalto.core.sources.models.parts import PartFacts, items, uncut_by_custom
from skalto.core.sources.section import SourceRef
from skalto.core.viewpoint import STANDARD
from skalto.demo import parts as p
from skalto.demo.fitout import NAME as PLAN_NAME
from skalto.demo.fitout import fit_out
from skalto.demo.hands import Begin, Hands, work
from skalto.demo.plates import NAME as PLATE_NAME
from skalto.demo.plates import ORNAMENT as ORNAMENT_NAME
from skalto.demo.plates import lay_plates, plates_job
from skalto.demo.rack import NAME as RACK_NAME
from skalto.demo.rack_job import rack_job
from skalto.demo.tasks import MakeFile, make_file
from skalto.services.output.sending import slowest_first
from skalto.services.results.register import model_at_hand, rows_of, with_marks
from skalto.services.stored import keys
from skalto.services.stored.annotations_3d import spec_of
from skalto.services.stored.context import ContextSpec, load_facts
from skalto.services.stored.lines import shade_spec
from skalto.services.tasks.reading import MakeReady, ReadSource, make_source_ready, read_source
from skalto.services.tasks.scenes import MakePoster, make_poster
from skalto.services.tasks.sheet_metal import FindSheets, find_sheets
from skalto.services.tasks.views import ProjectView, ShadeView, project_view, shade_view
from skalto.services.use_cases.desk import overall_dimensions
from skalto.services.use_cases.proofing import Proofing
from skalto.services.use_cases.studio import Studio, short_id
from skalto.store import jobs as store
from skalto.store.blobs import content_hash
from skalto.store.jobs import StoredJob

SOURCE_NAME = "Ebba.step"
_SEEN = (EdgeClass.VISIBLE, EdgeClass.OUTLINE)
_ALL = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.HIDDEN)

TITLE = {
    "owner": "Verkstan print workshop",
    "creator": "A. Lind",
    "approval": "M. Berg",
    "department": "Press group",
    "tolerances": "ISO 2768-m",
    "language": "en",
}
PARTS = {
    "Cheek, left": PartFacts(name="Cheek", number="EB-101"),
    "Tie rod": PartFacts(number="EB-102"),
    "Foot bracket": PartFacts(number="EB-103"),
    "Bed plate": PartFacts(number="EB-104"),
    "Upper roller": PartFacts(number="EB-105"),
    "Lower roller": PartFacts(number="EB-106"),
    "Upper bearing block": PartFacts(number="EB-107"),
    "Lower bearing block": PartFacts(number="EB-108"),
    "Pressure screw": PartFacts(number="EB-109", fastener=False),
    "Crosshead": PartFacts(number="EB-110"),
    "Crank wheel": PartFacts(number="EB-111"),
    "Handle": PartFacts(number="EB-112"),
    "Handle pin": PartFacts(number="EB-113"),
    "Ink tray": PartFacts(number="EB-114"),
}


def middle_of(tree: ModelTree, view: ViewSpec) -> Array:
    """The middle of what a view shows, model mm (3,)."""
    found = shown_box(tree, view.hidden)
    assert found is not None
    middle: Array = (found[0] + found[1]) / 2
    return middle


class _Sheets:
    """Makes sheets of the press; a view of one part shows that part alone."""

    def __init__(self, source: str, facts: SourceFacts) -> None:
        self._source = source
        self._facts = facts
        self._tree: ModelTree = facts.tree

    def middle(self, view: ViewSpec) -> Array:
        """The middle of what a view shows, model mm (3,)."""
        return middle_of(self._tree, view)

    def _path(self, name: str) -> str:
        return next(leaf.path for leaf in self._tree.leaves() if leaf.path.endswith(f"/{name}"))

    def view(
        self, viewpoint: str, scale: Scale, place: tuple[float, float], only: str = "", classes: tuple[EdgeClass, ...] = _SEEN,
        **more: object,
    ) -> ViewSpec:  # fmt: skip
        """A view of all, or of the component whose path ends in *only*, whose middle comes to *place*."""
        look = STANDARD[viewpoint]
        hidden = frozenset(leaf.path for leaf in self._tree.leaves() if only and not leaf.path.endswith(f"/{only}"))
        view = ViewSpec.model_validate(
            {
                "id": short_id(), "source": self._source, "name": viewpoint, "scale": scale, "place": place, "classes": classes,
                "content": ProjectionContent(look=look.look, up=look.up, hidden=hidden), **more,
            }
        )  # fmt: skip
        x, y = (look.axes()[:2] @ self.middle(view)).tolist()
        return view.model_copy(update={"anchor": (x, y)})

    def _pulled(
        self, sheet: SheetSpec, parent: ViewSpec, toward: tuple[float, float], shaded: bool = False, **more: object
    ) -> SheetSpec:
        view = families.pull_view(sheet, parent, short_id(), toward, self.middle)
        if shaded:
            view = view.showing(shaded=True)
        return sheet.with_views((*sheet.views, view.model_copy(update=more)))

    def circle(self, only: str, centre: tuple[float, float], radius: float) -> Ref:
        """The rim of a hole of a part, by where it lies in y and z and by its radius."""
        path = self._path(only)
        own = self._facts.of(path)
        assert own is not None
        wanted = np.array((*centre, radius))
        found = int(np.argmin(np.abs(own.circles[:, [1, 2, 6]] - wanted).max(axis=1)))
        row = own.circles[found]
        return Ref(component=path, edge=int(own.circle_edges[found]), kind="circle", geometry=tuple(row[:7].tolist()))

    def line(self, only: str, middle: tuple[float, float]) -> Ref:
        """The straight edge of a part whose middle lies at a y and z, square to x."""
        path = self._path(only)
        own = self._facts.of(path)
        assert own is not None
        ends = own.lines.reshape(-1, 2, 3)
        off = np.abs(ends.mean(axis=1)[:, 1:] - np.array(middle)).max(axis=1) + 1e3 * (np.ptp(ends[:, :, 0], axis=1) > 1e-6)
        found = int(np.argmin(off))
        return Ref(component=path, edge=int(own.line_edges[found]), kind="line", geometry=tuple(own.lines[found].tolist()))

    def assembly(self) -> SheetSpec:
        """Front, left and top, a section through the middle, the press shaded, parts list and balloons: A1, 1:2."""
        front = self.view("front", Scale(1, 2), (170, 420), dimensions=overall_dimensions_of("front"))
        sheet = SheetSpec(
            id=short_id(), name="Press, assembly", format="A1", scale=Scale(1, 2), views=(front,),
            furniture=frozenset({Furniture.CENTRING, Furniture.GRID, Furniture.TITLE, Furniture.RULE}),
            title={"number": "EB-100", "type": "Assembly drawing", "revision": "A"},
        )  # fmt: skip
        sheet = self._pulled(sheet, front, (170, 175))
        sheet = self._pulled(sheet, front, (690, 420))
        look, _ = families.pulled_look(STANDARD["front"].axes(), (1.0, 0.0), sheet.arrangement)
        x, y = front.anchor
        cut = Section(
            letter="A", start=(0.0, y - 175), end=(0.0, y + 175), uncut=uncut_by_custom(self._tree, PARTS, look)
        )  # fmt: skip
        section = families.section_view(sheet, front, short_id(), cut, 300.0, self.middle)
        sheet = sheet.with_views((*sheet.views, section))
        shaded = self._pulled(sheet, front, (front.place[0] + 480, front.place[1] - 40), shaded=True)
        iso = STANDARD["iso"]
        pictorial = shaded.views[-1].showing(look=iso.look, up=iso.up).model_copy(update={"name": "iso"})
        free = {
            "parent": None,
            "projected": None,
            "place": (470.0, 180.0),
            "overrides": frozenset({"scale"}),
            "scale": Scale(1, 2),
        }
        pictorial = pictorial.model_copy(update=free)
        x, y = (iso.axes()[:2] @ self.middle(pictorial)).tolist()
        sheet = shaded.with_views((*shaded.views[:-1], pictorial.model_copy(update={"anchor": (x, y)})))
        return sheet.model_copy(
            update={
                "parts_list": PartsList(
                    view=pictorial.id, columns=("item", "mark", *PartsList(view="").columns[1:]), refer="mark"
                )
            }
        )

    def cheek(self) -> SheetSpec:
        """A cheek at 1:1 with its dimensions, on A2."""
        only = "Cheek, left"
        view = self.view("left", Scale(1, 1), (185, 220), only, _ALL)
        dimensions = (
            *overall_dimensions(view),
            Dimension(id=short_id(), kind=DimensionKind.DIAMETER, first=self.circle(only, (0, p.LOWER_AXIS), p.BORE / 2),
                      tolerance="H7", angle=205, offset=62),
            Dimension(id=short_id(), kind=DimensionKind.VERTICAL, first=self.line(only, (-81, 0)),
                      second=self.circle(only, (0, p.LOWER_AXIS), p.BORE / 2), offset=-130),
            Dimension(id=short_id(), kind=DimensionKind.HORIZONTAL, first=self.circle(only, p.TIE_RODS[0], 6.1),
                      second=self.circle(only, p.TIE_RODS[1], 6.1), offset=12.5, tolerance="±0.1"),
        )  # fmt: skip
        view = view.model_copy(update={"dimensions": dimensions, "holes": HoleTable(place=(470.0, 400.0))})
        sheet = SheetSpec(
            id=short_id(), name="Cheek", format="A2", views=(view,),
            title={"number": "EB-101", "type": "Part drawing", "revision": "B"},
            notes=(
                Note(id=short_id(), text="Cut from 8 mm plate, edges broken.\nBores reamed after both cheeks are clamped.",
                     place=(30, 405)),
                Note(id=short_id(), text="2 off, alike", place=(285, 330), view=view.id, target=(80.0, 165.0)),
            ),
        )  # fmt: skip
        sheet = self._pulled(sheet, view, (345, 220), dimensions=overall_dimensions(view)[:1], axes=True)
        detail = Detail(letter="A", centre=(-85.0, 18.0), radius=24.0)
        return sheet.with_views(
            (*sheet.views, families.detail_view(sheet, view, short_id(), detail, Scale(2, 1), (445.0, 260.0)))
        )  # fmt: skip

    def tray(self) -> SheetSpec:
        """The ink tray in third-angle arrangement on an inch format."""
        only = "Ink tray"
        front = self.view("front", Scale(1, 2), (120, 130), only, _ALL, dimensions=overall_dimensions_of("tray"))
        sheet = SheetSpec(
            id=short_id(), name="Ink tray", format="ANSI-B", frame=FrameStyle.ASME, arrangement=Arrangement.THIRD,
            scale=Scale(1, 2), views=(front,), title={"number": "EB-114", "type": "Part drawing"},
        )  # fmt: skip
        sheet = self._pulled(sheet, front, (120, 205))
        sheet = self._pulled(
            sheet, front, (235, 130), axes=True, dimensions=(Dimension(id="depth", kind=DimensionKind.WIDTH, offset=-14.0),)
        )
        # pulled on a diagonal, then set where it has room
        return self._pulled(sheet, front, (290, 240), place=(305.0, 205.0), classes=_SEEN, shaded=True)

    def cutting(self) -> SheetSpec:
        """Both cheeks and nothing else, for the cutter, on a plate blank."""
        views = (
            self.view("left", Scale(1, 1), (160, 200), "Cheek, left"),
            self.view("left", Scale(1, 1), (440, 200), "Cheek, right"),
        )
        return SheetSpec(
            id=short_id(), name="Cutting", format="600x400mm", orientation=Orientation.LANDSCAPE, frame=FrameStyle.NONE,
            clean=True, views=views, pens="hairline", recipe="cutter",
        )  # fmt: skip

    def _prepared(self) -> tuple[PreparedView, ...]:
        """The standard views, and three that show what a reviewer asks after."""
        near = self._path("Cheek, left")
        fasteners = frozenset(p for item in items(self._tree, PARTS) if item.fastener for p in item.components)
        behind = PreparedView(
            id="behind", name="Behind the cheek", look=(1, 0.55, -0.45), perspective=True, faded={near: 0.25},
            background="#e9e6df",
        )  # fmt: skip
        cut = PreparedView(
            id="cut", name="Through the rollers", look=(-0.35, -1, -0.3), cuts=(Cut(along="y", offset=0.0),),
            mode=RenderMode.SHADED_ILLUSTRATION,
        )  # fmt: skip
        bare = PreparedView(id="bare", name="Without fasteners", hidden=fasteners, perspective=True)
        overview, *others = standard_views()
        return (overview, behind, cut, bare, *others)

    def review(self) -> SheetSpec:
        """Two views at 1:5, and beside them the press itself, to turn and cut."""
        front = self.view("front", Scale(1, 5), (88, 218), dimensions=overall_dimensions_of("review"))
        field = Annotation3d(
            id=short_id(), source=self._source, name="Ebba press", place=(165.0, 75.0), size=(240.0, 200.0),
            views=self._prepared(),
        )  # fmt: skip
        sheet = SheetSpec(
            id=short_id(), name="Review", format="A3", scale=Scale(1, 5), views=(front,), annotations_3d=(field,),
            title={"number": "EB-100", "type": "For review", "revision": "A"},
            notes=(Note(id=short_id(), text="Click the press to turn it.", place=(165, 66)),),
        )  # fmt: skip
        return self._pulled(sheet, front, (88, 105))

    def whole(self) -> SheetSpec:
        """A page that is nothing but the press, its parts by class."""
        sheet = bare_sheet(short_id(), "Press in 3D")
        field = annotation_for(sheet, short_id(), self._source, "Ebba press", whole=True)
        choices = SceneChoices(grouping=Grouping.KIND)
        return sheet.model_copy(
            update={"annotations_3d": (field.model_copy(update={"views": self._prepared(), "choices": choices}),)}
        )  # fmt: skip

    def all(self) -> tuple[SheetSpec, ...]:
        sheets = (self.assembly(), self.cheek(), self.tray(), self.cutting(), self.review(), self.whole())
        return tuple(families.refreshed(sheet, self.middle) for sheet in sheets)


def overall_dimensions_of(name: str) -> tuple[Dimension, ...]:
    """Width and height over all, under ids of their own."""
    return (
        Dimension(id=f"{name}-width", kind=DimensionKind.WIDTH, offset=-14.0),
        Dimension(id=f"{name}-height", kind=DimensionKind.HEIGHT, offset=14.0),
    )


def _packs(sheets: tuple[SheetSpec, ...]) -> tuple[Pack, ...]:
    """The drawings for the shop in one file, the plate for the cutter by itself, what reviewers turn and cut."""
    assembly, cheek, tray, cutting, review, whole = (sheet.id for sheet in sheets)
    shop = Pack(id="shop", name="For the shop", sheets=(assembly, cheek, tray), pattern="{job}_{revision}_{title}")
    cutter = Pack(id="cutter", name="For the cutter", sheets=(cutting,), recipe="cutter", files="each", pattern="{job}_{sheet}")
    looked = Pack(id="review", name="For review", sheets=(review, whole), pattern="{job}_{revision}_review")
    return shop, cutter, looked


def make_demo(studio: Studio, hands: Hands, told: Callable[[str], None]) -> None:
    """Make the demo jobs: have the press built and read and the rooms drawn, lay out the sheets; their views are drawn and the
    first proof is written while the page can be used already. *told* hears what is being done."""
    model, plan, nameplate, ornament, rack = _sources(studio, hands)
    in_rack, in_press = FindSheets(source=rack.id), FindSheets(source=model.id)
    hands.done([work(find_sheets, in_press), work(find_sheets, in_rack)])
    bent, looked = (orjson.loads(studio.blobs.get(f"{asked.key}.json")) for asked in (in_rack, in_press))
    rooms = fit_out(studio, plan, TITLE | {"department": "House group"})
    sheets = _Sheets(model.id, load_facts(studio.blobs, model.id)).all()
    cut = plates_job(model, load_facts(studio.blobs, model.id).tree, (nameplate, ornament), TITLE)
    press = JobDocument(
        name="Ebba press", sources=(model,), sheets=sheets, title=TITLE, parts=PARTS, packs=_packs(sheets)
    )  # fmt: skip
    press = _numbered(studio, press, model, looked)
    tree = load_facts(studio.blobs, rack.id).tree
    folded = rack_job(rack, tree, bent, lambda view: middle_of(tree, view), TITLE | {"department": "House group"})
    folded = _numbered(studio, folded, rack, bent)
    # all or none: whoever ends it before has all made at the next start
    first, on_plates, bends, job = (store.create_job(own, "demo job") for own in (rooms, cut, folded, press))
    store.keep_format("Label", "90x60mm")
    store.keep_format("Plate blank", "600x400mm")
    views = slowest_first((view for sheet in sheets for view in sheet.views), lambda key: load_facts(studio.blobs, key))
    told(f"Drawing the press's {len(views)} views")
    # one worker makes what every view of the press needs, the other what needs none of it
    hands.begin([work(make_source_ready, MakeReady(source=model.id))])
    hands.done(_pictures(first) + _posters(job) + _pictures(job, views))
    told("Laying flat parts and flat patterns on plates")
    hands.begin(_pictures(bends))
    lay_plates(studio, hands, on_plates)
    lay_plates(studio, hands, bends)
    told("Writing and measuring the press's first sheet")
    Proofing(studio).make(job.id, sheets[0].id)


def _numbered(studio: Studio, job: JobDocument, model: SourceRef, looked: Sequence[dict[str, Any]]) -> JobDocument:
    """A job of one model with marks; *looked* is what was found of the model's parts."""
    rows = rows_of(job, [model_at_hand(studio.blobs, model.id, model.name, looked)])
    return with_marks(job, numbered(rows, job.given_marks, job.series))


def _sources(studio: Studio, hands: Hands) -> tuple[SourceRef, ...]:
    """The press, the plan of the rooms, the nameplate and its ornament, made and read side by side."""
    wanted = {
        SOURCE_NAME: MakeFile(which="press.step"), PLAN_NAME: MakeFile(which="plan.dxf"),
        PLATE_NAME: MakeFile(which="nameplate.dxf"), ORNAMENT_NAME: MakeFile(which="ornament.dxf"),
        RACK_NAME: MakeFile(which="rack.step"),
    }  # fmt: skip
    hands.done([work(make_file, asked) for asked in wanted.values()])
    found, reading = [], []
    for name, asked in wanted.items():
        data = studio.blobs.get(asked.key)
        source = content_hash(data)
        studio.blobs.put(keys.file_key(source), data)
        studio.blobs.drop(asked.key)
        reading.append(work(read_source, ReadSource(source=source, name=name, limit=studio.settings.size_limit)))
        found.append(SourceRef(id=source, name=name, size=len(data), drawing=name.endswith(".dxf")))
    hands.done(reading)
    return tuple(found)


def _pictures(job: StoredJob, views: Sequence[ViewSpec] = ()) -> list[Begin]:
    """The work behind the pictures of a job's views, as a page asks for it; shading takes longest, so it begins first."""
    projected: dict[str, ProjectView] = {}
    shaded: dict[str, ShadeView] = {}
    for view in views or [view for sheet in job.document.sheets for view in sheet.views]:
        asked = ProjectView(source=view.source, spec=view.lines())
        projected[asked.key] = asked
        if view.shaded:
            shade = ShadeView(source=view.source, spec=shade_spec(view, job.document.colours))
            shaded[shade.key] = shade
    return [work(shade_view, own) for own in shaded.values()] + [work(project_view, own) for own in projected.values()]


def _posters(job: StoredJob) -> list[Begin]:
    """The same for the pictures of its 3D annotations."""
    context = ContextSpec(parts=job.document.parts)
    posters = (
        MakePoster(annotation=f, spec=spec_of(f, context)) for sheet in job.document.sheets for f in sheet.annotations_3d
    )
    return [work(make_poster, asked) for asked in {asked.key: asked for asked in posters}.values()]
