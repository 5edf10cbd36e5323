"""Small pieces in the openings of large ones: a host and its guests are laid as one."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import shapely

from skalto.core.cutting.packing.filling import best_spot, options
from skalto.core.cutting.packing.pieces import Blank, Laying, Piece, Placed
from skalto.core.cutting.packing.regions import Plate, Shapes


@dataclass(frozen=True, eq=False)
class Host:
    """A piece of its own name with others in its openings: *guests* lie where they do when the host's origin is at (0, 0)."""

    piece: Piece
    of: str
    guests: tuple[Placed, ...]


@dataclass(frozen=True, eq=False)
class Housed:
    """A laying whose hosts are pieces of their own, and how to take them apart again."""

    laying: Laying
    hosts: dict[str, Host]

    def apart(self, placed: Placed) -> list[Placed]:
        """A host and its guests, or the piece itself."""
        host = self.hosts.get(placed.key)
        if host is None:
            return [placed]
        rows = [replace(placed, key=host.of)]
        for guest in host.guests:
            turn = math.radians(placed.turn)
            x, y = math.cos(turn) * guest.x - math.sin(turn) * guest.y, math.sin(turn) * guest.x + math.cos(turn) * guest.y
            rows.append(replace(guest, plate=placed.plate, x=x + placed.x, y=y + placed.y, turn=guest.turn + placed.turn))
        return rows


def housed(laying: Laying, stop: Callable[[], bool] = lambda: False) -> Housed:
    """Put what fits into the openings of what is to be laid: the largest openings first, the largest guests first."""
    demand = dict(laying.demand)
    spots: list[tuple[float, str, Any]] = []
    for piece in laying.pieces:
        for ring in piece.area.interiors:
            opening = shapely.Polygon(ring)
            if demand[piece.key]:
                spots.append((opening.area, piece.key, opening))
    spots.sort(key=lambda row: (-row[0], row[1]))
    least = min((piece.area.area for piece in laying.pieces), default=0.0)
    hosts: dict[str, Host] = {}
    number = 0
    for key in dict.fromkeys(key for _, key, _ in spots):
        openings = [opening for size, own, opening in spots if own == key and size > least]
        while openings and demand.get(key, 0) and not stop():
            guests = _guests(laying, key, openings, demand)
            if not guests:
                break
            demand[key] -= 1
            for guest in guests:
                demand[guest.key] -= 1
            number += 1
            own = laying.by_key[key]
            turns = _shared_turns(own, guests, laying)
            hosts[f"{key} host {number}"] = Host(
                Piece(f"{key} host {number}", shapely.Polygon(own.area.exterior), 1, turns, False), key, guests
            )
    pieces = [replace(piece, quantity=demand[piece.key]) for piece in laying.pieces if demand[piece.key] > 0]
    rest = Laying((*pieces, *(host.piece for host in hosts.values())), laying.blanks, laying.gap, laying.edge)
    return Housed(rest, hosts)


def _guests(laying: Laying, host: str, openings: list[Any], demand: dict[str, int]) -> tuple[Placed, ...]:
    """What goes into the openings of one host, turned against it so that both are turned as they may be when the host is turned
    its first way."""
    found: list[Placed] = []
    rest = demand | {host: demand[host] - 1}
    turns = laying.by_key[host].turns
    first = turns[0] if turns else 0.0
    for opening in openings:
        room = opening.buffer(-laying.gap)
        fits = [_against(p, first) for p in laying.pieces if rest.get(p.key, 0) > 0 and p.area.area <= room.area]
        if not fits:
            continue
        within = Laying(tuple(fits), (Blank(opening, 1),), laying.gap, laying.gap)
        plate = Plate(Shapes(within), 0)
        for piece in sorted(fits, key=lambda p: (-p.area.area, p.key)):
            ways = [own for own in options(piece) if not own[2]]
            while rest.get(piece.key, 0) > 0:
                spot = best_spot(plate, ways)
                if spot is None:
                    break
                plate.add(spot.turned, spot.x, spot.y)
                rest[piece.key] -= 1
                found.append(Placed(piece.key, 0, spot.x, spot.y, spot.turned[1]))
    return tuple(found)


def _against(piece: Piece, turn: float) -> Piece:
    """A piece whose turns are counted from a host that is turned."""
    return piece if piece.turns is None else replace(piece, turns=tuple((own - turn) % 360 for own in piece.turns))


def _shared_turns(host: Piece, guests: tuple[Placed, ...], laying: Laying) -> tuple[float, ...] | None:
    """The turns of a host that its guests may make with it."""
    rows = host.turns
    for guest in guests:
        allowed = laying.by_key[guest.key].turns
        if allowed is None:
            continue
        own = {round(turn % 360, 6) for turn in allowed}
        asked = rows if rows is not None else tuple((turn - guest.turn) % 360 for turn in allowed)
        rows = tuple(turn for turn in asked if round((turn + guest.turn) % 360, 6) in own)
    return rows
