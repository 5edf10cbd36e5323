"""What is kept of arrangements and of runs in the stand-in cutter, as plain data for the page."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from skalto.core.cutter.running import Run
from skalto.core.cutting.laying import contents_of, why_left
from skalto.core.cutting.packing.measures import bound, largest_rectangle, plate_yield
from skalto.core.cutting.packing.pieces import Laying
from skalto.core.cutting.packing.search import Found
from skalto.core.cutting.section import CutList
from skalto.core.pages.cut_pages import plate_area
from skalto.core.pages.page import CutPage

_COARSE = 0.01
"""How near, mm, areas are worked out to their contours for the bound."""
MOST_POINTS = 60_000
"""A film has no more points than this: of courses with more every second one, and so on, is left out."""


def arranged(cut_list: CutList, laying: Laying, found: Found) -> dict[str, Any]:
    """An arrangement: what lies on each plate, what is left over and why, and in a few words how good it is."""
    own = found.arrangement
    contents = contents_of(cut_list, laying, own)
    yields = [plate_yield(laying, own, number) for number in range(own.plates)]
    left: list[dict[str, Any]] = [
        {"part": key, "name": cut_list.part(key).name, "count": count, "why": why_left(laying, key)}
        for key, count in own.left.items()
        if count
    ]
    parts = sum(len(content.placed) for content in contents)
    plates = "1 plate" if len(contents) == 1 else f"{len(contents)} plates"
    summary = f"{parts} parts on {plates}" + (f", yield {np.mean(yields):.1%}" if yields else "")
    if left:
        summary += f", {sum(own.left.values())} left over"
    return {
        "contents": [content.model_dump(mode="json") for content in contents], "left": left, "yields": yields,
        "bounds": [bound(laying, own.on(n), content.plate) for n, content in enumerate(contents)],
        "free": [largest_rectangle(laying, own, number) for number in range(own.plates)] if found.last else [],
        "summary": summary, "steps": found.steps, "last": found.last, "timed": found.timed,
    }  # fmt: skip


def figures(cut: CutPage) -> dict[str, Any]:
    """What a plate is worth as it lies: yield and the bound that none of these parts can pass, cutting length, pierces, mass
    of the parts, g, and the price of the plate."""
    plate, gap = cut.plate, cut.choices.gap
    areas = [part.profile.polygon(_COARSE) for part in cut.parts]
    area = math.fsum(part.profile.area for part in cut.parts)
    whole = plate_area(plate)
    room = whole.buffer(gap / 2 - plate.edge, join_style="mitre").area
    taken = math.fsum(own.buffer(gap / 2).area for own in areas)
    grams = area * plate.thickness * plate.density / 1000 if plate.density and plate.thickness else None
    return {
        "yield": area / whole.area, "bound": min(1.0, room / taken * area / whole.area) if taken else 0.0,
        "cut_mm": cut.plan.cut_length, "pierces": cut.plan.pierces, "grams": grams, "price": plate.price,
        "notices": [{"code": n.code, "message": n.message, "level": n.level} for n in cut.notices],
    }  # fmt: skip


def film_of(run: Run) -> dict[str, Any]:
    """A run for the page: the report, the way of the head thinned to what a screen shows, the pieces as rings."""
    film = run.film
    step = max(1, math.ceil(len(film.times) / MOST_POINTS))
    kept = np.zeros(len(film.times), bool)
    kept[::step] = True
    kept[-1] = True
    # where the head begins and ends to do something it is always shown
    kept[1:] |= np.diff(film.doing) != 0
    kept[:-1] |= np.diff(film.doing) != 0
    return {
        "report": run.report.model_dump(mode="json") | {"holds": run.report.holds, "total": run.report.seconds.total},
        "times": np.round(film.times[kept], 4).tolist(), "points": np.round(film.points[kept], 3).tolist(),
        "doing": film.doing[kept].tolist(), "pieces": [_rings(piece) for piece in run.pieces],
    }  # fmt: skip


def _rings(area: Any) -> list[list[list[float]]]:
    thin = area.simplify(0.02)
    return [np.round(np.asarray(ring.coords), 3).tolist() for ring in (thin.exterior, *thin.interiors)]
