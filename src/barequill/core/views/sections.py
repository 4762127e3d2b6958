"""What views show, those that are cut too: from cutting lines, local cuts and quarters to scenes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import shapely

from ..cutting.limits import NO_CUT, Cell, Cut, cutting_plane
from ..drawing import Drawing, Sheet
from ..drawing.cutting import LocalCut
from ..drawing.views import DetailView, FreeView, PictorialView, PrincipalView, SectionView, View
from ..errors import UserError
from ..geometry.planar import rings_of
from ..part.model import Part
from ..projection import camera
from .cutting_lines import (
    Array,
    Frame,
    Stretch,
    frame_of,
    is_aligned,
    left_of,
    main_of,
    run_of,
    section_camera,
    stretches_of,
    tie_point,
)
from .directions import cameras, oblique_of, shown_key
from .scene import Leg, Scene, Vector

Parts = Callable[[str], Part]


def plain_scene(view: View, camera_: tuple[Vector, Vector], part: str = "") -> Scene:
    """What a view shows as long as nothing of it is cut, by a camera (toward, up); ``part``: the key of what it shows, its own where none
    is given."""
    bodies = None if view.bodies is None else tuple(sorted(view.bodies))
    return Scene(
        part or view.part, *camera_, bodies, ribs=tuple(sorted(view.ribs)), adjacent=tuple(sorted(view.adjacent))
    )


def section_scene(view: SectionView, part: Part, frame: Frame, key: str = "") -> Scene:
    """What a section shows of a part; ``frame`` is its parent's, ``key`` that of the part where it is another than the view's.

    Raises
    ------
    UserError
        Where its line cuts nothing, or cannot be followed.
    """
    run = run_of(view.line, frame, part)
    stretches = stretches_of(run.points)
    main = main_of(stretches)
    toward, up = section_camera(frame, main.along, main.along, view.side)
    bare = view.bare or view.within
    plain = plain_scene(view, (toward, up), key)
    whole = tuple(sorted(view.whole))
    begin, end = view.line.ends
    if not is_aligned(stretches):
        return replace(plain, cut=Cut(tuple(_straight(view, frame, stretches)), whole, bare))
    if "half" in (begin, end):
        raise UserError("A half section has one straight leg", "Let the line go on, or make it straight.")
    seen, e = camera(toward, up), frame.space(main.along)
    along = np.array([e @ seen.right, e @ seen.up])
    legs: list[Leg] = []
    starts = _unrolled(stretches, main, frame)
    for s, at in zip(stretches, starts, strict=True):
        look = view.side * left_of(s.along)
        cells = [Cell((frame.cutting_plane(-look, float(-look @ s.start)),))]
        if not (s.first and begin == "through"):
            cells.append(Cell((frame.cutting_plane(-s.along, float(-s.along @ s.start), False),)))
        if not (s.last and end == "through"):
            cells.append(Cell((frame.cutting_plane(s.along, float(s.along @ s.end), False),)))
        if view.depth is not None:
            cells.append(Cell((frame.cutting_plane(look, float(look @ s.start) + view.depth, False),)))
        own_toward, own_up = section_camera(frame, s.along, main.along, view.side)
        begins = float(s.along @ s.start) + float(frame.space(s.along) @ frame.middle)
        shift = along * (at - begins)
        legs.append(Leg(own_toward, own_up, Cut(tuple(cells), whole, bare), (float(shift[0]), float(shift[1]))))
    return replace(plain, legs=tuple(legs))


def _unrolled(stretches: list[Stretch], main: Stretch, frame: Frame) -> list[float]:
    """Where each leg begins along the main one, once all are turned into its plane."""
    lengths = [float(s.along @ (s.end - s.start)) for s in stretches]
    m = stretches.index(main)
    found = [0.0] * len(stretches)
    found[m] = float(main.along @ main.start) + float(frame.space(main.along) @ frame.middle)
    for k in range(m + 1, len(stretches)):
        found[k] = found[k - 1] + lengths[k - 1]
    for k in range(m - 1, -1, -1):
        found[k] = found[k + 1] - lengths[k]
    return found


def _straight(view: SectionView, frame: Frame, stretches: list[Stretch]) -> list[Cell]:
    """The cells of a section whose legs all run alike."""
    e = stretches[0].along
    look = view.side * left_of(e)
    begin, end = view.line.ends
    cells = []
    for s in stretches:
        cutting_planes = [frame.cutting_plane(-look, float(-look @ s.start))]
        if not s.first or begin == "half":
            cutting_planes.append(frame.cutting_plane(e, float(e @ s.start), False))
        if not s.last or end == "half":
            cutting_planes.append(frame.cutting_plane(-e, float(-e @ s.end), False))
        cells.append(Cell(tuple(cutting_planes)))
    if begin == "short":
        cells.append(Cell((frame.cutting_plane(-e, float(-e @ stretches[0].start), False),)))
    if end == "short":
        cells.append(Cell((frame.cutting_plane(e, float(e @ stretches[-1].end), False),)))
    if view.depth is not None:
        cells.append(Cell((frame.cutting_plane(look, float(look @ stretches[0].start) + view.depth, False),)))
    return cells


def smooth_outline(points: Array, steps: int = 6) -> Array:
    """A closed free line (m, 2) through corners (n, 2): a Catmull-Rom spline with so many points a corner."""
    a, b, c, d = (np.roll(points, k, axis=0)[:, None] for k in (1, 0, -1, -2))
    t = (np.arange(steps) / steps)[None, :, None]
    found = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
    return found.reshape(-1, 2)


def outline_of(cut: LocalCut) -> Array:
    """The outline (m, 2) of a local cut in its view, closed."""
    points = np.array(cut.outline, float)
    return smooth_outline(points) if cut.smooth else points


def local_depth(cut: LocalCut, part: Part, frame: Frame) -> float:
    """How deep a local cut goes: mm toward the viewer from the middle of the part."""
    there = None if cut.tie is None else tie_point(part, cut.tie)
    return cut.depth if there is None else float((there - frame.middle) @ frame.toward)


def _local_cells(cut: LocalCut, part: Part, frame: Frame) -> list[Cell]:
    """A local cut as cells: a prism for each triangle of its outline; none where that crosses itself."""
    outline = shapely.Polygon(outline_of(cut))
    if not outline.is_valid:
        return []
    lid = cutting_plane(frame.middle + local_depth(cut, part, frame) * frame.toward, frame.toward)
    cells = []
    for triangle in shapely.constrained_delaunay_triangles(outline).geoms:
        corners = rings_of(shapely.orient_polygons(triangle))[0]
        cutting_planes = [lid]
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            inward = left_of(b - a) / max(float(np.linalg.norm(b - a)), 1e-300)
            cutting_planes.append(frame.cutting_plane(inward, float(inward @ a), False))
        cells.append(Cell(tuple(cutting_planes)))
    return cells


def _quarter(view: PictorialView, frame: Frame) -> Cell:
    """The quarter next to the viewer, between two planes through the middle of the part; ``frame``: the parent's."""
    return Cell(tuple(cutting_plane(frame.middle, n) for n in (frame.toward, frame.right * view.corner[0])))


