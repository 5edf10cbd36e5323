"""The bit stream of U3D's continuation blocks (ECMA-363, clause 10): one binary arithmetic coder for all that is in a block.

Bits fill bytes from the low end. Compiled, since every symbol depends on the one before it.
"""

from __future__ import annotations

from collections.abc import Sequence

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.errors import InputError
from skalto.core.output.u3d.blocks import STATIC_LIMIT

Bytes = NDArray[np.uint8]
Ints = NDArray[np.int64]
_compiled = numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
_DYNAMIC_LIMIT = 0x1FFF
"""A dynamic context's total at which its counts are halved."""


@_compiled
def _put(out, at, bits, count):  # type: ignore[no-untyped-def]
    """Put *count* bits, the first in the lowest place, at the place *at*, in bits; the new place."""
    while count > 0:
        free = 8 - (at & 7)
        out[at >> 3] |= np.uint8((bits << (at & 7)) & 0xFF)
        step = min(free, count)
        bits >>= step
        at += step
        count -= step
    return at


@_compiled
def _encode(state, out, cum, freq, total):  # type: ignore[no-untyped-def]
    """Write one symbol; *state* is low, high, pending bits, place in bits."""
    low, high, pending, at = state[0], state[1], state[2], state[3]
    span = high + 1 - low
    high = np.int64(low - 1 + np.uint32(span * (cum + freq)) // np.uint32(total))
    low = np.int64(low + np.uint32(span * cum) // np.uint32(total))
    bits, count = np.int64(0), np.int64(0)
    while (low ^ high) & 0x8000 == 0:
        bit = high >> 15
        bits |= bit << count
        count += 1
        if pending > 0:
            at = _put(out, at, bits, count)
            bits, count = np.int64(0), np.int64(0)
            while pending > 0:
                step = min(pending, np.int64(16))
                at = _put(out, at, ((np.int64(1) << step) - 1) * (bit ^ 1), step)
                pending -= step
        low = (low << 1) & 0xFFFF
        high = ((high << 1) & 0xFFFF) | 1
    if count > 0:
        at = _put(out, at, bits, count)
    while low & 0x4000 and not high & 0x4000:
        high = ((high & 0x3FFF) << 1) | 0x8001
        low = (low & 0x3FFF) << 1
        pending += 1
    state[0], state[1], state[2], state[3] = low, high, pending, at


@_compiled
def _encode_plain(state, out, value, count):  # type: ignore[no-untyped-def]
    """Write *count* bytes of a number, the low one first; each goes with its bits reversed."""
    for _ in range(count):
        byte = value & 0xFF
        turned = 0
        for k in range(8):
            turned |= ((byte >> k) & 1) << (7 - k)
        _encode(state, out, turned, 1, 256)
        value >>= 8


@_compiled
def _encode_static(state, out, value, total):  # type: ignore[no-untyped-def]
    if total < STATIC_LIMIT:
        _encode(state, out, value, 1, total)
    else:
        _encode_plain(state, out, value, 4)


@_compiled
def _count(counts, symbol):  # type: ignore[no-untyped-def]
    """Count a symbol of a dynamic context; the last place of *counts* is the total."""
    if counts[-1] >= _DYNAMIC_LIMIT:
        total = 0
        for k in range(len(counts) - 1):
            counts[k] >>= 1
            total += counts[k]
        counts[0] += 1
        counts[-1] = total + 1
    counts[symbol] += 1
    counts[-1] += 1


@_compiled
def _encode_dynamic(state, out, counts, value):  # type: ignore[no-untyped-def]
    symbol = value + 1
    below = 0
    if counts[symbol] == 0:
        _encode(state, out, 0, counts[0], counts[-1])
        _encode_plain(state, out, value, 4)
        _count(counts, 0)
    else:
        for k in range(symbol):
            below += counts[k]
        _encode(state, out, below, counts[symbol], counts[-1])
    _count(counts, symbol)


@_compiled
def _encode_faces(out, start, corners, normals, uvs, shading, positions, normal_count, shadings, uv_count):  # type: ignore[no-untyped-def]
    state = np.array([0, 0xFFFF, 0, start], np.int64)
    counts = np.zeros(shadings + 2, np.int64)
    counts[0] = counts[-1] = 1
    for t in range(len(corners)):
        _encode_dynamic(state, out, counts, shading[t])
        for k in range(3):
            _encode_static(state, out, corners[t, k], positions)
            if normal_count:
                _encode_static(state, out, normals[t, k], normal_count)
            if uv_count:
                _encode_static(state, out, uvs[t, k], uv_count)
    _encode_plain(state, out, 0, 4)
    return state[3]


def encode_faces(
    plain: bytes, corners: Ints, normals: Ints, uvs: Ints, shading: Ints, counts: tuple[int, int, int, int]
) -> bytes:  # fmt: skip
    """A base mesh's data: *plain* numbers, which stand as they are before any context is used, then the faces.

    :param corners: position indices (m, 3). :param normals: normal indices (m, 3). :param uvs: indices of places on a picture
        (m, 3). :param shading: ids (m,). :param counts: of positions, normals, shadings and places on a picture.
    """
    symbols = 3 * (1 + bool(counts[1]) + bool(counts[3]))
    # at most 32 bits an index and 48 a shading, and the flush
    out = np.zeros(len(plain) + len(corners) * (symbols * 5 + 6) + 16, np.uint8)
    out[: len(plain)] = np.frombuffer(plain, np.uint8)
    end = _encode_faces(
        out, len(plain) * 8, np.ascontiguousarray(corners, np.int64), np.ascontiguousarray(normals, np.int64),
        np.ascontiguousarray(uvs, np.int64), np.ascontiguousarray(shading, np.int64), *counts,
    )  # fmt: skip
    return out[: -(-int(end) // 8)].tobytes()


@_compiled
def _next(state, data):  # type: ignore[no-untyped-def]
    at = state[3]
    state[3] = at + 1
    if at >> 3 >= len(data):
        return np.int64(0)
    return np.int64((data[at >> 3] >> (at & 7)) & 1)


@_compiled
def _take(state, data, cum, freq, total):  # type: ignore[no-untyped-def]
    """Drop a symbol that was found; *state* is low, high, code, place in bits."""
    low, high, code = state[0], state[1], state[2]
    span = high + 1 - low
    high = np.int64(low - 1 + np.uint32(span * (cum + freq)) // np.uint32(total))
    low = np.int64(low + np.uint32(span * cum) // np.uint32(total))
    while (low ^ high) & 0x8000 == 0:
        low = (low << 1) & 0xFFFF
        high = ((high << 1) & 0xFFFF) | 1
        code = ((code << 1) & 0xFFFF) | _next(state, data)
    while low & 0x4000 and not high & 0x4000:
        high = ((high & 0x3FFF) << 1) | 0x8001
        low = (low & 0x3FFF) << 1
        code = ((code - 0x4000) << 1 & 0xFFFF) | _next(state, data)
    state[0], state[1], state[2] = low, high, code


@_compiled
def _place(state, total):  # type: ignore[no-untyped-def]
    """The count within *total* at which the code stands."""
    return np.int64(np.uint32((state[2] - state[0] + 1) * total - 1) // np.uint32(state[1] + 1 - state[0]))


@_compiled
def _decode_plain(state, data, count):  # type: ignore[no-untyped-def]
    value = np.int64(0)
    for n in range(count):
        turned = _place(state, 256)
        _take(state, data, turned, 1, 256)
        byte = 0
        for k in range(8):
            byte |= ((turned >> k) & 1) << (7 - k)
        value |= byte << (8 * n)
    return value


@_compiled
def _decode_static(state, data, total):  # type: ignore[no-untyped-def]
    if total >= STATIC_LIMIT:
        return _decode_plain(state, data, 4)
    value = _place(state, total)
    _take(state, data, value, 1, total)
    return value


@_compiled
def _decode_dynamic(state, data, counts):  # type: ignore[no-untyped-def]
    place = _place(state, counts[-1])
    below = 0
    symbol = 0
    while symbol < len(counts) - 2 and below + counts[symbol] <= place:
        below += counts[symbol]
        symbol += 1
    _take(state, data, below, counts[symbol], counts[-1])
    if symbol > 0:
        _count(counts, symbol)
        return symbol - 1
    value = _decode_plain(state, data, 4)
    if value >= len(counts) - 2:
        return -1
    _count(counts, 0)
    _count(counts, value + 1)
    return value


@_compiled
def _index(state, data, count):  # type: ignore[no-untyped-def]
    """An index below *count*, or −1 for one that points at nothing."""
    value = _decode_static(state, data, count)
    return value if 0 <= value < count else np.int64(-1)


@_compiled
def _decode_faces(data, start, corners, normals, uvs, shading, layers, positions, normal_count, shadings, uv_count):  # type: ignore[no-untyped-def]
    """Fill faces; the number of the first bad one, or −1, and the place in bits after the last."""
    state = np.array([0, 0xFFFF, 0, start], np.int64)
    for _ in range(16):
        state[2] = (state[2] << 1) | _next(state, data)
    counts = np.zeros(shadings + 2, np.int64)
    counts[0] = counts[-1] = 1
    most = len(data) * 8 + 48
    for t in range(len(corners)):
        value = _decode_dynamic(state, data, counts)
        if value < 0 or state[3] > most:
            return t, state[3]
        shading[t] = value
        for k in range(3):
            corners[t, k] = _index(state, data, positions)
            if normal_count:
                normals[t, k] = _index(state, data, normal_count)
            for layer in range(layers[value]):
                place = _index(state, data, uv_count)
                if layer == 0:
                    uvs[t, k] = place
            if corners[t, k] < 0 or normals[t, k] < 0 or uvs[t, k] < 0:
                return t, state[3]
    return -1, state[3]


def decode_faces(
    data: bytes, start: int, faces: int, counts: tuple[int, int, int, int], layers: Sequence[int] = ()
) -> tuple[Ints, Ints, Ints, Ints]:  # fmt: skip
    """The faces behind *start* plain bytes of a base mesh: position indices (m, 3), normal indices (m, 3), shadings (m,), and
    indices of places on the first picture (m, 3), 0 where none lies.

    The caller has seen to it that so many faces can be in so many bytes. *layers*: how many pictures each shading has.

    :raises InputError: when an index points nowhere, or the data ends too early.
    """
    corners, normals, uvs = (np.zeros((faces, 3), np.int64) for _ in range(3))
    shading = np.zeros(faces, np.int64)
    lie = np.zeros(counts[2] + 1, np.int64)
    lie[: len(layers)] = layers
    bad, _ = _decode_faces(np.frombuffer(data, np.uint8), start * 8, corners, normals, uvs, shading, lie, *counts)
    if bad >= 0:
        raise InputError(f"Face {int(bad) + 1} of a mesh points at nothing, or the file ends before it.")
    return corners, normals, shading, uvs
