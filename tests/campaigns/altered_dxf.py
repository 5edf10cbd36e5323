"""Ways to alter a finished DXF, by ezdxf, one line each: what does harm, and what changes nothing that anybody sees."""

from __future__ import annotations

import io
import random
from collections.abc import Callable
from typing import Any

import ezdxf
from ezdxf.document import Drawing

Way = Callable[[Drawing, random.Random], Any]
_STROKES = "LINE CIRCLE ARC ELLIPSE LWPOLYLINE SPLINE"


def altered(data: bytes, way: Way, chance: random.Random) -> bytes | None:
    """A file altered in one way; None where it cannot be."""
    document = ezdxf.read(io.StringIO(data.decode()))  # type: ignore[attr-defined]
    if way(document, chance) is False:
        return None
    out = io.StringIO()
    try:
        document.write(out)
    except ezdxf.DXFStructureError:  # type: ignore[attr-defined]
        return None
    return out.getvalue().encode()


def _one(kinds: str, change: Callable[[Any, Drawing, random.Random], Any]) -> Way:
    """One of the entities of some kinds."""

    def way(document: Drawing, chance: random.Random) -> bool:
        rows = [own for own in document.modelspace().query(kinds) if own.dxftype() in ("TEXT", "HATCH") or _long(own)]
        chance.shuffle(rows)
        return any(change(own, document, chance) is not False for own in rows[:1])

    return way


def _long(entity: Any) -> bool:
    """Longer than a hundredth of a millimetre."""
    if entity.dxftype() == "LINE":
        return bool((entity.dxf.end - entity.dxf.start).magnitude > 0.01)
    if entity.dxftype() in ("CIRCLE", "ARC"):
        return bool(entity.dxf.radius > 0.01)
    return True


def _by(chance: random.Random) -> tuple[float, float, float]:
    return chance.choice((0.02, 0.1, 1.0, 10.0)) * chance.choice((-1, 1)), 0.0, 0.0


def _set(**values: Any) -> Callable[[Any, Drawing, random.Random], None]:
    def change(own: Any, document: Drawing, chance: random.Random) -> None:
        for key, value in values.items():
            own.dxf.set(key, value)

    return change


def _times(key: str, by: float) -> Callable[[Any, Drawing, random.Random], None]:
    return lambda own, document, chance: own.dxf.set(key, own.dxf.get(key) * by)


def _add(make: Callable[[Any], Any]) -> Way:
    def way(document: Drawing, chance: random.Random) -> None:
        make(document.modelspace())

    return way


def _header(name: str, value: Any) -> Way:
    def way(document: Drawing, chance: random.Random) -> None:
        document.header[name] = value

    return way


def _used_layer(document: Drawing, chance: random.Random) -> Any:
    names = sorted({own.dxf.layer for own in document.modelspace()})
    return document.layers.get(chance.choice(names)) if names else None


def _layer(change: Callable[[Any, random.Random], Any]) -> Way:
    def way(document: Drawing, chance: random.Random) -> bool:
        own = _used_layer(document, chance)
        return own is not None and change(own, chance) is not False

    return way


def _as_block(own: Any, document: Drawing, chance: random.Random) -> None:
    block = document.blocks.new("B")
    block.add_entity(own.copy())
    document.modelspace().delete_entity(own)
    document.modelspace().add_blockref("B", (0.5, 0))


def _to_paper(own: Any, document: Drawing, chance: random.Random) -> None:
    document.modelspace().move_to_layout(own, document.layout("Layout1"))


def _recoloured(own: Any, document: Drawing, chance: random.Random) -> None:
    colour = own.dxf.get("true_color", document.layers.get(own.dxf.layer).dxf.get("true_color", 0))
    own.dxf.true_color = colour ^ (0x404040 << chance.randrange(2))


def _rewidthed(own: Any, document: Drawing, chance: random.Random) -> None:
    width = own.dxf.get("lineweight", -1)
    width = document.layers.get(own.dxf.layer).dxf.lineweight if width < 0 else width
    own.dxf.lineweight = chance.choice([w for w in (9, 18, 35, 70, 100) if abs(w - width) > 6])


def _dashed(own: Any, document: Drawing, chance: random.Random) -> None:
    if "OTHER" not in document.linetypes:
        document.linetypes.add("OTHER", [4.0, 3.0, -1.0])
    own.dxf.linetype = "OTHER"