def scenes_of(drawing: Drawing, sheet: Sheet, parts: Parts) -> dict[str, Scene]:
    """What each view of a sheet shows, by its id."""
    at = cameras(drawing, parts)
    keys = {v.id: shown_key(drawing, v, parts) for s in drawing.sheets for v in s.views}

    def frame(view: View) -> Frame:
        return frame_of(parts(keys[view.id]), *at[view.id])

    def own_of(view: View) -> tuple[Vector, Vector, Vector]:
        """The directions of a pictorial view: those of its parent, or of the part as its file has it, upright what is most so."""
        parent = drawing.view(view.parent)
        if isinstance(view, PictorialView) and parent is not None:
            f = camera(*at[parent.id])
            return _vector(f.right), _vector(f.up), _vector(f.toward)
        seen, axes = camera(*at[view.id]), np.eye(3)
        upright = int(np.argmax(np.abs(axes @ seen.up)))
        rest = [k for k in range(3) if k != upright]
        level = max(rest, key=lambda k: abs(float(axes[k] @ seen.right)))
        deep = 3 - upright - level
        return _vector(axes[level]), _vector(axes[upright]), _vector(axes[deep])

    def of(view: View, seen: int = 0) -> Scene:
        """What a view shows but for its local cuts, which are its own."""
        plain = plain_scene(view, at[view.id], keys[view.id])
        if view.pictorial:
            plain = replace(plain, own=own_of(view))
        if isinstance(view, PictorialView) and view.parent in at:
            slanted = oblique_of(view.form, *at[view.parent], view.corner)
            plain = replace(plain, oblique=None if slanted is None else slanted[1])
        if isinstance(view, PrincipalView | FreeView) and view.cut_at is not None:
            own = frame(view)
            cell = Cell((cutting_plane(own.middle + view.cut_at * own.toward, own.toward),))
            return replace(plain, cut=Cut((cell,), tuple(sorted(view.whole))))
        parent = drawing.view(view.parent)
        if parent is None or parent.part != view.part or seen >= 20:
            return plain
        if isinstance(view, DetailView):
            # the same, only nearer
            return with_local(parent, seen + 1)
        if isinstance(view, SectionView):
            try:
                return section_scene(view, parts(keys[view.id]), frame(parent), keys[view.id])
            except UserError:
                # one line that cannot be followed costs no sheet: the view is whole, and says so
                return plain
        cut = _handed_on(of(parent, seen + 1))
        if isinstance(parent, SectionView) and cut and (above := drawing.view(parent.parent)) is not None:
            cut = _bent(parent, cut, parts(keys[parent.id]), frame(above))
        if cut and view.whole:
            cut = replace(cut, whole=tuple(sorted(view.whole)))
        if isinstance(view, PictorialView) and view.quarter:
            cut = Cut((*cut.cells, _quarter(view, frame(parent))), tuple(sorted(view.whole)))
        return replace(plain, cut=cut)

    def with_local(view: View, seen: int = 0) -> Scene:
        scene = of(view, seen)
        if not view.local_cuts or isinstance(view, SectionView):
            return scene
        own = frame(view)
        cells = [c for local in view.local_cuts for c in _local_cells(local, parts(keys[view.id]), own)]
        if not cells:
            return scene
        limits = tuple(tuple((float(x), float(y)) for x, y in outline_of(c)) for c in view.local_cuts)
        cut = Cut((*scene.cut.cells, *cells), tuple(sorted(view.whole)) or scene.cut.whole)
        return replace(scene, cut=cut, limits=limits)

    return {view.id: with_local(view) for view in sheet.views}


