"""Contours as paths of SVG."""

from __future__ import annotations

from skalto.core.geometry.contour import Contour
from skalto.core.geometry.segments import Arc, Line


def svg_path(contour: Contour) -> str:
    """A contour as an SVG path, y up (SVG 1.1, 8.3)."""
    x, y = contour.start
    out = [f"M{x:.4f} {y:.4f}"]
    for own in contour:
        if isinstance(own, Line):
            out.append(f"L{own.end[0]:.4f} {own.end[1]:.4f}")
        elif isinstance(own, Arc):
            # an arc of a whole turn has no ends that tell it
            for half in own.halves() if abs(own.sweep) > 3 else (own,):
                way = 1 if half.sweep > 0 else 0
                out.append(f"A{half.radius:.4f} {half.radius:.4f} 0 0 {way} {half.end[0]:.4f} {half.end[1]:.4f}")
        else:
            numbers = " ".join(f"{v:.4f}" for point in (own.first, own.second, own.end) for v in point)
            out.append(f"C{numbers}")
    return "".join(out) + ("Z" if contour.closed else "")
