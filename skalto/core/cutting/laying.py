"""From a cutting list to what packing is asked, and back to plates with parts on them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import shapely

from skalto.core.cutting.choices import CutChoices, Grain, PlacedProfile, Plate, Turning
from skalto.core.cutting.packing.pieces import Arrangement, Blank, Laying, Piece, Placed, polygon_of
from skalto.core.cutting.section import CutList, CutPart, CuttingContent
from skalto.core.errors import InputError
from skalto.core.geometry.profile import Profile


def blank_of(plate: Plate) -> Blank:
    """A plate as packing sees it."""
    if not plate.remnant:
        return Blank(shapely.box(0, 0, plate.width, plate.height), plate.count)
    outline, *holes = plate.remnant
    return Blank(shapely.make_valid(shapely.Polygon(outline, holes)), plate.count)


def _turns(part: CutPart, cut_list: CutList) -> tuple[float, ...] | None:
    """How a part may be turned. On a plate with a grain it keeps to it: its own grain runs along its width."""
    turning = part.turning or cut_list.choices.turning
    grains = {plate.grain for plate in cut_list.plates} - {Grain.NONE}
    if not grains:
        return turning.angles
    along = {Grain.ALONG: (0.0, 180.0), Grain.ACROSS: (90.0, 270.0)}
    allowed = tuple(angle for grain in grains for angle in along[grain])
    return allowed if turning is not Turning.NONE else allowed[:1]


_SAME = 1e-6


def _refuse_gap(choices: CutChoices) -> None:
    """A gap narrower than the beam: where parts do not share their cut at nominal, the cut of one takes of the next."""
    shared = choices.common_cut and not choices.compensated
    if choices.gap < choices.kerf - _SAME and not shared:
        more = "" if choices.common_cut else ", or more"
        raise InputError(
            f"Parts {choices.gap:g} mm apart cannot be cut by a beam that takes {choices.kerf:g} mm: each cut "
            f"would take of the next part. Set the gap to {choices.kerf:g} mm{more}."
        )


def laying_of(cut_list: CutList, profiles: Mapping[str, Profile], pinned: Sequence[tuple[int, PlacedProfile]] = ()) -> Laying:
    """What packing is asked.

    :param pinned: parts that stay, each with its plate.
    :raises InputError: without a part, a plate or room, and for a part that cannot be cut.
    """
    if not cut_list.plates:
        raise InputError("There is no plate: choose one.")
    wanted = [part for part in cut_list.parts if part.quantity]
    if not wanted:
        raise InputError("There is nothing to cut: every quantity is nought.")
    _refuse_gap(cut_list.choices)
    pieces = []
    for part in wanted:
        profile = profiles[part.id]
        faults = profile.faults()
        if faults:
            raise InputError(f"{part.name} cannot be cut: {faults[0]} Mend its drawing.")
        _refuse_thickness(part, profile, cut_list.plates)
        flips = part.flips if part.flips is not None else cut_list.choices.flips
        # what is scored or engraved on a part is on the side that is seen
        flips = flips and not profile.marks and not part.decorations
        pieces.append(Piece(part.id, polygon_of(profile), part.quantity, _turns(part, cut_list), flips, profile.area))
    edge = max(plate.edge for plate in cut_list.plates)
    blanks = tuple(blank_of(plate) for plate in cut_list.plates)
    rows = tuple(
        Placed(own.part, plate, own.x, own.y, own.turn, own.flipped, True, own.id) for plate, own in pinned
    )  # fmt: skip
    return Laying(tuple(pieces), blanks, cut_list.choices.gap, edge, rows)


def _refuse_thickness(part: CutPart, profile: Profile, plates: Sequence[Plate]) -> None:
    known = [plate for plate in plates if plate.thickness]
    if not profile.thickness or not known:
        return
    if all(abs(plate.thickness - profile.thickness) > 0.05 for plate in known):
        raise InputError(
            f"{part.name} is {profile.thickness:.4g} mm thick, the plate {known[0].thickness:.4g} mm: take another plate."
        )


def why_left(laying: Laying, key: str) -> str:
    """Why a piece found no place, to follow its name."""
    piece = laying.by_key[key]
    sizes = []
    for blank in laying.blanks:
        x0, y0, x1, y1 = blank.area.bounds
        sizes.append((x1 - x0 - 2 * laying.edge, y1 - y0 - 2 * laying.edge))
    x0, y0, x1, y1 = piece.area.bounds
    wide, high = x1 - x0, y1 - y0
    fits = any((wide <= w and high <= h) or (wide <= h and high <= w) for w, h in sizes)
    if not fits and piece.turns is not None:
        w, h = max(sizes)
        return f"at {wide:.4g} × {high:.4g} mm it is larger than a plate within its margins, {w:.4g} × {h:.4g} mm"
    return "there is no more room on the plates that there are"


def contents_of(cut_list: CutList, laying: Laying, arrangement: Arrangement) -> list[CuttingContent]:
    """What lies on each plate, in order."""
    found = []
    for number in range(arrangement.plates):
        blank = laying.blank_of(number)
        assert blank is not None, "it has pieces on it"
        rows = []
        for place, own in enumerate(sorted(arrangement.on(number), key=lambda p: (not p.pinned, p.key, p.x, p.y)), 1):
            rows.append(
                PlacedProfile(
                    id=own.id or f"{number + 1}-{place}", part=own.key, x=own.x, y=own.y, turn=own.turn % 360,
                    flipped=own.flipped,
                    pinned=own.pinned,
                )
            )  # fmt: skip
        found.append(CuttingContent(cut_list=cut_list.id, plate=blank, placed=tuple(rows)))
    return found
