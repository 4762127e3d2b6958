"""What an assembly is put together of, as its file says; quantities by counting on one's fingers."""

from __future__ import annotations

from pathlib import Path

import pytest

from barequill.core import read_part
from barequill.core.part.products import Product, quantities, told
from barequill.core.reading import shapes
from barequill.core.reading.step import read_step
from tools.made_parts import write_assembly

from .conftest import real_file


@pytest.fixture
def gear(tmp_path: Path) -> Path:
    """Two racks of three teeth and two pins each; a pin more on the whole; one rack ½ in its name."""
    tooth, pin = shapes.box((0, 0, 0), (10, 10, 10)), shapes.cylinder((0, 0, 0), (0, 0, 1), 2, 20)
    plan = {
        "gear": [("Rack ½", 0), ("Rack ½", 100), ("Pin", 300)],
        "Rack ½": [("Tooth", 0), ("Tooth", 12), ("Tooth", 24), ("Pin", 40), ("Pin", 50)],
        "Tooth": tooth,
        "Pin": pin,
    }
    return write_assembly(tmp_path / "gear.step", plan)


def test_products_of_nested_assemblies_are_counted_in_the_whole(gear: Path) -> None:
    part = read_part(gear)
    found = {p["name"]: p for p in part.summary()["products"]}
    assert {n: (p["quantity"], p["of"], p["bodies"]) for n, p in found.items()} == {
        "gear": (1, [], 0),
        "Rack ½": (2, ["gear"], 0),
        "Tooth": (6, ["Rack ½"], 1),
        "Pin": (5, ["gear", "Rack ½"], 1),
    }
    assert (part.name, len(part.bodies)) == ("gear", 11)


def test_each_body_knows_where_it_stands_in_the_whole(gear: Path) -> None:
    part = read_part(gear)
    assert len({b.path for b in part.bodies}) == 11, "no two occurrences are one"
    for body in part.bodies:
        row = body.path[0]
        for use in body.path[1:]:
            row = part.products[row].uses[use]
        assert row == body.product and part.products[row].name == body.name
    # the second rack stands 100 farther on: so do its bodies
    centres = [
        b.centroid[0]
        for b in part.bodies
        if b.product == next(r for r, p in enumerate(part.products) if p.name == "Tooth")
    ]
    assert sorted(round(x) for x in centres) == [5, 17, 29, 105, 117, 129]


def test_a_part_alone_is_one_product_of_its_bodies(tmp_path: Path) -> None:
    path = write_assembly(tmp_path / "lone.step", {"lone": shapes.box((0, 0, 0), (1, 2, 3))})
    assert read_part(path).summary()["products"] == [
        {"name": "lone", "number": "lone", "quantity": 1, "of": [], "bodies": 1}
    ]


def test_a_real_assembly_has_six_bolts_and_eight_nuts() -> None:
    """Two brackets with three bolts and nuts each, and a rod with two nuts: as its modeller drew it."""
    part = read_part(real_file("as1-tu-203.stp"))
    count = {p["name"]: p["quantity"] for p in part.summary()["products"]}
    assert (count["bolt"], count["nut"], count["l-bracket"], count["nut-bolt-assembly"]) == (6, 8, 2, 6)


def test_quantities_multiply_along_every_way_down() -> None:
    # 3 a of 2 b of 5 c, and 4 c of the whole: 3 · 2 · 5 + 4
    products = [
        Product("whole", uses=(1, 1, 1, 3, 3, 3, 3)),
        Product("a", uses=(2, 2)),
        Product("b", uses=(3,) * 5),
        Product("c"),
    ]
    assert quantities(products) == [1, 3, 6, 34]
    assert told(products, [3] * 34)[3] == {"name": "c", "number": "", "quantity": 34, "of": ["whole", "b"], "bodies": 1}


def test_assemblies_that_stand_in_each_other_come_above_before_below(gear: Path) -> None:
    _, _, products = read_step(gear, "gear")
    assert all(use > row for row, p in enumerate(products) for use in p.uses)
