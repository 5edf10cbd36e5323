"""Models as scenes: exact normals, volumes, classes and names, what can be measured, views and posters."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import trimesh

from skalto.core.errors import InputError
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.scene.building import CLASSES, build_scene, unique
from skalto.core.scene.choices import Grouping, NamedGroup, SceneChoices, SceneSpec
from skalto.core.scene.features import features_of
from skalto.core.scene.meshing import TOLERANCES, Quality, merged, mesh_part, part_meshes
from skalto.core.scene.poster import camera_of, corners_of, draw_view
from skalto.core.scene.scene import Material, Node, Scene, SolidMesh
from skalto.core.scene.views import (
    Camera,
    Cut,
    Lighting,
    PreparedView,
    RenderMode,
    camera_from,
    camera_matrix,
    fitted,
    in_picture,
    standard_views,
)
from skalto.core.sources.models.model import Mesh, Model
from skalto.core.sources.models.parts import PartFacts
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cylinder
from tests.conftest import plate_with_holes
from tests.core.modelled import modelled
from tests.core.scene.solids import mesh_of


def decoded(model: Model, quality: Quality = Quality.NORMAL, **choices: object) -> Scene:
    """The scene of a model as it is read back from U3D."""
    chosen = SceneChoices.model_validate({"quality": quality, **choices})
    made = build_scene(model.tree, part_meshes(model, quality), SceneSpec(choices=chosen))
    back = read_u3d(write_u3d(made))
    return Scene(back.nodes, back.meshes, made.chord, made.paths, made.groups)


@pytest.fixture(scope="module")
def plate(tmp_path_factory: pytest.TempPathFactory) -> Model:
    return modelled(plate_with_holes(), tmp_path_factory.mktemp("plate"))[0]


@pytest.fixture(scope="module")
def press(press_step: Path) -> Model:
    return read_model(press_step, "Ebba.step")


def solids() -> dict[str, tuple[object, float, float]]:
    """Handbook solids: volume and surface by the formulas that any handbook has (Dubbel, Taschenbuch, A: cylinder, cone, sphere
    and torus; from memory)."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus

    pi = math.pi
    side = math.hypot(20, 30)
    return {
        "block": (block(40, 30, 20), 24_000.0, 5_200.0),
        "cylinder": (cylinder(50, 80), pi * 25**2 * 80, 2 * pi * 25 * (25 + 80)),
        "cone": (BRepPrimAPI_MakeCone(30, 10, 30).Shape(), pi * 30 * (900 + 300 + 100) / 3, pi * (900 + 100 + 40 * side / 1)),
        "sphere": (BRepPrimAPI_MakeSphere(25).Shape(), 4 / 3 * pi * 25**3, 4 * pi * 25**2),
        "torus": (BRepPrimAPI_MakeTorus(40, 10).Shape(), 2 * pi**2 * 40 * 100, 4 * pi**2 * 40 * 10),
    }


@pytest.mark.parametrize("quality", list(Quality))
@pytest.mark.parametrize("name", ["block", "cylinder", "cone", "sphere", "torus"])
def test_volume_and_surface_of_handbook_solids(name: str, quality: Quality, tmp_path: Path) -> None:
    shape, volume, area = solids()[name]
    scene = decoded(modelled(shape, tmp_path)[0], quality)
    mesh = merged(scene.meshes)
    # a surface that is moved by the chord at most changes the volume by its area times that
    assert abs(mesh.volume() - volume) <= area * scene.chord + 1e-6 * volume
    assert abs(mesh.area() - area) <= 0.02 * area
    if name == "block":
        assert mesh.volume() == pytest.approx(volume, rel=1e-6)
        assert len(mesh.positions) == 8
        assert len(mesh.normals) == 6


def test_a_part_in_pieces_is_whole_again_for_a_reviewer(tmp_path: Path) -> None:
    """A ball fine enough to need several meshes has no edges but its seam, and pieces add up to it."""
    shape, volume, _ = solids()["sphere"]
    scene = decoded(modelled(shape, tmp_path)[0], Quality.FINE)
    assert len(scene.meshes) > 1
    whole = merged(scene.meshes)
    assert whole.volume() == pytest.approx(sum(m.volume() for m in scene.meshes), rel=1e-9)
    assert whole.volume() == pytest.approx(volume, rel=1e-3)
    assert features_of(whole).edges == ()