def _pattern(document: Drawing, chance: random.Random) -> bool:
    used = {own.dxf.get("linetype", "BYLAYER") for own in document.modelspace()} - {"BYLAYER", "CONTINUOUS"}
    if not used:
        return False
    name = chance.choice(sorted(used))
    own = document.linetypes.get(name)
    for n, tag in enumerate(own.pattern_tags.tags):
        if tag.code == 49:
            own.pattern_tags.tags[n] = type(tag)(49, tag.value * 1.5)
    return True


def _exchanged_layers(document: Drawing, chance: random.Random) -> bool:
    rows = list(document.modelspace())
    names = sorted({own.dxf.layer for own in rows})
    if len(names) < 2:
        return False
    chance.choice(rows).dxf.layer = chance.choice(names)
    own = chance.choice(rows)
    own.dxf.layer = chance.choice([name for name in names if name != own.dxf.layer])
    return True


def _hatch_moved(own: Any, document: Drawing, chance: random.Random) -> None:
    own.translate(*_by(chance))


def _ungrouped(document: Drawing, chance: random.Random) -> bool:
    # a text is no less one of its view for being picked by itself
    groups = [own for _, own in document.groups if any(row.dxftype() != "TEXT" for row in own)]
    if not groups:
        return False
    own = chance.choice(groups)
    rows = list(own)
    rows.remove(chance.choice([row for row in rows if row.dxftype() != "TEXT"]))
    own.clear()
    own.extend(rows)
    return True


def _tiny_scale(document: Drawing, chance: random.Random) -> bool:
    for own in document.modelspace():
        own.scale(1.0005, 1.0005, 1)
    return len(document.modelspace()) > 0


