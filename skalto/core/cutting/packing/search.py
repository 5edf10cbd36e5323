"""The search for an arrangement: a first one at once, then better ones as long as there is time.

What is found depends on the seed and on how much work is done, not on how fast the machine is, unless the time ends it.
"""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

import shapely

from skalto.core.cutting.packing.filling import Stop, best_spot, filled, options, queue_of
from skalto.core.cutting.packing.measures import extent, faults, grown_area
from skalto.core.cutting.packing.openings import Housed, housed
from skalto.core.cutting.packing.pieces import Arrangement, Laying, Placed, grown, simpler
from skalto.core.cutting.packing.regions import Plate, Shapes
from skalto.core.cutting.packing.strips import StripItem, strips, tall_enough

WORK = 25.0
"""So many steps of the strip packer a second are asked for: what two cores do."""
_FINE = 0.01
"""How near, mm, pieces for strips keep to their outlines."""
_ROUGH = 6e-4
"""The same for the packer, in shares of a piece's size; squeezing makes up for it."""
_MANY = 100
"""With more pieces than this, steps take longer in proportion."""
_LEAST_STEPS = 40
_ROUNDS = 0.5
"""Of laying anew, for what is no plain plate: so many rounds a second, over the number of pieces times ten."""


@dataclass(frozen=True, eq=False)
class Found:
    """The best arrangement so far, how many steps were done, and whether it is the *last*; *timed* where the clock ended it."""

    arrangement: Arrangement
    steps: int
    last: bool = False
    timed: bool = False


def worth(laying: Laying, arrangement: Arrangement) -> tuple[float, ...]:
    """The smaller the better: what found no place, how many plates, how far the last one is taken."""
    left = math.fsum(grown_area(laying, key) * count for key, count in arrangement.left.items())
    plates = arrangement.plates
    return (round(left, 6), plates, round(extent(laying, arrangement, plates - 1), 3) if plates else 0.0)


class _Search:
    def __init__(self, laying: Laying, seconds: float, seed: int, stop: Stop, work: float, counted: bool) -> None:
        self.laying, self.seconds, self.seed, self.work, self.counted = laying, seconds, seed, work, counted
        self.begun = time.monotonic()
        self._asked = stop
        self.best: Arrangement | None = None
        self.steps = 0
        self.timed = False
        self.count = max(1, sum(laying.demand.values()))
        # what somebody pinned is theirs to answer for
        self.given = frozenset(faults(laying, Arrangement(laying.pinned)))

    def stop(self) -> bool:
        """Whether somebody said to stop, or the time is up."""
        if time.monotonic() - self.begun >= self.seconds:
            self.timed = True
        return self.timed or self._asked()

    @property
    def time_left(self) -> float:
        return max(0.0, self.seconds - (time.monotonic() - self.begun))

    def take(self, arrangement: Arrangement) -> bool:
        """Whether an arrangement is better than the best, and sound: a part over another is never handed on."""
        if self.best is not None and worth(self.laying, arrangement) >= worth(self.laying, self.best):
            return False
        if set(faults(self.laying, arrangement)) - self.given:
            return False
        self.best = arrangement
        return True

    def found(self, last: bool = False) -> Found:
        assert self.best is not None
        return Found(self.best, self.steps, last, last and self.timed)


def arrangements(
    laying: Laying, seconds: float = 20.0, seed: int = 1, stop: Stop = lambda: False, work: float | None = None
) -> Iterator[Found]:
    """Better and better arrangements; the last one says so. Pieces that no plate can hold are left from the first one on.

    :param seconds: how long at most. :param work: how many steps, so that the same seed gives the same wherever the time is
        enough for them; None for what the time is good for.
    """
    search = _Search(laying, seconds, seed, stop, seconds * WORK if work is None else work, work is not None)
    plain = all(blank.is_rectangle for blank in laying.blanks) and not laying.pinned
    doing = _plain(search) if plain else _around(search)
    for _ in doing:
        yield search.found()
    if search.best is None:
        search.best = Arrangement(laying.pinned, {k: n for k, n in laying.demand.items() if n})
    yield search.found(last=True)


# ---- plain plates: strips


