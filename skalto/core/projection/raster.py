"""Triangles as pixels, compiled."""

from __future__ import annotations

import numba
import numpy as np


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def fill(points, colours, depth, pixels):  # type: ignore[no-untyped-def]
    """Draw triangles (n, 3, 3) in pixel coordinates, z toward the viewer, nearest wins; *colours* (n, 3, 3) are those
    of the corners, and run evenly between them."""
    rows, columns = depth.shape
    for t in range(len(points)):
        ax, ay, az = points[t, 0]
        bx, by, bz = points[t, 1]
        cx, cy, cz = points[t, 2]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if abs(area) < 1e-12:
            continue
        y0, y1 = max(0, int(np.ceil(min(ay, by, cy) - 0.5))), min(rows - 1, int(np.floor(max(ay, by, cy) - 0.5)))
        for j in range(y0, y1 + 1):
            y = j + 0.5
            # between which edges this row runs: a long sliver is far smaller than its box
            left, right = np.inf, -np.inf
            for px, py, qx, qy in ((ax, ay, bx, by), (bx, by, cx, cy), (cx, cy, ax, ay)):
                if py != qy and min(py, qy) <= y <= max(py, qy):
                    x = px + (qx - px) * (y - py) / (qy - py)
                    left, right = min(left, x), max(right, x)
            if left > right:
                continue
            for i in range(max(0, int(np.ceil(left - 0.5 - 1e-9))), min(columns - 1, int(np.floor(right - 0.5 + 1e-9))) + 1):
                x = i + 0.5
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
                z = u * az + v * bz + (1.0 - u - v) * cz
                if z > depth[j, i]:
                    depth[j, i] = z
                    for k in range(3):
                        mixed = u * colours[t, 0, k] + v * colours[t, 1, k] + (1.0 - u - v) * colours[t, 2, k]
                        pixels[j, i, k] = min(255, max(0, int(mixed + 0.5)))
                    pixels[j, i, 3] = 255


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def halve(pixels, halved):  # type: ignore[no-untyped-def]
    """Two by two pixels to one, colours weighed by their cover."""
    for j in range(halved.shape[0]):
        for i in range(halved.shape[1]):
            cover = red = green = blue = np.int64(0)
            for n in range(4):
                pixel = pixels[2 * j + n // 2, 2 * i + n % 2]
                a = np.int64(pixel[3])
                cover += a
                red += a * pixel[0]
                green += a * pixel[1]
                blue += a * pixel[2]
            # where nothing is, white: a reader that ignores the mask shows paper
            halved[j, i, 0] = red // cover if cover else 255
            halved[j, i, 1] = green // cover if cover else 255
            halved[j, i, 2] = blue // cover if cover else 255
            halved[j, i, 3] = cover // 4