@pytest.mark.parametrize("quality", list(Quality))
def test_corners_lie_on_the_surface_and_normals_are_its_own(quality: Quality, tmp_path: Path) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    scene = decoded(modelled(BRepPrimAPI_MakeSphere(25).Shape(), tmp_path)[0], quality)
    mesh = merged(scene.meshes)
    corner, normal = mesh.positions[mesh.corners], mesh.normals[mesh.turns]
    assert np.abs(np.linalg.norm(corner, axis=2) - 25).max() < 1e-5
    assert np.abs(normal - corner / 25).max() < 1e-5
    # no triangle is farther from the surface than was asked for
    middle = corner.mean(axis=1)
    assert 25 - np.linalg.norm(middle, axis=1).min() <= scene.chord * 1.01


def test_quality_is_what_it_says(press: Model) -> None:
    counts = [
        sum(len(p.corners) for part in part_meshes(press, q) for p in part.pieces) for q in (Quality.DRAFT, Quality.NORMAL)
    ]
    assert counts[0] < counts[1] / 2
    for tolerance in TOLERANCES.values():
        assert tolerance.least <= tolerance.chord(press.tree.shapes[0]) <= tolerance.most


def test_a_mesh_keeps_its_creases_and_its_colours() -> None:
    import trimesh

    box = trimesh.creation.box((10, 20, 30))
    colours = np.zeros((12, 3), np.uint8)
    colours[6:] = (200, 30, 30)
    part = mesh_part(Mesh(np.array(box.vertices), np.array(box.faces), colours))
    assert sorted(part.colours) == ["#000000", "#c81e1e"]  # type: ignore[type-var]
    assert len(part.pieces[0].normals) == 6
    ball = trimesh.creation.icosphere(4, 10)
    smooth = mesh_part(Mesh(np.array(ball.vertices), np.array(ball.faces))).pieces[0]
    turned = smooth.normals[smooth.turns] - smooth.positions[smooth.corners] / 10
    assert np.abs(turned).max() < 0.01


def test_the_press_has_every_component_under_a_name_of_its_own(press: Model) -> None:
    scene = decoded(press, Quality.DRAFT)
    names = [node.name for node in scene.nodes]
    assert len(set(names)) == len(names)
    assert {scene.paths[name] for name in names} == {c.path for c in press.tree.walk()}
    # a part that occurs again is one mesh
    assert len(scene.meshes) < len(press.tree.leaves()) / 2


def test_classes_can_be_left_out_and_stand_on_top(press: Model) -> None:
    scene = decoded(press, Quality.DRAFT, grouping="class", left_out=("Fasteners",))
    assert scene.groups == CLASSES[:2]
    tops = {node.name for node in scene.nodes if not node.parent}
    assert tops == set(CLASSES[:2])
    assert not any("screw M" in name or "nut" in name.lower() for name in scene.paths)
    whole = decoded(press, Quality.DRAFT, grouping=Grouping.KIND)
    assert len(whole.paths) == len(press.tree.leaves())


def test_groups_of_ones_own_materials_colours_and_item_numbers(press: Model) -> None:
    group = NamedGroup(name="Rollers", patterns=("* roller",))
    scene = decoded(press, Quality.DRAFT, groups=(group,))
    inside = [node.name for node in scene.nodes if node.parent == "Rollers"]
    assert sorted(inside) == ["Lower roller", "Upper roller"]
    # what is in an assembly of that name is not meant, unless the way there is given
    named = decoded(press, Quality.DRAFT, groups=(NamedGroup(name="G", patterns=("crank*",)),))
    within = decoded(press, Quality.DRAFT, groups=(NamedGroup(name="G", patterns=("*/crank/*",)),))
    own = {node.name for node in named.nodes if node.parent == "G"}
    assert own == {name for name in own if name.lower().startswith("crank")}
    assert len({node.name for node in within.nodes if node.parent == "G"}) > len(own) > 0
    materials = decoded(press, Quality.DRAFT, grouping="material").groups
    assert "Beech" in materials
    colours = decoded(press, Quality.DRAFT, grouping="colour").groups
    assert all(name.startswith("Colour #") for name in colours)
    numbered = decoded(press, Quality.DRAFT, names="items", grouping="class")
    assert {"1.1", "1.2"} <= {node.name for node in numbered.nodes}
    assert not any("Cheek" in node.name for node in numbered.nodes)


