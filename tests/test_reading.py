"""What is read from part files of every kind, and what is kept of it."""

from __future__ import annotations

import math
import pickle
from pathlib import Path

import numpy as np
import pytest

from barequill.core import project, read_part
from barequill.core.errors import BadPartFile, UserError
from barequill.core.projection import PRINCIPAL
from barequill.core.reading import shapes
from barequill.core.reading.reading import LARGEST, check_file, content_key
from barequill.core.reading.step_header import materials
from tools.common import demo_file, part_of
from tools.made_parts import random_shape, write_shape
from tools.truth import random_part

from .conftest import real_file


def plate() -> object:
    return shapes.cut(shapes.box((0, 0, 0), (60, 40, 8)), shapes.cylinder((20, 20, -1), (0, 0, 1), 6, 10))


# ---- what is read


@pytest.mark.parametrize("suffix", [".step", ".stp", ".igs", ".brep"])
@pytest.mark.parametrize("unit", ["MM", "INCH"])
def test_units_come_out_right_from_every_format_that_has_them(tmp_path: Path, suffix: str, unit: str) -> None:
    if suffix == ".brep" and unit == "INCH":
        pytest.skip("the kernel's own format has no units")
    part = read_part(write_shape(tmp_path / f"plate{suffix}", plate(), unit))
    assert part.high - part.low == pytest.approx([60, 40, 8], abs=1e-4)
    assert part.volume == pytest.approx(60 * 40 * 8 - math.pi * 36 * 8, rel=1e-5)
    assert part.centroid[0] == pytest.approx(
        (60 * 40 * 8 * 30 - math.pi * 36 * 8 * 20) / (60 * 40 * 8 - math.pi * 36 * 8), rel=1e-5
    )


def test_figures_of_a_holed_plate_are_those_of_the_formula(tmp_path: Path) -> None:
    part = read_part(write_shape(tmp_path / "plate.step", plate()))
    area = 2 * (60 * 40 - math.pi * 36) + 2 * (60 + 40) * 8 + 2 * math.pi * 6 * 8
    assert part.area == pytest.approx(area, rel=1e-9)
    kinds = sorted(f.surface.kind for f in part.faces)
    assert kinds == ["cylinder"] + ["plane"] * 6
    bore = next(f for f in part.faces if f.surface.kind == "cylinder")
    assert bore.surface.radius == pytest.approx(6) and bore.sense * bore.surface.hand < 0, "a bore faces inward"
    assert sum(e.joint == "same" for e in part.edges) == 1, "its seam"
    sharp = [e for e in part.edges if e.joint == "sharp"]
    assert len(sharp) == 14 and all(e.convex.all() for e in sharp)


def test_edges_of_a_step_are_told_convex_from_concave(tmp_path: Path) -> None:
    stairs = shapes.fuse(shapes.box((0, 0, 0), (40, 30, 10)), shapes.box((0, 0, 10), (20, 30, 10)))
    part = read_part(write_shape(tmp_path / "stairs.step", stairs))
    hollow = [e for e in part.edges if e.joint == "sharp" and not e.convex.any()]
    assert len(hollow) == 1, "the inner corner alone"
    assert hollow[0].curve.points(np.array([hollow[0].curve.t0]))[0][[0, 2]] == pytest.approx([20, 10])


