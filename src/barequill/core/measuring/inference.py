"""What a hand means that pulls a dimension out of geometry: kind, direction and place inferred."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor, Dimension, Place
from ..drawing.annotations.pitch_circle import PitchCircle
from ..errors import Unmeasurable
from ..features.faces import TURNED, faces_beside
from ..features.rings import facing_in
from ..features.sweeps import ball_share, sweep_beside, sweep_of_face
from ..geometry.vectors import cross
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .anchor_geometry import AnchorGeometry, resolve
from .context import LayoutContext
from .measuring import Angular, ArcLength, Linear, Pointed, Round, axis_of, level_of, measure, normal_of, opened
from .picking import WHOLE, Pick, anchor_for, arc_in_line, reach_across, rim_across

Array = NDArray[np.float64]


WISHES: dict[str, dict[str, object]] = {
    "arc length": {"measure": "arc"},
    "chord": {"measure": "chord"},
    "chamfer": {"measure": "chamfer"},
    "slope": {"measure": "slope"},
    "taper": {"measure": "taper"},
    "angle to the level": {"measure": "angle"},
    "the other way round": {"measure": "angle", "reflex": True},
    "radius": {"measure": "radius"},
    "diameter": {"measure": "diameter"},
    "length": {"measure": "length"},
    "distance": {"measure": "distance"},
    "depth": {"measure": "depth"},
    "angle": {"measure": "angle"},
    "angle on the paper": {"measure": "angle", "on_paper": True},
}
"""What else picks can be asked to mean, besides a direction or a side of a circle."""
DIRECTIONS = ("aligned", "horizontal", "vertical", "inward")
SIDES = {"to the near sides": -1.0, "to the far sides": 1.0}


def infer(
    context: LayoutContext, picks: list[Pick], pointer: tuple[float, float], new_id: str, wish: str = ""
) -> Dimension:
    """The dimension that picks and the pointer mean (mm from the view's zero); ``wish`` asks for another measure,
    direction, or side of circles.

    Raises
    ------
    Unmeasurable
        Where nothing can be measured between them.
    """
    placed_view = context.view
    anchors = [_anchor(context, p) for p in picks[:2]]
    if len(picks) > 2 and anchors[0] != anchors[1]:
        about = _anchor(context, picks[2])
        if about.at == "pitch":
            spokes = [Anchor(ref=a.ref, at="spoke", ring=about.ring) for a in anchors]
            return placed(
                context, Dimension(id=new_id, on=placed_view.view.id, measure="angle", anchors=spokes), pointer
            )
    if len(anchors) == 2 and anchors[0] == anchors[1]:
        anchors = anchors[:1]
    if len(anchors) == 1 and anchors[0].at in ("middle", "rim", "centre"):
        anchors = [_of_itself(placed_view, picks[0], anchors[0])]
    geometries = [resolve(placed_view.projected, a) for a in anchors]
    if wish in SIDES and len(anchors) == 2:
        anchors = _on_rims(anchors, geometries, SIDES[wish])
        geometries = [resolve(placed_view.projected, a) for a in anchors]
    kind = _alone(placed_view, anchors[0], geometries[0]) if len(anchors) == 1 else "distance"
    if len(anchors) == 2 and geometries[0].kind == geometries[1].kind == "line":
        if not _parallel(placed_view.projected, geometries[0], geometries[1]):
            kind = "angle"
        elif _one_round(placed_view, anchors):
            kind, anchors = "diameter", anchors[:1]
    wanted = WISHES.get(wish, {"measure": kind})
    if len(anchors) == 1 and wanted["measure"] in ("radius", "diameter", "length"):
        anchors = [_taken_as(placed_view.projected, anchors[0], str(wanted["measure"]))]
        geometries = [resolve(placed_view.projected, a) for a in anchors]
    if len(anchors) == 1 and not wanted["measure"]:
        what = "An axis alone" if anchors[0].at == "axis" else "One point alone"
        raise Unmeasurable(what, "Pass over a second place to measure the distance to it.")
    aim = np.array(pointer)
    given = {"id": new_id, "on": placed_view.view.id, "anchors": anchors, **wanted}
    if wanted["measure"] in ("length", "distance", "chamfer") and not any(
        s.kind == "line" for s in geometries[1:] + geometries[: len(geometries) - 1]
    ):
        if wanted["measure"] == "chamfer":
            given["direction"] = _leg(geometries[0], aim, placed_view)
        elif wish in DIRECTIONS:
            given["direction"] = wish
        elif len(geometries) > 1 or len(geometries[0].points) > 1:
            own = placed_view.projected.pictorial
            given["direction"] = (
                _own_direction(placed_view, given, aim) if own else _direction(placed_view, geometries, aim)
            )
    if len(picks) > 2 and given["measure"] == "distance":
        axis_of(placed_view.projected, picks[2].ref)
        given |= {"direction": "aligned", "along": picks[2].ref}
    made = placed(context, Dimension.model_validate(given), pointer)
    return made.model_copy(update={"half": True}) if _half_shown(placed_view, made) else made


def _anchor(context: LayoutContext, pick: Pick) -> Anchor:
    """The anchor that a pick means, be it a pitch circle of the view."""
    where, _, name = pick.at.partition(":")
    if where != "pitch":
        return anchor_for(context.view, pick)
    own = next((a for a in context.sheet.annotations if a.id == name), None)
    if not isinstance(own, PitchCircle):
        raise Unmeasurable("The pitch circle is gone", "Draw it again.")
    return Anchor(ref=own.refs[0], at="pitch", ring=own.refs)


def _parallel(projected: ProjectedScene, a: AnchorGeometry, b: AnchorGeometry) -> bool:
    """Whether two lines are, in a view; in a pictorial one, in space."""
    if projected.pictorial:
        p, q = (s.space[1] - s.space[0] for s in (a, b))
        return float(np.linalg.norm(cross(p, q))) <= 1e-6 * float(np.linalg.norm(p) * np.linalg.norm(q))
    u, v = (s.points[1] - s.points[0] for s in (a, b))
    return bool(abs(u[0] * v[1] - u[1] * v[0]) <= 1e-6 * np.linalg.norm(u) * np.linalg.norm(v))


def _own_direction(placed_view: PlacedView, given: dict[str, object], aim: Array) -> str:
    """Along which direction of a pictorial view the pointer pulls: straight, where it stands beside the gap; else that whose
    extension lines reach it."""
    best, far = "aligned", -1.0
    for k, direction in enumerate(DIRECTIONS):
        try:
            found = measure(placed_view.projected, Dimension.model_validate(given | {"direction": direction}))
        except Unmeasurable:
            continue
        assert isinstance(found, Linear) and found.out is not None
        a, b = (placed_view.transform.to_sheet(p)[0] for p in (found.first, found.second))
        along, out = placed_view.transform.direction(found.along), placed_view.transform.direction(found.out)
        # in the slanting directions of the dimension: along it, and out to it
        s, t = np.linalg.solve(np.stack([along, out], axis=1), aim - a)
        end, _ = np.linalg.solve(np.stack([along, out], axis=1), b - a)
        share = float(s) / float(end) if abs(end) > 1e-9 else -1.0
        if k == 0 and 0.1 < share < 0.9:
            return direction
        if 0.0 <= share <= 1.0 and abs(float(t)) > far:
            best, far = direction, abs(float(t))
    return best


def _of_itself(placed_view: PlacedView, pick: Pick, caught: Anchor) -> Anchor:
    """What is meant by a middle, a centre, or a side of a circle alone: the edge or circle that it is of."""
    try:
        own = anchor_for(placed_view, Pick(pick.ref, pick.x, pick.y))
    except Unmeasurable:
        return caught
    return own if caught.at == "middle" or own.at == "round" else caught


def _taken_as(projected: ProjectedScene, anchor: Anchor, measured: str) -> Anchor:
    """An arc that a view shows as a straight line, taken as what is measured: its length there, or as what it is."""
    kind, row = projected.part.find(anchor.ref) or ("", 0)
    if kind != "edge" or anchor.at not in ("line", "round") or not projected.part.edges[row].curve.is_circle:
        return anchor
    if measured != "length":
        return anchor.model_copy(update={"at": "round"})
    return anchor.model_copy(update={"at": "line"}) if arc_in_line(projected, anchor.ref) else anchor


def _half_shown(placed_view: PlacedView, made: Dimension) -> bool:
    """True where a diameter has one of its ends alone in what is shown: in a half view, and of a bore in a half section."""
    if made.measure != "diameter":
        return False
    found = measure(placed_view.projected, made)
    if not isinstance(found, Linear):
        return False
    if (
        not placed_view.transform.plain
        and placed_view.transform.shows(found.first).any() != placed_view.transform.shows(found.second).any()
    ):
        return True
    return (
        placed_view.projected.scene.is_cut
        and not placed_view.view.hidden_lines
        and _opened_to_one_side(placed_view.projected, made)
    )


def _opened_to_one_side(projected: ProjectedScene, made: Dimension) -> bool:
    """True for a bore of which the cut of a view lays one side open, and hides the other."""
    anchor = made.anchors[0]
    rows = faces_beside(projected.part, anchor.ref)
    if not rows or not (projected.part.faces[rows[0]].surface.kind in TURNED and facing_in(projected.part, rows[0])):
        return False
    anchor_geometry = resolve(projected, anchor)
    if anchor_geometry.kind == "line":
        sides = [resolve(projected, anchor.model_copy(update={"side": k})).space for k in (1, -1)]
    elif anchor_geometry.axis is not None and not anchor_geometry.face_on:
        across = cross(projected.view.toward, anchor_geometry.axis)
        across = anchor_geometry.radius * across / np.linalg.norm(across)
        sides = [anchor_geometry.space + across, anchor_geometry.space - across]
    else:
        return False
    return opened(projected, sides[0]) != opened(projected, sides[1])


def _alone(placed_view: PlacedView, anchor: Anchor, anchor_geometry: AnchorGeometry) -> str:
    """What one pick means by itself; nothing for a point or an axis."""
    part = placed_view.projected.part
    kind, row = part.find(anchor.ref) or ("", 0)
    if anchor.at == "outline":
        # of what goes less than half round it is the side of the part, not a diameter
        if part.faces[row].surface.kind != "cylinder":
            return "length"
        sweep = sweep_of_face(part, row)
        return "diameter" if sweep.beyond_half and reach_across(placed_view.projected, sweep) > WHOLE else "length"
    if anchor.at == "round" and not _beyond_half(placed_view.projected, kind, row, anchor_geometry):
        return "radius"
    return {"line": "length", "round": "diameter", "pitch": "diameter"}.get(anchor.at, "")


def _beyond_half(projected: ProjectedScene, kind: str, row: int, anchor_geometry: AnchorGeometry) -> bool:
    """True where something round is told by its diameter."""
    part = projected.part
    if kind == "edge":
        return sweep_beside(part, row).beyond_half if anchor_geometry.face_on else rim_across(projected, row)
    if part.faces[row].surface.kind == "sphere":
        return ball_share(part, row) > 0.51
    return part.faces[row].surface.kind != "cylinder" or sweep_of_face(part, row).beyond_half


def _one_round(placed_view: PlacedView, anchors: list[Anchor]) -> bool:
    """True where two outlines are the opposite sides of one bore or shaft, be it of one face or of several."""
    if not all(a.at == "outline" for a in anchors) or anchors[0].side == anchors[1].side:
        return False
    part = placed_view.projected.part
    rows = [(part.find(a.ref) or ("", 0))[1] for a in anchors]
    if any(part.faces[r].surface.kind != "cylinder" for r in rows):
        return rows[0] == rows[1]
    sweep = sweep_of_face(part, rows[0])
    return sweep.beyond_half if rows[0] == rows[1] else rows[1] in sweep.rows


def _on_rims(anchors: list[Anchor], geometries: list[AnchorGeometry], sense: float) -> list[Anchor]:
    """Anchors with those on circles moved to the sides of them that face the other, or face away from it."""
    found = list(anchors)
    middles = [s.points.mean(axis=0) for s in geometries]
    for k, (anchor, anchor_geometry) in enumerate(zip(anchors, geometries, strict=True)):
        if anchor_geometry.kind != "round" and not (anchor.at == "centre" and anchor_geometry.kind == "point"):
            continue
        other = geometries[1 - k]
        way = middles[1 - k] - middles[k]
        if other.kind == "line":
            u = other.points[1] - other.points[0]
            u = u / max(float(np.linalg.norm(u)), 1e-12)
            way = way - (way @ u) * u
        angle = float(np.degrees(np.arctan2(*(-sense * way)[::-1])))
        found[k] = anchor.model_copy(update={"at": "rim", "angle": round(angle, 9)})
    return found


def _leg(anchor_geometry: AnchorGeometry, aim: Array, placed_view: PlacedView) -> str:
    """Along which of its lengths a chamfer is measured: above or below it level, beside it upright."""
    middle = placed_view.transform.to_sheet(anchor_geometry.points).mean(axis=0)
    off = np.abs(aim - middle)
    return "horizontal" if off[1] >= off[0] else "vertical"


def _direction(placed_view: PlacedView, geometries: list[AnchorGeometry], aim: Array) -> str:
    """Aligned, horizontal or vertical, by where the pointer stands about two points."""
    points = placed_view.transform.to_sheet(
        geometries[0].points if len(geometries) == 1 else np.array([geometries[0].points[0], geometries[1].points[0]])
    )
    a, b = points[0], points[1]
    span = np.abs(b - a)
    if span.min() < 1e-6 * max(span.max(), 1e-9):
        return "aligned"
    low, high = np.minimum(a, b), np.maximum(a, b)
    u = (b - a) / np.linalg.norm(b - a)
    along = float((aim - a) @ u) / float(np.linalg.norm(b - a))
    inside_x, inside_y = low[0] <= aim[0] <= high[0], low[1] <= aim[1] <= high[1]
    if inside_x and not inside_y and not 0.1 < along < 0.9:
        return "horizontal"
    if inside_y and not inside_x and not 0.1 < along < 0.9:
        return "vertical"
    if 0.0 <= along <= 1.0:
        return "aligned"
    off = np.maximum(np.maximum(low - aim, aim - high), 0)
    return "horizontal" if off[1] >= off[0] else "vertical"


def placed(context: LayoutContext, draft: Dimension, pointer: tuple[float, float]) -> Dimension:
    """The dimension with its line put where the pointer is (mm from the view's zero), snapped into rows."""
    placed_view = context.view
    aim = np.array(pointer)
    turn = draft
    if draft.measure in ("slope", "taper", "radius", "depth"):
        said = measure(placed_view.projected, draft)
        if isinstance(said, Pointed):
            gap = aim - placed_view.transform.to_sheet(said.spot[None])[0]
            angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
            return draft.model_copy(update={"place": Place(angle=angle, offset=round(float(np.linalg.norm(gap)), 2))})
    if draft.measure == "angle":
        probe = measure(placed_view.projected, draft)
        assert isinstance(probe, Angular)
        gap = aim - placed_view.transform.to_sheet(probe.apex[None])[0]
        angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
        turn = draft.model_copy(
            update={
                "place": draft.place.model_copy(update={"angle": angle, "offset": max(float(np.linalg.norm(gap)), 5.0)})
            }
        )
        measure(placed_view.projected, turn)
        return turn
    found = measure(placed_view.projected, draft)
    if isinstance(found, Linear) and found.out is not None:
        # its extension lines run to where the pointer is
        angle = _pulled_to(placed_view, found, aim)
        draft = draft.model_copy(update={"place": draft.place.model_copy(update={"angle": angle})})
        found = measure(placed_view.projected, draft)
    if isinstance(found, ArcLength):
        gap = aim - placed_view.transform.to_sheet(found.centre[None])[0]
        offset = round(float(np.linalg.norm(gap)) - found.radius * placed_view.scale, 2)
        return draft.model_copy(update={"place": Place(offset=offset)})
    if isinstance(found, Round):
        gap = aim - placed_view.transform.to_sheet(found.centre[None])[0]
        angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
        offset = float(np.linalg.norm(gap)) - found.radius * placed_view.scale
        tilt = placed_view.transform.turn
        if (
            found.symbol.endswith("R")
            and not _spans(found.span, angle - tilt)
            and _spans(found.span, angle - tilt + 180)
        ):
            # on the hollow side of an arc: the arrow goes through the centre
            angle, offset = (
                angle - 180 if angle > 0 else angle + 180,
                -float(np.linalg.norm(gap)) - found.radius * placed_view.scale,
            )
        return draft.model_copy(update={"place": Place(angle=angle, offset=round(offset, 2))})
    assert isinstance(found, Linear)
    return draft.model_copy(update={"place": _row(context, draft, found, aim)})


def _spans(span: tuple[float, float], degrees: float) -> bool:
    """True where an angle lies within a span (radians)."""
    return (float(np.radians(degrees)) - span[0]) % (2 * np.pi) <= span[1] - span[0]


def _row(context: LayoutContext, draft: Dimension, found: Linear, aim: Array) -> Place:
    placed_view, style = context.view, context.style
    n = normal_of(placed_view.transform.direction(found.along))
    gap = float(aim @ n)
    side = max((1, -1), key=lambda s: s * gap - placed_view.reach(s * n))
    offset = side * gap - placed_view.reach(side * n)
    along = _text_shift(placed_view, found, aim)
    out = {} if found.out is None else {"angle": _pulled_to(placed_view, found, aim)}
    if offset < style.overrun:
        inner = (gap - float(placed_view.transform.to_sheet(found.first[:1])[0] @ n)) / placed_view.scale
        return Place.model_validate({"frame": "model", "offset": round(inner, 4), "along": along, **out})
    rows = [style.first_row + style.row * k for k in range(40)]
    for other in context.sheet.annotations:
        if (
            isinstance(other, Dimension)
            and other.on == draft.on
            and other.id != draft.id
            and other.place.frame == "outline"
        ):
            try:
                theirs = measure(placed_view.projected, other)
            except Unmeasurable:
                continue
            if (
                isinstance(theirs, Linear)
                and abs(float(normal_of(placed_view.transform.direction(theirs.along)) @ n)) > 0.9999
                and other.place.side == side
            ):
                rows.append(other.place.offset)
    nearest = min(rows, key=lambda r: abs(r - offset))
    if abs(nearest - offset) <= style.catch or offset < style.first_row:
        offset = nearest
    return Place.model_validate({"side": side, "offset": round(offset, 2), "along": along, **out})


def _pulled_to(placed_view: PlacedView, found: Linear, aim: Array) -> float:
    """In which direction (degrees) the pointer stands from the middle of what is measured."""
    middle = (placed_view.transform.to_sheet(found.first)[0] + placed_view.transform.to_sheet(found.second)[0]) / 2
    gap = aim - middle
    return round(float(np.degrees(np.arctan2(gap[1], gap[0]))) - placed_view.transform.turn, 2)


def _text_shift(placed_view: PlacedView, found: Linear, aim: Array) -> float:
    """Shift of the text along its line, caught at the middle."""
    u = placed_view.transform.direction(found.along)
    first, second = (placed_view.transform.to_sheet(p)[0] @ u for p in (found.first, found.second))
    low, high = min(first, second), max(first, second)
    shift = float(aim @ u - (low + high) / 2)
    if abs(shift) < max(6.0, (high - low) * 0.5 + 3.0):
        return 0.0
    return round(shift, 2)


def moved_text(context: LayoutContext, dimension: Dimension, pointer: tuple[float, float]) -> Place:
    """Place of a dimension whose text alone is dragged along its line, to mm from the view's zero."""
    placed_view = context.view
    found = measure(placed_view.projected, dimension)
    if not isinstance(found, Linear):
        return placed(context, dimension, pointer).place
    aim = np.array(pointer)
    u = placed_view.transform.direction(found.along)
    n = normal_of(u)
    level = level_of(context, dimension, found)
    ends = []
    for options in (found.first, found.second):
        points = placed_view.transform.to_sheet(options)
        ends.append(float(points[int(np.argmin(np.abs(points @ n - level)))] @ u))
    shift = float(aim @ u) - sum(ends) / 2
    return dimension.place.model_copy(update={"along": 0.0 if abs(shift) < context.style.overrun else round(shift, 2)})