def test_what_the_job_says_of_parts_and_colours_goes_in(press: Model) -> None:
    spec = SceneSpec(
        choices=SceneChoices(quality=Quality.DRAFT, grouping=Grouping.KIND, opacity={"Ebba press/Frame/Tie rod 1": 0.5}),
        parts={"Tie rod": PartFacts(bought=True)},
        colours={"Ebba press/Frame/Tie rod 1": "#123456", "Ebba press/Frame": "#654321"},
    )
    scene = build_scene(press.tree, part_meshes(press, Quality.DRAFT), spec)
    rod = next(node for node in scene.nodes if node.name == "Tie rod 1")
    assert rod.parent == CLASSES[1]
    assert rod.materials[0].colour == "#123456"
    assert rod.materials[0].opacity == 0.5
    # a colour given to an assembly is that of what is in it, as in shaded views
    cheek = next(node for node in scene.nodes if node.name == "Cheek, left")
    assert {material.colour for material in cheek.materials} == {"#654321"}


def test_nothing_left_is_told(press: Model) -> None:
    with pytest.raises(InputError, match="Nothing is left"):
        decoded(press, Quality.DRAFT, hidden=("Ebba press",))
    with pytest.raises(InputError, match="Nothing is left"):
        decoded(press, Quality.DRAFT, left_out=CLASSES)


def test_diameters_edges_and_faces_are_found_in_the_decoded_mesh(plate: Model) -> None:
    (mesh,) = decoded(plate, Quality.DRAFT).meshes
    found = features_of(mesh)
    circles = sorted(e.diameter for e in found.edges if e.kind == "circle" and e.diameter)
    assert circles == pytest.approx([6.5, 6.5, 12, 12, 30, 30], abs=1e-4)
    holes = sorted(f.diameter for f in found.faces if f.kind == "round" and f.diameter)
    assert holes == pytest.approx([6.5, 12, 30], abs=1e-4)
    lengths = sorted(e.length for e in found.edges if e.kind == "line")
    assert lengths == pytest.approx([10] * 4 + [80] * 4 + [120] * 4, abs=1e-4)
    planes = [f for f in found.faces if f.kind == "plane"]
    assert len(planes) == 6
    assert sum(f.area for f in planes if abs(f.direction[2]) > 0.99 and f.direction) == pytest.approx(
        2 * (120 * 80 - math.pi / 4 * (30**2 + 12**2 + 6.5**2)), rel=5e-3
    )  # fmt: skip
    centre = next(e.centre for e in found.edges if e.diameter == pytest.approx(30, abs=1e-3))
    assert centre is not None
    assert np.abs(np.subtract(centre[:2], (-30, 0))).max() < 1e-4
    assert found.face_of.max() + 1 == len(found.faces)


def test_a_part_without_normals_or_closing_is_still_looked_over() -> None:
    points = np.array(((0.0, 0, 0), (10, 0, 0), (10, 10, 0), (0, 10, 0)))
    corners = np.array(((0, 1, 2), (0, 2, 3)))
    found = features_of(SolidMesh(points, np.empty((0, 3)), corners, np.zeros_like(corners), np.zeros(2, np.int64)))
    assert sorted(e.length for e in found.edges) == [10] * 4
    assert [f.area for f in found.faces] == [100]


TWELVE = [
    (0, 1, 0), (0, 0, -1), (1, 0, 0), (-1, 0, 0), (0, 0, 1), (0, -1, 0),
    (-1, 1, -1), (1, 1, -1), (-1, 1, 1), (1, 1, 1), (0.3, -0.2, 0.9), (-0.7, 0.1, -0.05),
]  # fmt: skip


@pytest.mark.parametrize("look", TWELVE)
def test_a_camera_is_three_vectors_and_a_place(look: tuple[float, float, float]) -> None:
    """Left, up and view, a right-handed frame (formats of ISO 32000-1, 13.6.4.1, as files that readers accept have it)."""
    up = (0, 0, 1) if abs(look[0]) + abs(look[1]) > 0 else (0, 1, 0) if look[2] < 0 else (0, -1, 0)
    points = np.array(((0, 0, 0), (100, 50, 20)), float)
    for perspective in (True, False):
        camera = fitted(look, up, points, 1.5, perspective)
        left, upward, view, place = np.reshape(camera_matrix(camera), (4, 3))
        assert np.allclose(view, np.array(look) / np.linalg.norm(look))
        assert np.allclose(np.cross(upward, view), left)
        assert np.allclose(np.linalg.det((left, upward, view)), 1)
        assert upward @ np.array(up, float) > 0
        assert np.allclose(place, np.array(camera.target) - camera.distance * view)
        back = camera_from(camera_matrix(camera), camera.distance, perspective, camera.span)
        assert np.allclose(back.position, camera.position)
        assert np.allclose(back.target, camera.target)


