"""What tidying mends at last: a size whose lettering lies on something goes to where it does not, and others stay."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from barequill.core.acts.pull_dimension import PullDimension
from barequill.core.arranging.clashes import Shapes
from barequill.core.arranging.obstacles import Obstacles
from barequill.core.arranging.tidy_repair import repaired
from barequill.core.arranging.tidy_rows import Table
from barequill.core.sheet.elements import context_of

NOTHING = shapely.Point(-1e6, -1e6)


@pytest.fixture
def sized(block):
    """The block with its width (100) stated below its front view and its thickness (20) to the right of it."""
    low = block.do(
        PullDimension(
            view=block.front, picks=[block.pick(block.front, (50, 0, 0))], pointer=block.at(block.front, (50, 0, -12))
        )
    )
    side = block.do(
        PullDimension(
            view=block.front, picks=[block.pick(block.front, (100, 0, 10))], pointer=block.at(block.front, (112, 0, 10))
        )
    )
    views = block.projections.placed_views(block.drawing, block.sheet)
    table = Table(
        context_of(block.drawing, block.sheet, views, block.front),
        np.array(views[block.front].transform.place, float),
        NOTHING,
    )
    placed = {own: block.sheet.annotation(own) for own in (low, side)}
    return table, placed, low, side


def around(shapes: Shapes, by: float) -> Shapes:
    """Lettering that covers that of another, and so much about it."""
    return Shapes(texts=[shapely.box(*t.buffer(by).bounds) for t in shapes.texts])


def test_nothing_moves_where_nothing_lies_on_anything(sized) -> None:
    table, placed, *_ = sized
    assert (
        repaired({table.context.view.view.id: table}, placed, Obstacles(shapely.box(0, 0, 420, 297)), set()) == placed
    )


def test_a_size_whose_figure_lies_on_lettering_goes_off_it_and_the_other_stays(sized) -> None:
    table, placed, low, side = sized
    fixed = Obstacles(shapely.box(0, 0, 420, 297))
    wall = around(table.shapes(placed[low]), 1.0)
    fixed.add(wall)
    found = repaired({table.context.view.view.id: table}, placed, fixed, set())
    assert found[side] == placed[side] and found[low] != placed[low]
    (figure,) = table.shapes(found[low]).texts
    assert not any(figure.intersects(t) for t in wall.texts)
    # it is the same size, elsewhere: only its place is another
    assert found[low].model_copy(update={"place": placed[low].place}) == placed[low]


def test_of_two_figures_on_each_other_one_gives_way(sized) -> None:
    table, placed, low, _ = sized
    twin = placed[low].model_copy(update={"id": "e77"})
    found = repaired(
        {table.context.view.view.id: table},
        {low: placed[low], "e77": twin},
        Obstacles(shapely.box(0, 0, 420, 297)),
        set(),
    )
    one, other = (table.shapes(found[k]).texts[0] for k in (low, "e77"))
    assert not one.intersects(other)
    assert sum(found[k].place != placed[low].place for k in (low, "e77")) == 1


def test_what_stands_over_another_view_comes_back_from_it(sized) -> None:
    table, placed, low, _ = sized
    below = shapely.box(*shapely.unary_union(table.shapes(placed[low]).texts).buffer(4).bounds)
    over = Table(table.context, table.at, below)
    found = repaired(
        {table.context.view.view.id: over}, {low: placed[low]}, Obstacles(shapely.box(0, 0, 420, 297)), set()
    )
    assert not table.shapes(found[low]).texts[0].intersects(below)
