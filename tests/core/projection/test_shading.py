"""Shaded pictures: true to size, the nearest surface wins, colours as given; areas against closed forms."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from skalto.core.errors import InputError
from skalto.core.projection.shading import AMBIENT, LIGHT, MOST_PIXELS, shade, unpack_picture
from skalto.core.projection.view import ProjectionSpec, ShadeSpec
from skalto.core.sources.models.model import nearest
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import STANDARD
from skalto.demo.solids import block, cut, cylinder, moved, turned
from tests.core.modelled import modelled


def spec(view: str, dots: float, colours: dict[str, str] | None = None, hidden: frozenset[str] = frozenset()) -> ShadeSpec:
    look = STANDARD[view]
    return ShadeSpec(view=ProjectionSpec(look=look.look, up=look.up, hidden=hidden), dots=dots, colours=colours or {})


def covered(pixels: np.ndarray, dots: float) -> float:
    """The area that is painted, mm²."""
    return float(pixels[..., 3].sum() / 255 / dots**2)


def test_a_plate_from_above_is_as_large_as_it_is(tmp_path: Path) -> None:
    model, _ = modelled(cut(block(120, 80, 10), cylinder(30, 40, (-30, 0, -10))), tmp_path)
    png, found = shade(model, spec("top", 5))
    pixels = unpack_picture(png)
    assert found.box == pytest.approx((-60, -40, 60, 40))
    assert pixels.shape == (400, 600, 4)
    # by elementary geometry: the rectangle less the hole
    assert covered(pixels, 5) == pytest.approx(120 * 80 - math.pi * 15**2, rel=1e-3)
    # the hole lets the paper through, and says white to a reader that takes no heed of that
    assert pixels[200, 150].tolist() == [255, 255, 255, 0]


def test_a_sphere_covers_its_circle_and_darkens_to_its_rim(tmp_path: Path) -> None:
    model, _ = modelled(turned([(0, -20), (20, -20, 19.999), (20, 20, 19.999), (0, 20)]), tmp_path)
    pixels = unpack_picture(shade(model, spec("front", 8))[0])
    assert covered(pixels, 8) == pytest.approx(math.pi * 20**2, rel=5e-3)
    rows, columns = pixels.shape[:2]
    toward = pixels[int(rows / 2 - LIGHT[1] * 0.9 * rows / 2), int(columns / 2 + LIGHT[0] * 0.9 * columns / 2), 0]
    away = pixels[int(rows / 2 + LIGHT[1] * 0.9 * rows / 2), int(columns / 2 - LIGHT[0] * 0.9 * columns / 2), 0]
    assert toward > away


def test_the_nearest_surface_wins_in_its_nearest(tmp_path: Path) -> None:
    model, facts = modelled({"Base": block(60, 60, 8), "Post": moved(cylinder(20, 40), (0, 0, 8))}, tmp_path)
    paths = {path.rsplit("/", 1)[-1]: path for path in facts.leaves}
    colours = {paths["Base"]: "#c04020", paths["Post"]: "#2040c0"}
    pixels = unpack_picture(shade(model, spec("top", 4, colours))[0])
    # a face square to the view has the light's slant alone
    light = AMBIENT + (1 - AMBIENT) * LIGHT[2]
    for place, colour in (((120, 120), (0x20, 0x40, 0xC0)), ((20, 20), (0xC0, 0x40, 0x20))):
        assert pixels[place][:3].tolist() == pytest.approx([c * light for c in colour], abs=1.5)
    # from below the base hides the post
    under = unpack_picture(shade(model, spec("bottom", 4, colours))[0])
    assert under[120, 120, 0] > under[120, 120, 2]
    # and what a view hides is not in its picture
    alone = unpack_picture(shade(model, spec("top", 4, colours, frozenset({paths["Base"]})))[0])
    assert alone.shape == (80, 80, 4)
    assert alone[0, 0, 3] == 0


def test_long_slivers_cover_no_more_than_they_are(tmp_path: Path) -> None:
    """Two triangles that are a strip 100 × 0.5 turned by 33°: its box is ninety times as large."""
    cos, sin = math.cos(math.radians(33)), math.sin(math.radians(33))
    d, n = np.array((cos, sin, 0)), np.array((-sin, cos, 0))
    corners = np.array((0 * d, 100 * d, 100 * d + 0.5 * n, 0.5 * n))
    path = tmp_path / "strip.ply"
    trimesh.Trimesh(corners, [(0, 1, 2), (0, 2, 3)]).export(path)
    model = read_model(path, path.name)
    pixels = unpack_picture(shade(model, spec("top", 10))[0])
    assert covered(pixels, 10) == pytest.approx(50, rel=0.02)


def test_a_picture_has_a_largest_size(tmp_path: Path) -> None:
    model, _ = modelled(block(300, 300, 5), tmp_path)
    pixels = unpack_picture(shade(model, spec("top", 200))[0])
    # drawn twice as fine and halved
    assert pixels.shape[0] * pixels.shape[1] <= MOST_PIXELS / 4 * 1.001
    assert pixels.shape[0] == pixels.shape[1]


def test_the_picture_is_a_png_with_cover(tmp_path: Path) -> None:
    model, facts = modelled(block(20, 10, 5), tmp_path)
    png, _ = shade(model, spec("front", 10))
    with Image.open(io.BytesIO(png)) as image:
        assert (image.format, image.mode, image.size) == ("PNG", "RGBA", (200, 50))
    with pytest.raises(InputError, match="No component is shown"):
        shade(model, spec("front", 10, hidden=frozenset(facts.leaves)))


def test_a_colour_given_to_an_assembly_is_its_components(tmp_path: Path) -> None:
    colours = {"Press/Crank": "#111111", "Press/Crank/Handle": "#222222"}
    assert nearest("Press/Crank/Wheel", colours) == "#111111"
    assert nearest("Press/Crank/Handle", colours) == "#222222"
    assert nearest("Press/Crank/Handle/Grip", colours) == "#222222"
    assert nearest("Press/Frame", colours) is None