def test_the_rows_that_the_standard_s_files_have() -> None:
    def rows(look: tuple[float, float, float], up: tuple[float, float, float]) -> list[list[float]]:
        camera = Camera(position=(0, 0, 0), target=look, up=up, span=1)
        return (np.round(np.reshape(camera_matrix(camera), (4, 3))[:3], 9) + 0).tolist()

    assert rows((0, 1, 0), (0, 0, 1)) == [[-1, 0, 0], [0, 0, 1], [0, 1, 0]]
    assert rows((0, 0, -1), (0, 1, 0))[:2] == [[-1, 0, 0], [0, 1, 0]]
    assert rows((0, 0, 1), (0, -1, 0))[:2] == [[-1, 0, 0], [0, -1, 0]]


@pytest.mark.parametrize("aspect", [0.3, 1.0, 1.8])
@pytest.mark.parametrize("perspective", [True, False])
def test_a_fitted_view_shows_all_and_no_more_than_it_must(press: Model, aspect: float, perspective: bool) -> None:
    scene = decoded(press, Quality.DRAFT)
    corners = corners_of(list(scene.boxes().values()))
    for look in TWELVE:
        where = in_picture(fitted(look, (0.1, 0.05, 1), corners, aspect, perspective), corners, aspect)
        assert np.abs(where[:, :2]).max() <= 1.0
        assert np.abs(where[:, :2]).max() > 0.9


def test_roll_is_read_from_the_camera() -> None:
    upright = Camera(position=(0, -100, 0), target=(0, 0, 0), up=(0, 0, 1), span=10)
    assert upright.roll() == pytest.approx(0)
    assert upright.model_copy(update={"up": (1.0, 0, 0)}).roll() == pytest.approx(90)


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ({"target": (0, 0, 0)}, "stands on"),
        ({"up": (0, 5, 0)}, "is parallel to"),
        ({"perspective": True, "span": 175}, "less than 170"),
        ({"span": 0}, "greater than 0"),
        ({"position": (math.nan, 0, 0)}, "three numbers"),
    ],
)
def test_a_camera_that_sees_nothing_is_refused(fields: dict[str, object], told: str) -> None:
    good = {"position": (0, 0, 0), "target": (0, 9, 0), "up": (0, 0, 1), "span": 10.0}
    with pytest.raises(ValueError, match=told):
        Camera.model_validate(good | fields)


def test_a_cut_takes_the_half_beyond_it() -> None:
    cut = Cut(along="y", offset=5)
    assert np.allclose(cut.normal(), (0, 1, 0))
    assert np.allclose(cut.model_copy(update={"flip": True}).normal(), (0, -1, 0))
    tilted = Cut(along="x", tilt=(0, 90)).normal()
    assert np.allclose(np.abs(tilted), (0, 1, 0))


def test_standard_views_are_a_sensible_set() -> None:
    views = standard_views([("k1", "From the crank", (-1, 0, 0), (0, 0, 1))])
    names = [view.name for view in views]
    assert names[:7] == ["Overview", "Front", "Top", "Left", "Right", "Bottom", "Rear"]
    assert names[-1] == "From the crank"
    assert len({view.id for view in views}) == len(views)


def test_a_poster_shows_what_its_view_shows(plate: Model) -> None:
    """A plate from above, 1 mm a pixel: its hole is background, half of it goes with a cut, hidden it is gone."""
    scene = decoded(plate, Quality.DRAFT)
    name = next(iter(scene.paths.values()))
    camera = Camera(position=(0, 0, 500), target=(0, 0, 0), up=(0, 1, 0), span=100)
    view = PreparedView(id="v", name="v", background="#ffffff")

    def painted(**fields: object) -> np.ndarray:
        own = PreparedView.model_validate(view.model_dump() | fields)
        return (draw_view(scene, own, camera, 150, 100)[..., :3] < 250).any(axis=-1)  # type: ignore[return-value]

    whole = painted()
    area = 120 * 80 - math.pi / 4 * (30**2 + 12**2 + 6.5**2)
    assert whole.sum() == pytest.approx(area, rel=0.02)
    assert not whole[50, 75 - 30]
    half = painted(cuts=[{"along": "x", "offset": 0.0}])
    assert not half[:, 76:].any()
    assert half[:, :74].sum() == pytest.approx(whole[:, :74].sum(), rel=0.01)
    assert painted(cuts=[{"along": "x", "offset": 0.0, "flip": True}])[:, 76:].any()
    assert painted(hidden=[name]).sum() == 0
    faint = draw_view(scene, PreparedView.model_validate(view.model_dump() | {"faded": {name: 0.2}}), camera, 150, 100)
    solid = draw_view(scene, view, camera, 150, 100)
    assert faint[50, 20, 0] > solid[50, 20, 0] + 20
    lines = draw_view(scene, view.model_copy(update={"mode": RenderMode.ILLUSTRATION}), camera, 150, 100)
    assert (lines[..., :3] > 250).all(axis=-1)[20, 20]


