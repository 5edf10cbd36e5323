"""Arrangements against plain strip packing with the same gap and time, jigsaws with a known optimum, openings, many parts; and
a plate of many segments in the stand-in cutter."""

from __future__ import annotations

import math
import random
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
import shapely
import spyrrow
from shapely import affinity

from bench.clock import held, told
from bench.size import sized
from skalto.core.cutter.machine import CHART, Machine
from skalto.core.cutter.running import run as cut
from skalto.core.cutter.tracks import read_for_machine
from skalto.core.cutting.packing.measures import area_laid, extent, faults
from skalto.core.cutting.packing.pieces import Arrangement, Blank, Laying, Piece
from skalto.core.cutting.packing.search import arrangements

GAP = 2.0
SIDE = 400.0
FIRST, MANY, JIGSAW, CUTTER = 2.0, 60.0, 60.0, 10.0
"""Seconds that are promised."""


def mixed(count: int, seed: int) -> list[Any]:
    """Rectangles, discs, angles, triangles and rectangles with a bite, of many sizes."""
    lots = random.Random(seed)
    found = []
    for number in range(count):
        w, h = lots.uniform(30, 140), lots.uniform(20, 90)
        found.append(
            (
                lambda w, h: shapely.box(0, 0, w, h),
                lambda w, h: shapely.Point(w / 2, w / 2).buffer(w / 2, quad_segs=12),
                lambda w, h: shapely.box(0, 0, w, h).union(shapely.box(0, 0, h / 2, w)),
                lambda w, h: shapely.Polygon([(0, 0), (w, 0), (w * 0.4, h)]),
                lambda w, h: shapely.box(0, 0, w, h).difference(shapely.Point(w / 2, h).buffer(min(w, h) / 2.5, quad_segs=12)),
            )[number % 5](w, h)
        )
    return found


def jigsaw(count: int, seed: int, width: float = 300, height: float = 200) -> list[Any]:
    """A rectangle cut into convex pieces, each turned."""
    lots = random.Random(seed)
    parts = [shapely.box(0, 0, width, height)]
    while len(parts) < count:
        parts.sort(key=lambda own: -own.area)
        whole = parts.pop(0)
        middle, angle = whole.centroid, lots.uniform(0, math.pi)
        dx, dy = 1000 * math.cos(angle), 1000 * math.sin(angle)
        line = shapely.LineString([(middle.x - dx, middle.y - dy), (middle.x + dx, middle.y + dy)])
        parts += shapely.get_parts(shapely.polygonize([shapely.union_all([line, whole.exterior])])).tolist()
    turned = [affinity.rotate(own, lots.uniform(0, 360), origin="centroid") for own in parts]
    return [affinity.translate(own, -own.bounds[0], -own.bounds[1]) for own in turned]


def _laid(laying: Laying, seconds: float) -> tuple[Arrangement, float, float]:
    """The last arrangement, when the first one was there, and when the last, s."""
    begun, first = time.perf_counter(), 0.0
    made = Arrangement()
    for own in arrangements(laying, seconds):
        first = first or time.perf_counter() - begun
        made = own.arrangement
    assert faults(laying, made) == [], "it keeps its gaps"
    return made, first, time.perf_counter() - begun


def _plain(areas: list[Any], seconds: float) -> float:
    """The length of strip that plain packing takes, with the gap to the sides of the strip that it keeps."""
    items = [
        spyrrow.Item(str(n), [(x, y) for x, y in area.exterior.coords[:-1]], 1, [0, 90, 180, 270])
        for n, area in enumerate(areas)
    ]  # fmt: skip
    strip = spyrrow.StripPackingInstance("", strip_height=SIDE, items=items)
    config = spyrrow.StripPackingConfig(total_computation_time=max(1, int(seconds)), min_items_separation=GAP, seed=1)
    return float(strip.solve(config).width)