@pytest.mark.parametrize("name", ["as1-tu-203.stp", "dm1-oc-214.stp", "io1-cm-214.stp", "component8.step"])
def test_meshes_of_real_parts_have_the_area_of_their_surfaces(name: str) -> None:
    part = part_of(real_file(name))
    corners = part.mesh.nodes[part.mesh.triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    assert area == pytest.approx(part.area, rel=0.004), "chords are shorter than arcs by less than half a per cent"
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    along = (normals * part.mesh.normals[part.mesh.triangles].mean(axis=1)).sum(axis=1)
    assert (along > -1e-9).mean() > 0.999, "triangles face outward as their nodes' normals do"


@pytest.mark.parametrize("seed", [3, 5, 7, 9])
def test_the_mesh_of_a_solid_encloses_its_volume(seed: int) -> None:
    shape = random_shape(seed)
    if shape is None:
        pytest.skip("the kernel makes no valid part of this seed")
    part = random_part(shape)
    a, b, c = part.mesh.nodes[part.mesh.triangles].transpose(1, 0, 2)
    volume = (np.cross(a, b) * c).sum() / 6
    assert volume == pytest.approx(part.volume, rel=0.01), "closed, and outward all over"


def test_materials_are_found_in_the_text_of_a_file() -> None:
    assert materials(b"") == {}
    text = (
        b"#1=PRODUCT('WL-7','Keeper \\X2\\00BD\\X0\\ turn','',(#2));\n#9=PRODUCT_DEFINITION_FORMATION('','',#1);\n"
        b"#10=PRODUCT_DEFINITION('design','',#9,#3);\n#20=PROPERTY_DEFINITION('material property','material name',#10);\n"
        b"#21=PROPERTY_DEFINITION_REPRESENTATION(#20,#22);\n#22=REPRESENTATION('',(#23),#4);\n"
        b"#23=DESCRIPTIVE_REPRESENTATION_ITEM('Bronze CuSn8','');\n"
    )
    assert materials(text) == {"Keeper ½ turn": "Bronze CuSn8"}


def test_progress_rises_from_start_to_end_and_says_what_is_done() -> None:
    told: list[tuple[float, str]] = []
    read_part(demo_file("small-pedestal-assembly"), progress=lambda share, what: told.append((share, what)))
    shares = [s for s, _ in told]
    assert shares == sorted(shares) and 0 <= shares[0] < 0.5 and shares[-1] <= 1
    assert len(told) > 5 and any("of 6" in what for _, what in told)


def test_a_prepared_part_survives_being_kept() -> None:
    part = part_of(demo_file("pawl"))
    again = pickle.loads(pickle.dumps(part, protocol=5))
    one, two = (project(p, *PRINCIPAL["iso"]) for p in (part, again))
    assert [(c.source, c.visible, c.span) for c in one] == [(c.source, c.visible, c.span) for c in two]


def test_the_key_of_a_file_is_that_of_its_content() -> None:
    data = demo_file("pawl").read_bytes()
    assert content_key(data) == content_key(bytes(data)) != content_key(data + b" ")


# ---- what is refused


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.step", b"", "empty"),
        ("a.step", b"\x1f\x8b\x08" + bytes(30), "archive"),
        ("a.stp", b"Rar!\x1a\x07" + bytes(30), "archive"),
        ("a.step", b"\x00" * 400, "not a STEP file"),
        ("a.igs", b"hello", "IGES"),
        ("a.brep", b"hello", "B-rep"),
        ("a.dwg", b"AC1027", "not a part file"),
    ],
)
def test_each_kind_of_wrong_file_is_told_by_its_name(name: str, data: bytes, words: str) -> None:
    with pytest.raises(BadPartFile) as told:
        check_file(name, data)
    assert words.lower() in f"{told.value.title} {told.value.detail}".lower()
    assert name in told.value.title and told.value.detail


def test_a_file_over_the_limit_is_refused_by_its_size() -> None:
    class Large(bytes):
        def __len__(self) -> int:
            return LARGEST + 1

    with pytest.raises(UserError) as told:
        check_file("big.step", Large(b"ISO-10303-21;"))
    assert "MB" in f"{told.value.title} {told.value.detail}"


@pytest.mark.parametrize("share", [0.2, 0.5, 0.8, 0.99])
def test_wherever_a_file_is_cut_it_is_refused(tmp_path: Path, share: float) -> None:
    data = demo_file("catch-box").read_bytes()
    path = tmp_path / "cut.step"
    path.write_bytes(data[: int(share * len(data))])
    with pytest.raises(BadPartFile):
        read_part(path)


def test_a_file_with_a_broken_face_says_so_or_gives_a_sound_part(tmp_path: Path) -> None:
    """One reference of a face points nowhere: never half a part without a word."""
    text = demo_file("pawl").read_text()
    at = text.index("ADVANCED_FACE")
    broken = text[:at] + text[at:].replace("#", "#9999", 1)
    path = tmp_path / "broken.step"
    path.write_text(broken)
    try:
        part = read_part(path)
    except BadPartFile as error:
        assert error.detail
    else:
        whole = part_of(demo_file("pawl"))
        assert part.remarks or part.volume == pytest.approx(whole.volume, rel=1e-6)
