"""A second PDF engine's view of a page: pdfminer.six, content streams read in double precision."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pdfminer.pdfdevice import PDFDevice
from pdfminer.pdfinterp import PDFPageInterpreter, PDFResourceManager
from pdfminer.pdfpage import PDFPage
from pdfminer.utils import apply_matrix_pt

MM = 25.4 / 72


class _Paths(PDFDevice):
    def __init__(self) -> None:
        super().__init__(PDFResourceManager())
        self.paths: list[tuple[float, list[Any]]] = []

    def paint_path(self, graphicstate: Any, stroke: bool, fill: bool, evenodd: bool, path: list[Any]) -> None:
        moved = []
        for operator, *values in path:
            points = [apply_matrix_pt(self.ctm, (values[i], values[i + 1])) for i in range(0, len(values), 2)]
            moved.append((operator, *points))
        self.paths.append((graphicstate.linewidth * MM, moved))


class Page:
    """Box in mm, and for each painted path its line width and dense points, mm."""

    def __init__(self, data: bytes, samples: int = 257) -> None:
        device = _Paths()
        interpreter = PDFPageInterpreter(device.rsrcmgr, device)
        (page,) = PDFPage.get_pages(io.BytesIO(data))
        interpreter.process_page(page)
        x0, y0, x1, y1 = page.mediabox
        self.width, self.height = (x1 - x0) * MM, (y1 - y0) * MM
        self.widths = [width for width, _ in device.paths]
        self.points = [self._sample(path, samples) for _, path in device.paths]
        self.round = ["c" in {op for op, *_ in path} and "l" not in {op for op, *_ in path} for _, path in device.paths]
        self.closed = [path[-1][0] == "h" for _, path in device.paths]

    @staticmethod
    def _sample(path: list[Any], samples: int) -> NDArray[np.float64]:
        here, found = np.zeros(2), []
        t = np.linspace(0, 1, samples)[:, None]
        for operator, *points in path:
            if operator in "ml":
                found.append(np.array(points))
            elif operator == "c":
                a, b, c = (np.array(p) for p in points)
                found.append((1 - t) ** 3 * here + 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t * t * b + t**3 * c)
            if points:
                here = np.array(points[-1])
        return np.concatenate(found) * MM

    def extent(self, skip: int = 0) -> NDArray[np.float64]:
        """Width and height of all paths but the first *skip*."""
        every = np.concatenate(self.points[skip:])
        size: NDArray[np.float64] = np.ptp(every, axis=0)
        return size

    def circles(self) -> list[tuple[float, float, float]]:
        """Centre and diameter of every closed round path: the mean of its extents, which a circle's are equal."""
        found = []
        for points, is_round, closed in zip(self.points, self.round, self.closed, strict=True):
            if is_round and closed:
                low, high = points.min(axis=0), points.max(axis=0)
                centre = (low + high) / 2
                found.append((float(centre[0]), float(centre[1]), float(2 * np.linalg.norm(points - centre, axis=1).mean())))
        return found