def _vector(v: Array) -> Vector:
    x, y, z = (float(c) + 0.0 for c in v)
    return x, y, z


def _bent(view: SectionView, cut: Cut, part: Part, frame: Frame) -> Cut:
    """The ``cut`` of a section as it shows in views projected from it; of one with leaning legs all that lies before its line,
    leg by leg as far as half way round each corner. ``frame`` is the parent's of the section."""
    stretches = stretches_of(run_of(view.line, frame, part).points)
    if not is_aligned(stretches):
        return cut
    cells = []
    for k, s in enumerate(stretches):
        look = view.side * left_of(s.along)
        cutting_planes = [frame.cutting_plane(-look, float(-look @ s.start))]
        for other, at, sense in ((k - 1, s.start, 1.0), (k + 1, s.end, -1.0)):
            if 0 <= other < len(stretches):
                way = sense * (s.along + stretches[other].along)
                way = way / max(float(np.linalg.norm(way)), 1e-9)
                cutting_planes.append(frame.cutting_plane(way, float(way @ at), False))
        cells.append(Cell(tuple(cutting_planes)))
    return replace(cut, cells=tuple(cells))


def _handed_on(scene: Scene) -> Cut:
    """The cut of a view as it shows in those projected from it: steps are faces there."""
    cut = scene.cut if not scene.legs else Cut(scene.legs[0].cut.cells[:1], scene.legs[0].cut.whole)
    if not cut or cut.bare:
        return NO_CUT
    return replace(cut, cells=tuple(Cell(tuple(replace(w, shown=True) for w in c.cutting_planes)) for c in cut.cells))