def test_a_ball_s_poster_is_shaded_evenly(tmp_path: Path) -> None:
    """Lambert's cosine law at every pixel within a ball, whose normals are known (Photometria, 1760); the screen's curve is a
    power of 2.2. Shades of whole triangles would be off by the turn between neighbours, 15° here."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    radius = 40.0
    scene = decoded(modelled(BRepPrimAPI_MakeSphere(radius).Shape(), tmp_path)[0], Quality.NORMAL)
    camera = Camera(position=(0, -500, 0), target=(0, 0, 0), up=(0, 0, 1), span=100)
    view = PreparedView(id="v", name="v", background="#ffffff", lighting=Lighting.WHITE)
    drawn = draw_view(scene, view, camera, 200, 200)[..., 0] / 255
    across, up = np.meshgrid((np.arange(200) + 0.5) / 2 - 50, 50 - (np.arange(200) + 0.5) / 2)
    within = np.hypot(across, up) < 0.93 * radius
    toward = np.sqrt(radius**2 - across[within] ** 2 - up[within] ** 2)
    normal = np.stack((across[within], up[within], toward), axis=1) / radius
    lamp = np.array((0.4, 0.7, 1.0)) / np.linalg.norm((0.4, 0.7, 1.0))
    share = 0.45 + 0.55 * np.maximum(normal @ lamp, 0)
    colour = int(next(node for node in scene.nodes if node.meshes).materials[0].colour[1:3], 16) / 255
    off = np.abs(drawn[within] - colour * share ** (1 / 2.2))
    assert off.mean() < 0.004
    assert off.max() < 0.02


def test_cut_faces_are_filled_with_the_part_s_colour(plate: Model) -> None:
    scene = decoded(plate, Quality.DRAFT)
    view = PreparedView(id="v", name="v", cuts=(Cut(along="y", offset=30.0),))
    camera = Camera(position=(0, 300, 5), target=(0, 0, 5), up=(0, 0, 1), span=20)
    drawn = draw_view(scene, view, camera, 140, 20)
    faces = drawn[10, 20:120, :3].astype(int)
    assert np.ptp(faces, axis=0).max() == 0
    assert camera_of(view, scene, 1.0).span > 0


@pytest.mark.parametrize("perspective", [False, True])
def test_a_part_of_edges_alone_shows_what_is_behind_it(perspective: bool) -> None:
    """A box before a ball: its edges are drawn, the ball is seen through it; what lies behind the ball is hidden by it."""
    box = trimesh.creation.box((40, 20, 40))
    ball = trimesh.creation.icosphere(4, 12)
    ball.apply_translation((0, 40, 0))
    meshes = (
        mesh_of(box),
        mesh_of(ball),
        mesh_of(trimesh.creation.box((8, 8, 8), trimesh.transformations.translation_matrix((0, 80, 0)))),
    )
    nodes = [Node(name, "", np.eye(4), (n,), (Material("#c02020"),)) for n, name in enumerate(("Box", "Ball", "Far"))]
    scene = Scene(tuple(nodes), meshes, paths={name: name for name in ("Box", "Ball", "Far")})
    span = 9.0 if perspective else 60.0
    camera = Camera(position=(0, -400, 0), target=(0, 0, 0), up=(0, 0, 1), span=span, perspective=perspective)
    modes = {"Box": RenderMode.WIREFRAME, "Far": RenderMode.WIREFRAME}
    view = PreparedView(id="v", name="v", lighting=Lighting.NONE, drawn=modes)
    drawn = draw_view(scene, view, camera, 120, 120)[..., :3].astype(int)
    red, dark = np.abs(drawn - (192, 32, 32)).max(axis=2) < 4, drawn.max(axis=2) < 170
    assert red[60, 60]  # the ball, through the box, and before what is behind it
    assert not dark[50:70, 50:70].any()
    # the near face's own edges, square about the middle: 40 of 60 mm of the picture, half as large again in perspective
    rows, columns = np.nonzero(dark)
    near = 40 / 60 * 120 if not perspective else 40 / (2 * 390 * math.tan(math.radians(4.5))) * 120
    assert (np.ptp(rows), np.ptp(columns)) == pytest.approx((near, near), abs=2.5)
    whole = draw_view(scene, view.model_copy(update={"drawn": {}}), camera, 120, 120)[..., :3].astype(int)
    assert (np.abs(whole[30:90, 30:90] - (192, 32, 32)).max(axis=2) < 4).all()
    # from within, what lies behind the camera leaves no mark
    inside = Camera(position=(0, 0, 0), target=(0, -100, 0), up=(0, 0, 1), span=60, perspective=True)
    alone = view.model_copy(update={"hidden": frozenset({"Ball", "Far"}), "camera": inside})
    assert draw_view(scene, alone, inside, 120, 120)[50:70, 50:70, :3].min() == 255
    # in the cut half nothing is left of its edges
    cut = view.model_copy(update={"cuts": (Cut(along="x", filled=False),)})
    left = draw_view(scene, cut, camera, 120, 120)[..., :3].max(axis=2) < 170
    assert not left[:, 64:].any()
    assert left[:, :60].any()


@pytest.mark.parametrize("dpi", [96, 200])
def test_cut_faces_are_hatched_by_component(dpi: int) -> None:
    """Two parts side by side, cut: along a row of pixels the lines of each are its own distance apart, in mm of the poster."""
    boxes = [trimesh.creation.box((60, 10, 40), trimesh.transformations.translation_matrix((x, 0, 0))) for x in (-30, 30)]
    nodes = [Node(name, "", np.eye(4), (n,), (Material("#404040"),)) for n, name in enumerate(("Left", "Right"))]
    scene = Scene(tuple(nodes), tuple(mesh_of(box) for box in boxes))
    cut = Cut(along="y", flip=True, hatched=True)
    camera = Camera(position=(0, -300, 0), target=(0, 0, 0), up=(0, 0, 1), span=40)
    wide, high = round(120 / 25.4 * dpi), round(40 / 25.4 * dpi)

    def row(view: PreparedView) -> np.ndarray:
        return draw_view(scene, view, camera, wide, high, dpi)[high // 2, :, 0].astype(int)  # type: ignore[no-any-return]

    plain = row(PreparedView(id="v", name="v", cuts=(cut.model_copy(update={"hatched": False}),)))
    hatched = row(PreparedView(id="v", name="v", cuts=(cut,)))
    assert len(set(plain[2 : wide // 2 - 2].tolist())) == 1
    found = []
    for first in (0, wide // 2):
        part = hatched[first + 3 : first + wide // 2 - 3]
        dark = part < part.min() + 30
        starts = np.flatnonzero(np.diff(dark.astype(int)) == 1)
        found.append(float(np.diff(starts).mean()) * 25.4 / dpi)
        assert 0.15 < dark.mean() < 0.35
    # both run at 45° here, to opposite sides: along a row their lines are √2 as far apart
    assert found == pytest.approx([2.4 * np.sqrt(2)] * 2, rel=0.03)


def test_a_scan_is_looked_over_without_being_taken_for_a_part() -> None:
    """Every triangle of noise is a face of its own: such a mesh has nothing to take hold of, and that is found quickly."""
    import trimesh

    ball = trimesh.creation.icosphere(6, 50)
    rough = ball.vertices * np.random.default_rng(3).uniform(0.9, 1.1, (len(ball.vertices), 1))
    noise = mesh_part(Mesh(rough, np.array(ball.faces)))
    found = features_of(merged(noise.pieces))
    assert [face.kind for face in found.faces] == ["other"]
    assert found.edges == ()


def test_a_name_that_reads_like_a_piece_is_made_another() -> None:
    taken = {"Ball"}
    assert unique("Ball · piece 1", taken) == "Ball - piece 1"
    assert unique("Ball", taken) == "Ball (2)"
    assert unique("  ", taken) == "unnamed"