def _strip_items(laying: Laying) -> list[StripItem]:
    rows = []
    for piece in laying.pieces:
        if laying.demand[piece.key]:
            x0, y0, x1, y1 = piece.area.bounds
            area = grown(shapely.Polygon(piece.area.exterior), laying.gap / 2)
            rough = simpler(area, max(_FINE, _ROUGH * max(x1 - x0, y1 - y0)))
            rows.append(StripItem(piece.key, simpler(area, _FINE), rough, laying.demand[piece.key], piece.turns))
    return rows


def _room(laying: Laying) -> tuple[float, float, float, float]:
    bounds: tuple[float, float, float, float] = laying.usable(0).bounds
    return bounds


def _of_strip(laying: Laying, placed: tuple[Placed, ...], plate: int = 0) -> tuple[Placed, ...]:
    x0, y0, _, _ = _room(laying)
    return tuple(replace(own, plate=plate, x=own.x + x0, y=own.y + y0) for own in placed)


def _plain(search: _Search) -> Iterator[None]:
    """On plates without holes, nothing pinned: what fits into openings first, then strips as short as can be."""
    laying = _that_fit(search)
    left = {key: n for key, n in search.laying.demand.items() if n and key not in laying.by_key}
    if not laying.pieces:
        search.take(Arrangement((), left))
        yield
        return
    inside = housed(laying, search.stop)

    def take(placed: tuple[Placed, ...], more: dict[str, int]) -> bool:
        rows = tuple(row for own in placed for row in inside.apart(own))
        rest = dict(left)
        for key, count in more.items():
            host = inside.hosts.get(key)
            for own in [key] if host is None else [host.of, *(guest.key for guest in host.guests)]:
                rest[own] = rest.get(own, 0) + count
        return search.take(Arrangement(rows, rest))

    yield from _on_plates(search, inside, take)


Take = Callable[[tuple[Placed, ...], dict[str, int]], bool]


def _that_fit(search: _Search) -> Laying:
    """The laying without pieces that fit on no plate at all."""
    laying = search.laying
    shapes = Shapes(laying, 1e-3)
    kept = []
    for piece in laying.pieces:
        ways = options(piece)
        if laying.demand[piece.key] and any(shapes.within(n, own) for n in range(len(laying.blanks)) for own in ways):
            kept.append(piece)
    return replace_pieces(laying, kept)


def replace_pieces(laying: Laying, pieces: list[Any]) -> Laying:
    return Laying(tuple(pieces), laying.blanks, laying.gap, laying.edge, laying.pinned)


def _steps(search: _Search, share: float, count: int) -> int:
    """How many steps of the strip packer a share of the time is good for."""
    return max(_LEAST_STEPS, int(search.work * share * min(1.0, _MANY / count)))


def _on_plates(search: _Search, inside: Housed, take: Take) -> Iterator[None]:
    laying = inside.laying
    count = sum(laying.demand.values())
    x0, y0, x1, y1 = _room(laying)
    items = _strip_items(laying)
    one_plate = laying.blanks[0].count != 0 and tall_enough(items, y1 - y0) and not any(p.flips for p in laying.pieces)
    needed = math.fsum(grown_area(laying, key) * n for key, n in laying.demand.items()) / max((x1 - x0) * (y1 - y0), 1e-9)
    if not one_plate or needed > 1.0:
        yield from _many(search, laying, take, needed)
        return
    fits = False
    steps = _steps(search, 1.0, count) if search.counted else None
    for strip in strips(items, y1 - y0, search.time_left, steps, search.seed, search.stop, x1 - x0):
        search.steps += 1
        if strip.width <= (x1 - x0) + 1e-6:
            fits = True
            if take(_of_strip(laying, strip.placed), {}):
                yield
    if not fits:
        yield from _many(search, laying, take, needed)