def run() -> None:
    seconds = sized(20.0, 1.0)
    for seed in range(1, sized(4, 2)):
        areas = mixed(20, seed)
        laying = Laying(
            tuple(Piece(str(n), own) for n, own in enumerate(areas)), (Blank(shapely.box(0, 0, 900, SIDE)),), GAP, GAP
        )
        made, first, _ = _laid(laying, seconds)
        size = area_laid(laying, made.placed)
        # both keep the gap to the edges: what they take of the plate, from edge to edge
        ours, reference = size / ((extent(laying, made, 0) + GAP) * SIDE), size / (_plain(areas, seconds) * SIDE)
        held(f"yield of 20 mixed parts (set {seed}), {seconds:g} s", ours, reference, ">= plain strips", ours >= reference)
        told(f"first arrangement (set {seed})", first, FIRST, f"<= {FIRST:g} s", first <= FIRST)
    kinds = mixed(12, 3)
    copies = sized(17, 2)
    laying = Laying(
        tuple(Piece(str(n), own, copies) for n, own in enumerate(kinds)), (Blank(shapely.box(0, 0, 800, 600)),), GAP, 5
    )
    made, _, last = _laid(laying, sized(MANY, 3.0))
    told(f"{12 * copies} parts of 12 kinds on {made.plates} plates", last, MANY, f"<= {MANY:g} s", last <= MANY * 1.05)
    for count in sized((12, 24, 40), (12,)):
        pieces = jigsaw(count, 5)
        grow = math.sqrt(1 / 0.75)
        blank = Blank(shapely.box(0, 0, 300 * grow, 200 * grow))
        laying = Laying(tuple(Piece(str(n), own, 1, None) for n, own in enumerate(pieces)), (blank,), 0.0, 0.0)
        made, _, last = _laid(laying, sized(JIGSAW, 20.0))
        whole = made.plates == 1 and not made.left
        told(f"jigsaw of {count} on a plate of 1/0.75", last, JIGSAW, f"all, <= {JIGSAW:g} s", whole and last <= JIGSAW * 1.05)
    _openings()
    _cutter()


def _openings() -> None:
    yields = []
    for open_ in (True, False):
        frame = shapely.box(0, 0, 120, 120)
        inner = frame.difference(shapely.box(12, 12, 108, 108)) if open_ else frame
        disc = shapely.Point(20, 20).buffer(20)
        pieces = (Piece("frame", inner, 6), Piece("small", shapely.box(0, 0, 45, 40), 12), Piece("disc", disc, 6))
        laying = Laying(pieces, (Blank(shapely.box(0, 0, 800, SIDE)),), GAP, 5.0)
        made, _, _ = _laid(laying, sized(5.0, 1.0))
        size = 6 * (120**2 - 96**2) + 12 * 45 * 40 + 6 * disc.area
        yields.append(size / (extent(laying, made, 0) * SIDE))
    used, unused = yields
    held("yield with openings used, without", used, unused, ">= 10 points", used >= unused + 0.1)


def _cutter() -> None:
    count = sized(100_000, 5_000)
    rings = 100
    body = []
    for number in range(rings):
        x, y = 50 + 90 * (number % 10), 35 + 65 * (number // 10)
        angles = np.linspace(0, math.tau, count // rings, endpoint=False)
        r = 28 + 2 * np.sin(9 * angles)
        points = " ".join(f"{x + a * math.cos(t):.4f},{y + a * math.sin(t):.4f}" for a, t in zip(r, angles, strict=True))
        body.append(f'<polygon points="{points}"/>')
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="950mm" height="680mm" viewBox="0 0 950 680">'
    text = f'{head}<g fill="none" stroke="#000" stroke-width="0.0254">{"".join(body)}</g></svg>'
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "many.svg"
        path.write_text(text)
        begun = time.perf_counter()
        file = read_for_machine(path, Machine())
        read = time.perf_counter() - begun
        begun = time.perf_counter()
        made = cut(file, Machine(), CHART[0])
        spent = time.perf_counter() - begun
    assert len(made.pieces) == rings, "each ring falls out"
    told(f"read a plate of {count} segments, then cut it", read, CUTTER, f"<= {CUTTER:g} s", read <= CUTTER)
    told(f"a plate of {count} segments cut", spent, CUTTER, f"<= {CUTTER:g} s", spent <= CUTTER)


if __name__ == "__main__":
    run()
