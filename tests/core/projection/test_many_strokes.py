"""What the check of a file does many at a time, held against doing it one by one."""

from __future__ import annotations

import ctypes
import io
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays
from reportlab.pdfgen.canvas import Canvas
from scipy.spatial import cKDTree

from skalto.core.checks.pairing import MOST, Near
from skalto.core.checks.segments import read_segments
from skalto.core.checks.vectors import read_page

rows = arrays.arrays(float, st.tuples(st.integers(1, 30), st.just(4)), elements=st.integers(-6, 6).map(lambda n: n / 4))


@settings(max_examples=200, deadline=None)
@given(rows, rows, st.sampled_from((0.1, 0.25, 0.5, 1.6)))
def test_what_lies_near_is_found_as_a_tree_finds_it(one: Any, other: Any, near: float) -> None:
    # not on the limit, where rounding decides
    near += 1e-6
    counts, named = Near(one, near).of(other)
    expected = cKDTree(one).query_ball_point(other, near, p=np.inf)
    assert counts.tolist() == [len(own) for own in expected]
    for row, own in zip(named.tolist(), expected, strict=True):
        found = [n for n in row if n >= 0]
        assert len(found) == min(len(own), MOST)
        assert set(found) <= set(own)
        assert len(set(found)) == len(found)


def test_far_places_do_not_fall_together() -> None:
    far = np.array(((0.0, 0.0), (1e12, 0.0), (-1e12, 5.0), (1e12, 1e12)))
    counts, named = Near(far, 1e-3).of(far)
    assert counts.tolist() == [1, 1, 1, 1]
    assert named[:, 0].tolist() == [0, 1, 2, 3]


def test_nothing_is_near_nothing() -> None:
    assert Near(np.zeros((0, 7)), 1.0).of(np.zeros((2, 7)))[0].tolist() == [0, 0]
    assert Near(np.zeros((2, 7)), 1.0).of(np.zeros((0, 7)))[0].tolist() == []


def _one_by_one(page_object: Any) -> list[tuple[list[Any], bool]]:
    """The subpaths of a path by pdfium's functions, called from Python: points of each, and whether it is closed."""
    found: list[tuple[list[Any], bool]] = []
    own: list[Any] = []
    x, y = ctypes.c_float(), ctypes.c_float()
    here = start = (0.0, 0.0)
    arms: list[tuple[float, float]] = []
    for n in range(raw.FPDFPath_CountSegments(page_object)):
        segment = raw.FPDFPath_GetPathSegment(page_object, n)
        raw.FPDFPathSegment_GetPoint(segment, x, y)
        kind, to = raw.FPDFPathSegment_GetType(segment), (x.value, y.value)
        if kind == raw.FPDF_SEGMENT_MOVETO:
            if own:
                found.append((own, False))
            own, here, start = [], to, to
        elif kind == raw.FPDF_SEGMENT_LINETO:
            own.append((here, to))
            here = to
        else:
            arms.append(to)
            if len(arms) == 3:
                own.append((here, *arms))
                here, arms = to, []
        if raw.FPDFPathSegment_GetClose(segment):
            if here != start:
                own.append((here, start))
            if own:
                found.append((own, True))
            own, here = [], start
    return [*found, (own, False)] if own else found


@pytest.fixture(scope="module")
def document() -> Any:
    data = io.BytesIO()
    canvas = Canvas(data)
    rng = np.random.default_rng(3)
    for _ in range(60):
        path = canvas.beginPath()
        for _ in range(rng.integers(1, 4)):
            path.moveTo(*rng.uniform(0, 500, 2))
            for _ in range(rng.integers(0, 5)):
                if rng.random() < 0.5:
                    path.lineTo(*rng.uniform(0, 500, 2))
                else:
                    path.curveTo(*rng.uniform(0, 500, 6))
            if rng.random() < 0.5:
                path.close()
        canvas.drawPath(path)
    canvas.rect(10, 20, 30, 40)
    canvas.save()
    return pdfium.PdfDocument(data.getvalue())


def test_segments_are_read_as_pdfium_has_them(document: Any) -> None:
    page = document[0]
    objects = [own.raw for own in page.get_objects() if own.type == raw.FPDF_PAGEOBJ_PATH]
    pieces, straight, sub, closed, before = read_segments(objects)
    expected = [own for one in objects for own in _one_by_one(one)]
    assert before.tolist() == np.cumsum([0, *(len(_one_by_one(one)) for one in objects)]).tolist()
    assert closed.tolist() == [shut for _, shut in expected]
    assert sub.tolist() == [n for n, (own, _) in enumerate(expected) for _ in own]
    flat = [piece for own, _ in expected for piece in own]
    assert straight.tolist() == [len(piece) == 2 for piece in flat]
    for found, wanted in zip(pieces, flat, strict=True):
        np.testing.assert_array_equal(found[[0, 3]], (wanted[0], wanted[-1]))
        arms = wanted[1:3] if len(wanted) == 4 else [np.add(np.multiply(wanted[n], 2), wanted[1 - n]) / 3 for n in (0, 1)]
        np.testing.assert_allclose(found[1:3], arms, rtol=1e-12)


def test_each_piece_is_of_its_path(document: Any) -> None:
    paths = read_page(document, 0).paths
    curves, owner = paths.curves()
    for n in range(len(paths)):
        own = [sub.curves for sub in paths.subpaths(n)]
        np.testing.assert_allclose(curves[owner == n], np.concatenate(own) if own else np.zeros((0, 4, 2)), atol=1e-12)


def test_no_path_has_no_segments() -> None:
    pieces, straight, sub, closed, before = read_segments([])
    assert len(pieces) == len(straight) == len(sub) == len(closed) == 0
    assert before.tolist() == [0]