def _many(search: _Search, laying: Laying, take: Take, needed: float) -> Iterator[None]:
    """On several plates: laid one by one, then each plate anew from all that is left, as full as can be."""
    shapes = Shapes(laying)
    first = filled(laying, shapes, queue_of(laying), search._asked, ways=2)
    if take(first.placed, first.left):
        yield
    if search.stop():
        return
    second = filled(laying, shapes, queue_of(laying), search.stop)
    search.steps += 1
    if take(second.placed, second.left):
        yield
    best = min((first, second), key=lambda own: worth(laying, own))
    rounds = 0
    while not search.stop() and rounds < 3:
        rounds += 1
        packed = yield from _packed(search, laying, shapes, best, search.seed + rounds)
        if packed is None:
            return
        if take(packed.placed, packed.left):
            best = packed
            yield


def _packed(search: _Search, laying: Laying, shapes: Shapes, best: Arrangement, seed: int) -> Any:
    """Plate after plate, each a strip of as much as it may hold, its rest filled piece by piece."""
    rest = dict(laying.demand)
    placed: list[Placed] = []
    plates = max(best.plates, 1)
    share = 1.0 / (3 * plates)
    number = 0
    while any(rest.values()) and not search.stop():
        blank = laying.blank_of(number)
        if blank is None:
            break
        own = yield from _one_plate(search, laying, shapes, rest, number, blank, seed + 17 * number, share)
        if not own:
            break
        placed += own
        for row in own:
            rest[row.key] -= 1
        number += 1
    if search.stop() and any(rest.values()):
        return None
    return Arrangement(tuple(placed), {key: n for key, n in rest.items() if n})


def _one_plate(
    search: _Search, laying: Laying, shapes: Shapes, rest: dict[str, int], number: int, blank: int, seed: int, share: float
) -> Any:
    x0, y0, x1, y1 = laying.usable(blank).bounds
    room = (x1 - x0) * (y1 - y0)
    for full in (0.92, 0.86, 0.80, 0.74):
        chosen, taken = {}, 0.0
        for key in sorted(rest, key=lambda k: (-grown_area(laying, k), k)):
            size = grown_area(laying, key)
            count = min(rest[key], max(0, int((full * room - taken) / size)))
            if count:
                chosen[key] = count
                taken += count * size
        if not chosen:
            return []
        part = replace_pieces(laying, [replace(p, quantity=chosen[p.key]) for p in laying.pieces if p.key in chosen])
        items = _strip_items(part)
        if not tall_enough(items, y1 - y0):
            return []
        steps = _steps(
            search,
            share / 4 if taken < sum(grown_area(laying, k) * n for k, n in rest.items()) else share,
            sum(chosen.values()),
        )
        best = None
        for strip in strips(items, y1 - y0, search.time_left, steps, seed, search.stop):
            search.steps += 1
            best = strip
            if strip.width <= x1 - x0 and taken < math.fsum(grown_area(laying, k) * n for k, n in rest.items()) - 1e-6:
                # it is full enough: the rest goes into what is left of it
                break
        if best is None or best.width > x1 - x0:
            continue
        rows = [replace(own, plate=number, x=own.x + x0, y=own.y + y0) for own in best.placed]
        plate = Plate(shapes, blank)
        for row in rows:
            plate.add((row.key, row.turn, row.flipped), row.x, row.y)
        more = {key: rest[key] - chosen.get(key, 0) for key in rest}
        for key in sorted(more, key=lambda k: (-grown_area(laying, k), k)):
            while more[key] > 0 and not search.stop():
                spot = best_spot(plate, options(laying.by_key[key]))
                if spot is None:
                    break
                plate.add(spot.turned, spot.x, spot.y)
                rows.append(Placed(key, number, spot.x, spot.y, spot.turned[1], spot.turned[2]))
                more[key] -= 1
        yield
        return rows
    return []


# ---- remnants and pins: laid one by one, in other orders


def _around(search: _Search) -> Iterator[None]:
    laying, shapes = search.laying, Shapes(search.laying)
    if search.take(filled(laying, shapes, queue_of(laying), search._asked, ways=2)):
        yield
    rounds = max(2, int(search.work / WORK * _ROUNDS * 10 / search.count))
    lots = random.Random(search.seed)
    for number in range(rounds):
        if search.stop():
            return
        queue = queue_of(laying, lots if number else None)
        made = filled(laying, shapes, queue, search.stop)
        search.steps += 1
        if not search.timed and search.take(made):
            yield