HARMFUL: dict[str, Way] = {
    "a stroke dropped": _one(_STROKES, lambda own, document, chance: document.modelspace().delete_entity(own)),
    "a stroke doubled": _one(_STROKES, lambda own, document, chance: document.modelspace().add_entity(own.copy())),
    "a stroke moved": _one(_STROKES, lambda own, document, chance: own.translate(*_by(chance))),
    "a stroke turned": _one("LINE LWPOLYLINE SPLINE", lambda own, document, chance: own.rotate_z(0.5)),
    "all a little larger": _tiny_scale,
    "an area dropped": _one("HATCH", lambda own, document, chance: document.modelspace().delete_entity(own)),
    "an area moved": _one("HATCH", _hatch_moved),
    "an area in a pattern": _one("HATCH", _set(solid_fill=0, pattern_name="ANSI31")),
    "an area added": _add(lambda space: space.add_hatch(color=7).paths.add_polyline_path([(0, 0), (50, 0), (50, 50)],
    is_closed=True)),
    "a white area": _add(
        lambda space: space.add_hatch(dxfattribs={"true_color": 0xFFFFFF}).paths.add_polyline_path(
            [(0, 0), (90, 0), (90, 90)], is_closed=True
        )
    ),
    "a stroke added": _add(lambda space: space.add_line((1, 1), (9, 9))),
    "a circle added": _add(lambda space: space.add_circle((20, 20), 4)),
    "a point added": _add(lambda space: space.add_point((20, 20))),
    "a text added": _add(lambda space: space.add_text("9", height=3)),
    "a text of several lines": _add(lambda space: space.add_mtext("9")),
    "a filled triangle": _add(lambda space: space.add_solid([(0, 0), (50, 0), (50, 50)])),
    "a face": _add(lambda space: space.add_3dface([(0, 0), (50, 0), (50, 50)])),
    "something that covers": _add(lambda space: space.add_wipeout([(0, 0), (90, 90)])),
    "a ray": _add(lambda space: space.add_ray((0, 0), (1, 1))),
    "a dimension": _add(lambda space: space.add_linear_dim(base=(0, 9), p1=(0, 0), p2=(9, 0)).render()),
    "a polyline in space": _add(lambda space: space.add_polyline3d([(0, 0, 0), (9, 9, 9)])),
    "a width changed": _one(_STROKES, _rewidthed),
    "a colour changed": _one(_STROKES, _recoloured),
    "a colour of an area": _one("HATCH", _recoloured),
    "a colour of a text": _one("TEXT", _recoloured),
    "a colour by number": _one(_STROKES, _set(color=1)),
    "dashes put in": _one(_STROKES, _dashed),
    "dashes changed": _pattern,
    "dashes scaled": _one(_STROKES, _set(ltscale=2.0)),
    "seen through": _one(_STROKES, lambda own, document, chance: setattr(own, "transparency", 0.7)),
    "invisible": _one(_STROKES, _set(invisible=1)),
    "an invisible text": _one("TEXT", _set(invisible=1)),
    "thick": _one("LINE CIRCLE ARC", _set(thickness=5)),
    "extruded downward": _one("CIRCLE ARC", _set(extrusion=(0, 0, -1))),
    "above the paper": _one("LINE", lambda own, document, chance: own.translate(0, 0, 5)),
    "raised": _one("LWPOLYLINE", _set(elevation=5)),
    "of a width of its own": _one("LWPOLYLINE", _set(const_width=2)),
    "as a block": _one(_STROKES, _as_block),
    "on a layout for paper": _one(_STROKES, _to_paper),
    "another layer": _exchanged_layers,
    "a radius changed": _one("CIRCLE ARC", lambda own, document, chance: own.dxf.set("radius", own.dxf.radius + 0.05)),
    "an arc longer": _one("ARC", lambda own, document, chance: own.dxf.set("end_angle", own.dxf.end_angle + 3)),
    "a layer off": _layer(lambda own, chance: own.off()),
    "a layer frozen": _layer(lambda own, chance: own.freeze()),
    "a layer locked": _layer(lambda own, chance: own.lock()),
    "a layer that does not print": _layer(lambda own, chance: own.dxf.set("plot", 0)),
    "a layer of another colour": _layer(lambda own, chance: own.dxf.set("true_color", 0x12FF34)),
    "a layer of another width": lambda document, chance: any(
        document.layers.get(own.dxf.layer).dxf.set("lineweight", 211) is None
        for own in list(document.modelspace().query(_STROKES))[:1] if own.dxf.get("lineweight", -1) < 0
    ),
    "a dashed layer": lambda document, chance: (_layer(lambda own, chance: own.dxf.set("linetype", "OTHER"))(
        (document.linetypes.add("OTHER", [4.0, 3.0, -1.0]), document)[1], chance
    )),
    "in inches": _header("$INSUNITS", 1),
    "without a unit": _header("$INSUNITS", 0),
    "dashes of all scaled": _header("$LTSCALE", 5.0),
    "nothing filled": _header("$FILLMODE", 0),
    "texts as boxes": _header("$QTEXTMODE", 1),
    "angles from elsewhere": _header("$ANGBASE", 90.0),
    "a text dropped": _one("TEXT", lambda own, document, chance: document.modelspace().delete_entity(own)),
    "a text doubled": _one("TEXT", lambda own, document, chance: document.modelspace().add_entity(own.copy())),
    "a text moved": _one("TEXT", lambda own, document, chance: own.translate(*_by(chance))),
    "other words": _one("TEXT", lambda own, document, chance: own.dxf.set("text", own.dxf.text + "0")),
    "another figure": _one("TEXT", lambda own, document, chance: own.dxf.set("text", "9" if own.dxf.text != "9" else "6")),
    "larger letters": _one("TEXT", _times("height", 1.05)),
    "a turned text": _one("TEXT", lambda own, document, chance: own.dxf.set("rotation", own.dxf.get("rotation", 0) + 10)),
    "a slanting text": _one("TEXT", _set(oblique=15)),
    "a stretched text": _one("TEXT", lambda own, document, chance: own.dxf.set("width", own.dxf.get("width", 1) * 1.3)),
    "a mirrored text": _one("TEXT", _set(text_generation_flag=4)),
    "a text from its middle": _one("TEXT", _set(halign=1)),
    "another face": _one("TEXT", _set(style="Standard")),
    "a style slanted": lambda document, chance: [own.dxf.set("oblique", 20) for own in document.styles] and None,
    "a style widened": lambda document, chance: [own.dxf.set("width", 2) for own in document.styles] and None,
    "a style of another file": lambda document, chance: [own.dxf.set("font", "arial.ttf") for own in document.styles] and None,
    "a view's group changed": _ungrouped,
    "an attachment": _one(_STROKES, lambda own, document, chance: (document.appids.add("OTHER"), own.set_xdata("OTHER",
    [(1000, "x")]))),
}  # fmt: skip


def _rounded(document: Drawing, chance: random.Random) -> None:
    for own in document.modelspace().query("LINE"):
        own.dxf.start = own.dxf.start.round(7)


HARMLESS: dict[str, Way] = {
    "written anew": lambda document, chance: None,
    "a layer that nothing uses": lambda document, chance: [document.layers.add("unused"), None][1],
    "a line type that nothing uses": lambda document, chance: [document.linetypes.add("UNUSED", [4.0, 3.0, -1.0]), None][1],
    "coordinates rounded": _rounded,
    "a note of who saved it": _header("$LASTSAVEDBY", "somebody"),
    "another window": lambda document, chance: document.set_modelspace_vport(100, (50, 50)),
    "an application": lambda document, chance: [document.appids.add("OTHER"), None][1],
}
"""What changes nothing that anybody sees or measures."""
