"""The segments of pdfium's paths, many at a time: its functions are called from compiled code, by their addresses."""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from functools import cache
from typing import Any

import numba
import numpy as np
import pypdfium2.raw as raw
from llvmlite import ir
from numba.core import types
from numba.extending import intrinsic
from numpy.typing import NDArray

from skalto.core.geometry import Array

Ints = NDArray[np.int64]
_LINE, _CURVE = raw.FPDF_SEGMENT_LINETO, raw.FPDF_SEGMENT_BEZIERTO
_compiled = numba.njit(cache=True, error_model="numpy")


def _call(result: Any, *arguments: Any) -> Any:
    """An intrinsic that calls the C function at an address, with whole numbers and addresses for its arguments."""

    def build(context: Any, *given: Any) -> Any:
        def generate(context: Any, builder: Any, signature: Any, values: Any) -> Any:
            kind = ir.FunctionType(result, list(arguments))
            function = builder.inttoptr(values[0], kind.as_pointer())
            passed = [builder.trunc(v, a) if a.width < 64 else v for v, a in zip(values[1:], arguments, strict=True)]
            found = builder.call(function, passed)
            return found if result.width == 64 else builder.sext(found, ir.IntType(64))

        return types.int64(*(types.int64 for _ in given)), generate

    return build


_WIDE, _INT = ir.IntType(64), ir.IntType(32)
# spelled out: an intrinsic is known by the names of its arguments


@intrinsic  # type: ignore[untyped-decorator]
def _ask(context: Any, function: Any, of: Any) -> Any:
    """``int f(void*)``."""
    return _call(_INT, _WIDE)(context, function, of)


@intrinsic  # type: ignore[untyped-decorator]
def _take(context: Any, function: Any, of: Any, number: Any) -> Any:
    """``void* f(void*, int)``."""
    return _call(_WIDE, _WIDE, _INT)(context, function, of, number)


@intrinsic  # type: ignore[untyped-decorator]
def _place(context: Any, function: Any, of: Any, x: Any, y: Any) -> Any:
    """``int f(void*, float*, float*)``."""
    return _call(_INT, _WIDE, _WIDE, _WIDE)(context, function, of, x, y)


@cache
def _functions() -> Ints:
    """Where pdfium's functions are: count, segment, point, kind, close."""
    names = ("FPDFPath_CountSegments", "FPDFPath_GetPathSegment", "FPDFPathSegment_GetPoint", "FPDFPathSegment_GetType",
             "FPDFPathSegment_GetClose")  # fmt: skip
    return np.array([ctypes.cast(getattr(raw, name), ctypes.c_void_p).value for name in names], np.int64)


@_compiled  # type: ignore[untyped-decorator]
def _counted(functions: Ints, objects: Ints) -> Ints:
    found = np.zeros(len(objects) + 1, np.int64)
    for n in range(len(objects)):
        found[n + 1] = found[n] + max(0, _ask(functions[0], objects[n]))
    return found


@_compiled  # type: ignore[untyped-decorator]
def _read(
    functions: Ints, objects: Ints, first: Ints, point: NDArray[np.float32], at: int
) -> tuple[Array, NDArray[np.bool_], Ints, NDArray[np.bool_], Ints]:
    """Pieces (m, 8), whether each is straight, and the subpath of each; of each subpath whether it is closed; of each object
    how many subpaths there were before it. A segment makes one piece, or a closing one beside it."""
    most = 2 * first[-1]
    pieces, straight, sub = np.empty((most, 8)), np.empty(most, np.bool_), np.empty(most, np.int64)
    closed, before = np.zeros(most + len(objects) + 1, np.bool_), np.zeros(len(objects) + 1, np.int64)
    arms = np.empty(6)
    count, subs = 0, 0
    for n in range(len(objects)):
        begun, own, hx, hy, sx, sy = 0, count, 0.0, 0.0, 0.0, 0.0
        for k in range(first[n + 1] - first[n]):
            segment = _take(functions[1], objects[n], k)
            _place(functions[2], segment, at, at + 4)
            x, y = np.float64(point[0]), np.float64(point[1])
            kind, close = _ask(functions[3], segment), _ask(functions[4], segment)
            if kind == _LINE:
                _straight(pieces, straight, sub, count, subs, hx, hy, x, y)
                count += 1
                hx, hy = x, y
            elif kind == _CURVE:
                arms[2 * begun], arms[2 * begun + 1] = x, y
                begun += 1
                if begun == 3:
                    pieces[count, 0], pieces[count, 1] = hx, hy
                    pieces[count, 2:] = arms
                    straight[count], sub[count] = False, subs
                    count, begun = count + 1, 0
                    hx, hy = x, y
            else:
                if count > own:
                    subs, own = subs + 1, count
                hx, hy, sx, sy = x, y, x, y
            if close:
                if hx != sx or hy != sy:
                    _straight(pieces, straight, sub, count, subs, hx, hy, sx, sy)
                    count += 1
                if count > own:
                    closed[subs] = True
                    subs, own = subs + 1, count
                hx, hy = sx, sy
        if count > own:
            subs += 1
        before[n + 1] = subs
    return pieces[:count], straight[:count], sub[:count], closed[:subs], before


@_compiled  # type: ignore[untyped-decorator]
def _straight(
    pieces: Array, straight: Any, sub: Ints, count: int, subs: int, ax: float, ay: float, bx: float, by: float
) -> None:  # fmt: skip
    row = pieces[count]
    row[0], row[1], row[6], row[7] = ax, ay, bx, by
    row[2], row[3], row[4], row[5] = (2 * ax + bx) / 3, (2 * ay + by) / 3, (ax + 2 * bx) / 3, (ay + 2 * by) / 3
    straight[count], sub[count] = True, subs


def read_segments(objects: Sequence[Any]) -> tuple[Array, NDArray[np.bool_], Ints, NDArray[np.bool_], Ints]:
    """The pieces of path objects as pdfium has them, in their own units: cubic Béziers (m, 4, 2), straight ones with their arms
    on the chord; which are straight (m,); the number of the subpath of each (m,); which subpaths are closed (s,); and before
    which subpath each object begins (n + 1,). Empty subpaths are none."""
    addresses = np.array([ctypes.addressof(own.contents) for own in objects], np.int64)
    point = np.zeros(2, np.float32)
    first = _counted(_functions(), addresses)
    pieces, *rest = _read(_functions(), addresses, first, point, int(point.ctypes.data))
    return (pieces.reshape(-1, 4, 2), *rest)
