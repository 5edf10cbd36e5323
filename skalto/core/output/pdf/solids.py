"""3D annotations (ISO 32000-1, 13.6): the model as a stream, its prepared views, and a picture for readers that show no 3D."""

from __future__ import annotations

import zlib
from decimal import Decimal

import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf, String

from skalto.core.output.pdf.paths import real
from skalto.core.output.pdf.resources import PageResources
from skalto.core.quantities import MM_PER_INCH
from skalto.core.recipes import Recipe
from skalto.core.scene.solid import CutPlane, Solid, SolidView
from skalto.core.scene.views import camera_matrix

PRINT = 4
"""The annotation flag by which the picture prints (12.5.3)."""


def _rgb(colour: str) -> list[Decimal]:
    return [real(int(colour[i : i + 2], 16) / 255) for i in (1, 3, 5)]


def _projection(view: SolidView) -> Dictionary:
    """Table 305: what the shorter side of the picture takes in, an angle or a length."""
    camera = view.camera
    if camera.perspective:
        return Dictionary(Subtype=Name.P, FOV=real(camera.span, 6), PS=Name.Min, CS=Name.ANF)
    return Dictionary(Subtype=Name.O, OS=real(1 / camera.span, 12), OB=Name.Min, CS=Name.ANF)


def _view(view: SolidView, unit: str) -> Dictionary:
    """A 3D view dictionary (13.6.4, table 304)."""
    entry = Dictionary(
        Type=Name("/3DView"), XN=String(view.name), IN=String(view.id), MS=Name.M,
        C2W=Array([real(v, 12) for v in camera_matrix(view.camera)]), CO=real(view.camera.distance, 9),
        P=_projection(view),
        BG=Dictionary(Type=Name("/3DBG"), Subtype=Name.SC, CS=Name.DeviceRGB, C=Array(_rgb(view.background))),
        RM=_mode(view.mode.value),
        LS=Dictionary(Type=Name("/3DLightingScheme"), Subtype=Name("/" + view.lighting.value)),
        NR=True,
    )  # fmt: skip
    rows = []
    for name in dict.fromkeys((*view.states, *view.drawn)):
        opacity = view.states.get(name)
        state = Dictionary({"/Type": Name("/3DNode"), "/N": String(name)})
        if name in view.states:
            state.V = opacity is not None
        if opacity is not None:
            state.O = real(opacity, 4)
        if name in view.drawn:
            state.RM = _mode(view.drawn[name])
        rows.append(state)
    if rows:
        entry.NA = Array(rows)
    if view.cuts:
        entry.SA = Array([_section(cut) for cut in view.cuts])
    entry.Units = _units(unit)
    return entry


def _mode(mode: str) -> Dictionary:
    """A render mode (13.6.4.5), of a view or of one node of it."""
    return Dictionary(Type=Name("/3DRenderMode"), Subtype=Name("/" + mode))


def _section(cut: CutPlane) -> Dictionary:
    """A cross section (13.6.4.6)."""
    turns = Array([None if turn is None else real(turn, 6) for turn in cut.turns])
    return Dictionary(
        Type=Name("/3DCrossSection"), C=Array([real(v, 9) for v in cut.centre]), O=turns, PO=real(0.12, 9),
        PC=Array([Name.DeviceRGB, *_rgb("#1f6f5c")]), IV=True, IC=Array([Name.DeviceRGB, *_rgb("#1d2a33")]), ST=cut.ghost,
        SC=cut.filled,
    )  # fmt: skip


def _units(unit: str) -> Dictionary:
    """ISO 32000-2's units of a view, from memory: the model is in millimetres (T), and shown in millimetres or inches (D)."""
    shown = Decimal(1) if unit == "mm" else real(MM_PER_INCH)
    return Dictionary(Type=Name("/3DUnits"), TSm=1, TSn=1, TU=String("mm"), DSm=1, DSn=shown, DU=String(unit))


def annotation(pdf: Pdf, solid: Solid, factor: float, resources: PageResources) -> pikepdf.Object:
    """The annotation of a field, its rectangle in default user space by *factor* units a mm."""
    spec = solid.spec
    stream = pdf.make_stream(b"")
    stream.write(zlib.compress(solid.u3d, 6), filter=Name.FlateDecode)
    stream.Type, stream.Subtype = Name("/3D"), Name.U3D
    stream.VA = Array([pdf.make_indirect(_view(view, spec.opening.unit)) for view in solid.views])
    chosen = [view.id for view in solid.views].index(spec.opens_with.id)
    stream.DV = chosen
    x0, y0, x1, y1 = (float(v * factor) for v in spec.inner)
    opening = spec.opening
    activation = Dictionary(
        A=Name.PO if opening.start == "page" else Name.XA, AIS=Name.L, D=Name.PC if opening.leave else Name.XD,
        DIS=Name.U, TB=opening.tools, NP=opening.tree,
    )  # fmt: skip
    words = f"{spec.name}: a 3D model to turn, cut and measure. Open the file in a reader that shows 3D."
    entry = Dictionary(
        {
            "/Type": Name.Annot,
            "/Subtype": Name("/3D"),
            "/Rect": Array([real(v, 6) for v in (x0, y0, x1, y1)]),
            "/Contents": String(words),
            "/NM": String(spec.id),
            "/F": PRINT,
            "/3DD": pdf.make_indirect(stream),
            "/3DV": chosen,
            "/3DA": activation,
            "/3DI": True,
            "/AP": Dictionary(N=_appearance(pdf, solid, x1 - x0, y1 - y0, resources)),
        }
    )
    return pdf.make_indirect(entry)


def _appearance(pdf: Pdf, solid: Solid, width: float, height: float, resources: PageResources) -> pikepdf.Object:
    """The poster as an appearance stream (12.5.5)."""
    picture = resources.flat_picture(solid.poster[..., :3], *solid.spec.inner_size)
    drawn = pdf.make_stream(f"q {width:.6f} 0 0 {height:.6f} 0 0 cm /P0 Do Q\n".encode())
    drawn.Type, drawn.Subtype = Name.XObject, Name.Form
    drawn.BBox = Array([0, 0, real(width, 6), real(height, 6)])
    drawn.Resources = Dictionary(XObject=Dictionary({"/P0": pdf.make_indirect(picture)}))
    return pdf.make_indirect(drawn)


def facts_stream(pdf: Pdf, solids: tuple[Solid, ...], recipe: Recipe) -> Array:
    """What each field is judged by, as JSON, for whoever measures the file; of a poster, what the recipe lets it have."""
    rows = []
    for solid in solids:
        facts = solid.facts.model_copy(update={"dpi": min(solid.facts.dpi, recipe.picture_dpi)})
        stream = pdf.make_stream(b"")
        stream.write(zlib.compress(facts.model_dump_json().encode(), 6), filter=Name.FlateDecode)
        rows.append(pdf.make_indirect(stream))
    return Array(rows)


def holds_solids(recipe: Recipe) -> bool:
    """Whether files by a recipe have 3D annotations: what a cutter reads has contours alone."""
    return recipe.file != "cutter"
