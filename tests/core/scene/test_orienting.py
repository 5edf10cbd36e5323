"""Turning a model in 3D: everything that is its own goes with it, and the file holds it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy.spatial.transform import Rotation

from skalto.core.checks.solids import fields_of_pdf
from skalto.core.edits.of_annotations_3d import KeepInAnnotation3d, TurnAnnotation3d
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.building import build_scene
from skalto.core.scene.choices import SceneChoices, SceneSpec
from skalto.core.scene.kept import KeptMark, KeptReading, KeptSection
from skalto.core.scene.meshing import Quality, part_meshes
from skalto.core.scene.orienting import turned_camera, turned_cuts
from skalto.core.scene.turns import UPRIGHT, straightened
from skalto.core.scene.views import Camera, Cut, PreparedView, in_picture
from skalto.core.sources.models.model import Model
from tests.core.scene.test_solid_pdf import check_pdf, model, pdf_of, solid_of, verdicts

__all__ = ["model"]
QUARTER = ((1.0, 0.0, 0.0), (0.0, 0.0, -1.0), (0.0, 1.0, 0.0))
"""What pointed along y points up."""
angles = st.floats(-180, 180)
turns = st.tuples(angles, angles, angles).map(lambda a: Rotation.from_euler("xyz", a, degrees=True).as_matrix())
places = st.tuples(*[st.floats(-200, 200)] * 3).map(np.array)


@given(turns, places, st.sampled_from("xyz"), st.floats(-80, 80), st.floats(-80, 80), st.floats(-100, 100), st.booleans())
@settings(max_examples=200, deadline=None)
def test_a_plane_cuts_the_turned_model_where_it_cut_the_model(
    turn: np.ndarray, middle: np.ndarray, along: str, first: float, second: float, offset: float, flip: bool
) -> None:
    """Against the rotations of scipy: a point is beyond the plane before as it is beyond it after."""
    cut = Cut.model_validate({"along": along, "offset": offset, "tilt": (first, second), "flip": flip})
    after = turn @ middle + (3.0, -4.0, 5.0)  # the box of a turned model has another middle
    (made,) = turned_cuts([cut], turn, middle, after)
    assert np.allclose(made.normal(), turn @ cut.normal(), atol=1e-7)
    off = made.normal() @ (made.point(after) - turn @ cut.point(middle))
    assert off == pytest.approx(0, abs=1e-5)


@given(turns)
@settings(max_examples=60, deadline=None)
def test_three_planes_stay_three(turn: np.ndarray) -> None:
    cuts = [Cut.model_validate({"along": axis, "offset": 10.0}) for axis in "xyz"]
    made = turned_cuts(cuts, turn, np.zeros(3), np.zeros(3))
    assert sorted(cut.along for cut in made) == ["x", "y", "z"]
    assert all(np.allclose(new.normal(), turn @ old.normal(), atol=1e-7) for old, new in zip(cuts, made, strict=True))


@given(turns, places)
@settings(max_examples=60, deadline=None)
def test_a_camera_sees_what_it_saw(turn: np.ndarray, at: np.ndarray) -> None:
    camera = Camera(position=(300, -200, 250), target=(0, 0, 5), up=(0.2, 0, 1), span=90)
    before = in_picture(camera, at[None], 1.4)
    assert np.allclose(in_picture(turned_camera(camera, turn), (turn @ at)[None], 1.4), before, atol=1e-6)


def test_what_is_the_model_s_own_goes_with_it() -> None:
    field = Annotation3d.model_validate(
        {
            "id": "f", "source": "0",
            "views": [
                {"id": "a", "name": "Front", "look": (0, 1, 0)},
                {"id": "b", "name": "Cut", "cuts": [{"along": "z", "offset": 12}]},
            ],
            "kept": [
                {"kind": "mark", "id": "m", "name": "Here", "at": (1, 2, 3)},
                {"kind": "section", "id": "s", "name": "Through", "cuts": [{"along": "y", "offset": 7}]},
                {"kind": "reading", "id": "r", "name": "Width", "measure": "points", "what": "", "value": 5, "start": (0, 0, 0),
                 "end": (0, 3, 4)},
            ],
        }
    )  # fmt: skip
    edit = TurnAnnotation3d.model_validate({"kind": "turn_annotation_3d", "sheet": "s", "annotation": "f", "turn": QUARTER})
    made = edit.made(field)
    assert made.choices.orientation == QUARTER
    assert made.views[0] == field.views[0]
    assert (made.views[1].cuts[0].along, made.views[1].cuts[0].flip, made.views[1].cuts[0].offset) == ("y", True, -12)
    mark, section, reading = made.kept
    assert isinstance(mark, KeptMark)
    assert mark.at == (1, -3, 2)
    assert isinstance(section, KeptSection)
    assert (section.cuts[0].along, section.cuts[0].offset) == ("z", 7)
    assert isinstance(reading, KeptReading)
    assert reading.end == (0, -4, 3)
    # four quarters are none
    for _ in range(3):
        made = edit.made(made)
    assert made.choices.orientation == UPRIGHT
    assert made.kept == field.kept


@pytest.mark.parametrize(
    "rows", [((1, 0, 0), (0, 1, 0), (0, 0, -1)), ((2, 0, 0), (0, 1, 0), (0, 0, 1)), ((1, 0, 0), (1, 0, 0), (0, 0, 1))]
)
def test_what_is_no_turn_is_refused(rows: object) -> None:
    with pytest.raises(ValidationError, match="neither mirrored nor stretched"):
        SceneChoices.model_validate({"orientation": rows})


@pytest.mark.parametrize("turn", [QUARTER, straightened(Rotation.from_euler("xyz", (20, 35, -50), degrees=True).as_matrix())])
def test_a_file_holds_the_model_as_it_was_turned(model: Model, turn: tuple[tuple[float, float, float], ...]) -> None:
    data = pdf_of(solid_of(model, choices={"orientation": turn}))
    found = verdicts(check_pdf(data))
    assert set(found.values()) == {"holds"}
    (solid,) = fields_of_pdf(data)
    plain = build_scene(model.tree, part_meshes(model, Quality.DRAFT), SceneSpec(choices=SceneChoices(quality=Quality.DRAFT)))
    there = read_u3d(solid.u3d).worlds()
    for name, world in plain.worlds().items():
        assert np.allclose(there[name][:3, :3], np.array(turn) @ world[:3, :3], atol=1e-5)


def test_a_file_that_shows_it_otherwise_than_asked_fails(model: Model) -> None:
    """The same views in another light, with other edges, cut elsewhere: each is found."""
    asked = PreparedView.model_validate(
        {"id": "v", "name": "Cut", "cuts": [{"along": "x", "offset": 5}, {"along": "y", "offset": 3}]}
    )
    solid = solid_of(model, views=(asked,))
    assert verdicts(check_pdf(pdf_of(solid)))["views"] == "holds"
    from dataclasses import replace

    view = solid.views[0]
    for other in (
        replace(view, mode=view.mode.__class__("Wireframe")),
        replace(view, lighting=view.lighting.__class__("Day")),
        replace(view, cuts=view.cuts[:1]),
        replace(view, cuts=(replace(view.cuts[0], centre=(9.0, 0.0, 0.0)), view.cuts[1])),
    ):
        assert verdicts(check_pdf(pdf_of(replace(solid, views=(other,)))))["views"] == "fails"


def test_what_is_kept_is_bounded_and_named() -> None:
    field = Annotation3d(id="f", source="0")
    item = {"kind": "mark", "id": "m", "name": " ", "at": (1, 2, 3)}
    with pytest.raises(ValidationError, match="needs a name"):
        KeepInAnnotation3d.model_validate({"kind": "keep_in_annotation_3d", "sheet": "s", "annotation": "f", "item": item})
    with pytest.raises(ValidationError, match="same id"):
        Annotation3d.model_validate(field.model_dump() | {"kept": [item | {"name": "a"}, item | {"name": "b"}]})
