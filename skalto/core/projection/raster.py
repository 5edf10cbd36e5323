"""Triangles as pixels, compiled."""

from __future__ import annotations

import numba
import numpy as np


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _run(corners, y):  # type: ignore[no-untyped-def]
    """From where to where a triangle (3, 3) lies in a row of pixels, left beyond right where it does not: a long sliver is far
    smaller than its box."""
    left, right = np.inf, -np.inf
    for n in range(3):
        px, py, qx, qy = corners[n, 0], corners[n, 1], corners[(n + 1) % 3, 0], corners[(n + 1) % 3, 1]
        if py != qy and min(py, qy) <= y <= max(py, qy):
            x = px + (qx - px) * (y - py) / (qy - py)
            left, right = min(left, x), max(right, x)
    return left, right


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def fill(points, colours, depth, pixels, cover=255):  # type: ignore[no-untyped-def]
    """Draw triangles (n, 3, 3) in pixel coordinates, z toward the viewer, nearest wins; *colours* (n, 3, 3) are those
    of the corners, and run evenly between them. *cover* is what stands in the fourth channel of what is drawn."""
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
            left, right = _run(points[t], y)
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
                    pixels[j, i, 3] = cover


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def fill_picture(points, light, places, shares, picture, depth, pixels):  # type: ignore[no-untyped-def]
    """As :func:`fill`, with a picture (rows, columns, 3) that lies on the triangles: *light* (n, 3, 3) is what each corner
    shows of it, *places* (n, 3, 2) where it lies there, to the right and up, *shares* (n, 3) by what these are divided between
    the corners."""
    rows, columns = depth.shape
    high, wide = picture.shape[:2]
    for t in range(len(points)):
        ax, ay, az = points[t, 0]
        bx, by, bz = points[t, 1]
        cx, cy, cz = points[t, 2]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if abs(area) < 1e-12:
            continue
        y0, y1 = max(0, int(np.ceil(min(ay, by, cy) - 0.5))), min(rows - 1, int(np.floor(max(ay, by, cy) - 0.5)))
        for j in range(y0, y1 + 1):
            left, right = _run(points[t], j + 0.5)
            if left > right:
                continue
            for i in range(max(0, int(np.ceil(left - 0.5 - 1e-9))), min(columns - 1, int(np.floor(right - 0.5 + 1e-9))) + 1):
                x, y = i + 0.5, j + 0.5
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
                w = 1.0 - u - v
                z = u * az + v * bz + w * cz
                if z <= depth[j, i]:
                    continue
                depth[j, i] = z
                a, b, c = u * shares[t, 0], v * shares[t, 1], w * shares[t, 2]
                whole = a + b + c
                s = (a * places[t, 0, 0] + b * places[t, 1, 0] + c * places[t, 2, 0]) / whole
                r = (a * places[t, 0, 1] + b * places[t, 1, 1] + c * places[t, 2, 1]) / whole
                column = min(wide - 1, int((s - np.floor(s)) * wide))
                row = min(high - 1, int((1.0 - (r - np.floor(r))) * high))
                for k in range(3):
                    lit = u * light[t, 0, k] + v * light[t, 1, k] + w * light[t, 2, k]
                    pixels[j, i, k] = min(255, max(0, int(picture[row, column, k] * lit + 0.5)))
                pixels[j, i, 3] = 255


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def stroke(ends, depth, pixels, ink):  # type: ignore[no-untyped-def]
    """Draw segments (n, 2, 3) in pixel coordinates, two pixels wide, where nothing is nearer by more than two thousandths of
    its distance."""
    rows, columns = depth.shape
    for n in range(len(ends)):
        ax, ay, az = ends[n, 0]
        bx, by, bz = ends[n, 1]
        if ax == bx and ay == by:
            continue  # seen end on, or behind the camera
        steps = max(1, min(100_000, int(np.ceil(max(abs(bx - ax), abs(by - ay))))))
        for step in range(steps + 1):
            share = step / steps
            x, y, z = ax + (bx - ax) * share, ay + (by - ay) * share, az + (bz - az) * share
            for k in range(4):
                i, j = int(np.floor(x - 0.5)) + k % 2, int(np.floor(y - 0.5)) + k // 2
                if 0 <= i < columns and 0 <= j < rows and z + 0.002 * abs(z) >= depth[j, i]:
                    pixels[j, i, :3] = ink
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
