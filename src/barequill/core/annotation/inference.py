"""What a hand means that pulls a dimension out of geometry: kind, direction and place inferred."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor, Dimension, Place
from ..errors import Unmeasurable
from ..geometry.vectors import cross
from ..part.features.faces import TURNED, faces_beside
from ..part.features.rings import facing_in
from ..part.features.sweeps import ball_share, sweep_beside, sweep_of_face
from ..views.picture import Picture
from ..views.shot import Shot
from .linear import level_of, normal_of
from .measuring import Angular, ArcLength, Linear, Pointed, Round, axis_of, measure, opened
from .picking import WHOLE, Pick, anchor_for, arc_in_line, reach_across, rim_across
from .seats import Seat, resolve
from .solving import Stage

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


def infer(stage: Stage, picks: list[Pick], pointer: tuple[float, float], new_id: str, wish: str = "") -> Dimension:
    """The dimension that picks and the pointer mean (mm from the view's zero); ``wish`` asks for another measure,
    direction, or side of circles.

    Raises
    ------
    Unmeasurable
        Where nothing can be measured between them.
    """
    picture = stage.view
    anchors = [anchor_for(picture, p) for p in picks[:2]]
    if len(anchors) == 2 and anchors[0] == anchors[1]:
        anchors = anchors[:1]
    if len(anchors) == 1 and anchors[0].at in ("middle", "rim", "centre"):
        anchors = [_of_itself(picture, picks[0], anchors[0])]
    seats = [resolve(picture.shot, a) for a in anchors]
    if wish in SIDES and len(anchors) == 2:
        anchors = _on_rims(anchors, seats, SIDES[wish])
        seats = [resolve(picture.shot, a) for a in anchors]
    kind = _alone(picture, anchors[0], seats[0]) if len(anchors) == 1 else "distance"
    if len(anchors) == 2 and seats[0].kind == seats[1].kind == "line":
        if not _parallel(picture.shot, seats[0], seats[1]):
            kind = "angle"
        elif _one_round(picture, anchors):
            kind, anchors = "diameter", anchors[:1]
    wanted = WISHES.get(wish, {"measure": kind})
    if len(anchors) == 1 and wanted["measure"] in ("radius", "diameter", "length"):
        anchors = [_taken_as(picture.shot, anchors[0], str(wanted["measure"]))]
        seats = [resolve(picture.shot, a) for a in anchors]
    if len(anchors) == 1 and not wanted["measure"]:
        what = "An axis alone" if anchors[0].at == "axis" else "One point alone"
        raise Unmeasurable(what, "Pass over a second place to measure the distance to it.")
    aim = np.array(pointer)
    given = {"id": new_id, "on": picture.view.id, "anchors": anchors, **wanted}
    if wanted["measure"] in ("length", "distance", "chamfer") and not any(
        s.kind == "line" for s in seats[1:] + seats[: len(seats) - 1]
    ):
        if wanted["measure"] == "chamfer":
            given["direction"] = _leg(seats[0], aim, picture)
        elif wish in DIRECTIONS:
            given["direction"] = wish
        elif len(seats) > 1 or len(seats[0].points) > 1:
            own = picture.shot.pictorial
            given["direction"] = _own_direction(picture, given, aim) if own else _direction(picture, seats, aim)
    if len(picks) > 2 and given["measure"] == "distance":
        axis_of(picture.shot, picks[2].ref)
        given |= {"direction": "aligned", "along": picks[2].ref}
    made = placed(stage, Dimension.model_validate(given), pointer)
    return made.model_copy(update={"half": True}) if _half_shown(picture, made) else made


def _parallel(shot: Shot, a: Seat, b: Seat) -> bool:
    """Whether two lines are, in a view; in a pictorial one, in space."""
    if shot.pictorial:
        p, q = (s.space[1] - s.space[0] for s in (a, b))
        return float(np.linalg.norm(cross(p, q))) <= 1e-6 * float(np.linalg.norm(p) * np.linalg.norm(q))
    u, v = (s.points[1] - s.points[0] for s in (a, b))
    return bool(abs(u[0] * v[1] - u[1] * v[0]) <= 1e-6 * np.linalg.norm(u) * np.linalg.norm(v))


def _own_direction(picture: Picture, given: dict[str, object], aim: Array) -> str:
    """Along which direction of a pictorial view the pointer pulls: straight, where it stands beside the gap; else that whose
    extension lines reach it."""
    best, far = "aligned", -1.0
    for k, direction in enumerate(DIRECTIONS):
        try:
            found = measure(picture.shot, Dimension.model_validate(given | {"direction": direction}))
        except Unmeasurable:
            continue
        assert isinstance(found, Linear) and found.out is not None
        a, b = (picture.chart.to_sheet(p)[0] for p in (found.first, found.second))
        along, out = picture.chart.direction(found.along), picture.chart.direction(found.out)
        # in the slanting directions of the dimension: along it, and out to it
        s, t = np.linalg.solve(np.stack([along, out], axis=1), aim - a)
        end, _ = np.linalg.solve(np.stack([along, out], axis=1), b - a)
        share = float(s) / float(end) if abs(end) > 1e-9 else -1.0
        if k == 0 and 0.1 < share < 0.9:
            return direction
        if 0.0 <= share <= 1.0 and abs(float(t)) > far:
            best, far = direction, abs(float(t))
    return best


def _of_itself(picture: Picture, pick: Pick, caught: Anchor) -> Anchor:
    """What is meant by a middle, a centre, or a side of a circle alone: the edge or circle that it is of."""
    try:
        own = anchor_for(picture, Pick(pick.ref, pick.x, pick.y))
    except Unmeasurable:
        return caught
    return own if caught.at == "middle" or own.at == "round" else caught


def _taken_as(shot: Shot, anchor: Anchor, measured: str) -> Anchor:
    """An arc that a view shows as a straight line, taken as what is measured: its length there, or as what it is."""
    kind, row = shot.part.find(anchor.ref) or ("", 0)
    if kind != "edge" or anchor.at not in ("line", "round") or not shot.part.edges[row].curve.is_circle:
        return anchor
    if measured != "length":
        return anchor.model_copy(update={"at": "round"})
    return anchor.model_copy(update={"at": "line"}) if arc_in_line(shot, anchor.ref) else anchor


def _half_shown(picture: Picture, made: Dimension) -> bool:
    """True where a diameter has one of its ends alone in what is shown: in a half view, and of a bore in a half section."""
    if made.measure != "diameter":
        return False
    found = measure(picture.shot, made)
    if not isinstance(found, Linear):
        return False
    if not picture.chart.plain and picture.chart.shows(found.first).any() != picture.chart.shows(found.second).any():
        return True
    return picture.shot.scene.is_cut and not picture.view.hidden_lines and _opened_to_one_side(picture.shot, made)


def _opened_to_one_side(shot: Shot, made: Dimension) -> bool:
    """True for a bore of which the cut of a view lays one side open, and hides the other."""
    anchor = made.anchors[0]
    rows = faces_beside(shot.part, anchor.ref)
    if not rows or not (shot.part.faces[rows[0]].surface.kind in TURNED and facing_in(shot.part, rows[0])):
        return False
    seat = resolve(shot, anchor)
    if seat.kind == "line":
        sides = [resolve(shot, anchor.model_copy(update={"side": k})).space for k in (1, -1)]
    elif seat.axis is not None and not seat.face_on:
        across = cross(shot.view.toward, seat.axis)
        across = seat.radius * across / np.linalg.norm(across)
        sides = [seat.space + across, seat.space - across]
    else:
        return False
    return opened(shot, sides[0]) != opened(shot, sides[1])


def _alone(picture: Picture, anchor: Anchor, seat: Seat) -> str:
    """What one pick means by itself; nothing for a point or an axis."""
    part = picture.shot.part
    kind, row = part.find(anchor.ref) or ("", 0)
    if anchor.at == "outline":
        # of what goes less than half round it is the side of the part, not a diameter
        if part.faces[row].surface.kind != "cylinder":
            return "length"
        sweep = sweep_of_face(part, row)
        return "diameter" if sweep.beyond_half and reach_across(picture.shot, sweep) > WHOLE else "length"
    if anchor.at == "round" and not _beyond_half(picture.shot, kind, row, seat):
        return "radius"
    return {"line": "length", "round": "diameter"}.get(anchor.at, "")


def _beyond_half(shot: Shot, kind: str, row: int, seat: Seat) -> bool:
    """True where something round is told by its diameter."""
    part = shot.part
    if kind == "edge":
        return sweep_beside(part, row).beyond_half if seat.face_on else rim_across(shot, row)
    if part.faces[row].surface.kind == "sphere":
        return ball_share(part, row) > 0.51
    return part.faces[row].surface.kind != "cylinder" or sweep_of_face(part, row).beyond_half


def _one_round(picture: Picture, anchors: list[Anchor]) -> bool:
    """True where two outlines are the opposite sides of one bore or shaft, be it of one face or of several."""
    if not all(a.at == "outline" for a in anchors) or anchors[0].side == anchors[1].side:
        return False
    part = picture.shot.part
    rows = [(part.find(a.ref) or ("", 0))[1] for a in anchors]
    if any(part.faces[r].surface.kind != "cylinder" for r in rows):
        return rows[0] == rows[1]
    sweep = sweep_of_face(part, rows[0])
    return sweep.beyond_half if rows[0] == rows[1] else rows[1] in sweep.rows


def _on_rims(anchors: list[Anchor], seats: list[Seat], sense: float) -> list[Anchor]:
    """Anchors with those on circles moved to the sides of them that face the other, or face away from it."""
    found = list(anchors)
    middles = [s.points.mean(axis=0) for s in seats]
    for k, (anchor, seat) in enumerate(zip(anchors, seats, strict=True)):
        if seat.kind != "round" and not (anchor.at == "centre" and seat.kind == "point"):
            continue
        other = seats[1 - k]
        way = middles[1 - k] - middles[k]
        if other.kind == "line":
            u = other.points[1] - other.points[0]
            u = u / max(float(np.linalg.norm(u)), 1e-12)
            way = way - (way @ u) * u
        angle = float(np.degrees(np.arctan2(*(-sense * way)[::-1])))
        found[k] = anchor.model_copy(update={"at": "rim", "angle": round(angle, 9)})
    return found


def _leg(seat: Seat, aim: Array, picture: Picture) -> str:
    """Along which of its lengths a chamfer is measured: above or below it level, beside it upright."""
    middle = picture.chart.to_sheet(seat.points).mean(axis=0)
    off = np.abs(aim - middle)
    return "horizontal" if off[1] >= off[0] else "vertical"


def _direction(picture: Picture, seats: list[Seat], aim: Array) -> str:
    """Aligned, horizontal or vertical, by where the pointer stands about two points."""
    points = picture.chart.to_sheet(
        seats[0].points if len(seats) == 1 else np.array([seats[0].points[0], seats[1].points[0]])
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


def placed(stage: Stage, draft: Dimension, pointer: tuple[float, float]) -> Dimension:
    """The dimension with its line put where the pointer is (mm from the view's zero), snapped into rows."""
    picture = stage.view
    aim = np.array(pointer)
    turn = draft
    if draft.measure in ("slope", "taper", "radius", "depth"):
        said = measure(picture.shot, draft)
        if isinstance(said, Pointed):
            gap = aim - picture.chart.to_sheet(said.spot[None])[0]
            angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
            return draft.model_copy(update={"place": Place(angle=angle, offset=round(float(np.linalg.norm(gap)), 2))})
    if draft.measure == "angle":
        probe = measure(picture.shot, draft)
        assert isinstance(probe, Angular)
        gap = aim - picture.chart.to_sheet(probe.apex[None])[0]
        angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
        turn = draft.model_copy(
            update={
                "place": draft.place.model_copy(update={"angle": angle, "offset": max(float(np.linalg.norm(gap)), 5.0)})
            }
        )
        measure(picture.shot, turn)
        return turn
    found = measure(picture.shot, draft)
    if isinstance(found, Linear) and found.out is not None:
        # its extension lines run to where the pointer is
        angle = _pulled_to(picture, found, aim)
        draft = draft.model_copy(update={"place": draft.place.model_copy(update={"angle": angle})})
        found = measure(picture.shot, draft)
    if isinstance(found, ArcLength):
        gap = aim - picture.chart.to_sheet(found.centre[None])[0]
        offset = round(float(np.linalg.norm(gap)) - found.radius * picture.scale, 2)
        return draft.model_copy(update={"place": Place(offset=offset)})
    if isinstance(found, Round):
        gap = aim - picture.chart.to_sheet(found.centre[None])[0]
        angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
        offset = float(np.linalg.norm(gap)) - found.radius * picture.scale
        tilt = picture.chart.turn
        if (
            found.symbol.endswith("R")
            and not _spans(found.span, angle - tilt)
            and _spans(found.span, angle - tilt + 180)
        ):
            # on the hollow side of an arc: the arrow goes through the centre
            angle, offset = (
                angle - 180 if angle > 0 else angle + 180,
                -float(np.linalg.norm(gap)) - found.radius * picture.scale,
            )
        return draft.model_copy(update={"place": Place(angle=angle, offset=round(offset, 2))})
    assert isinstance(found, Linear)
    return draft.model_copy(update={"place": _row(stage, draft, found, aim)})


def _spans(span: tuple[float, float], degrees: float) -> bool:
    """True where an angle lies within a span (radians)."""
    return (float(np.radians(degrees)) - span[0]) % (2 * np.pi) <= span[1] - span[0]


def _row(stage: Stage, draft: Dimension, found: Linear, aim: Array) -> Place:
    picture, style = stage.view, stage.style
    n = normal_of(picture.chart.direction(found.along))
    gap = float(aim @ n)
    side = max((1, -1), key=lambda s: s * gap - picture.reach(s * n))
    offset = side * gap - picture.reach(side * n)
    along = _text_shift(picture, found, aim)
    out = {} if found.out is None else {"angle": _pulled_to(picture, found, aim)}
    if offset < style.overrun:
        inner = (gap - float(picture.chart.to_sheet(found.first[:1])[0] @ n)) / picture.scale
        return Place.model_validate({"frame": "model", "offset": round(inner, 4), "along": along, **out})
    rows = [style.first_row + style.row * k for k in range(40)]
    for other in stage.sheet.annotations:
        if (
            isinstance(other, Dimension)
            and other.on == draft.on
            and other.id != draft.id
            and other.place.frame == "outline"
        ):
            try:
                theirs = measure(picture.shot, other)
            except Unmeasurable:
                continue
            if (
                isinstance(theirs, Linear)
                and abs(float(normal_of(picture.chart.direction(theirs.along)) @ n)) > 0.9999
                and other.place.side == side
            ):
                rows.append(other.place.offset)
    nearest = min(rows, key=lambda r: abs(r - offset))
    if abs(nearest - offset) <= style.catch or offset < style.first_row:
        offset = nearest
    return Place.model_validate({"side": side, "offset": round(offset, 2), "along": along, **out})


def _pulled_to(picture: Picture, found: Linear, aim: Array) -> float:
    """In which direction (degrees) the pointer stands from the middle of what is measured."""
    middle = (picture.chart.to_sheet(found.first)[0] + picture.chart.to_sheet(found.second)[0]) / 2
    gap = aim - middle
    return round(float(np.degrees(np.arctan2(gap[1], gap[0]))) - picture.chart.turn, 2)


def _text_shift(picture: Picture, found: Linear, aim: Array) -> float:
    """Shift of the text along its line, caught at the middle."""
    u = picture.chart.direction(found.along)
    first, second = (picture.chart.to_sheet(p)[0] @ u for p in (found.first, found.second))
    low, high = min(first, second), max(first, second)
    shift = float(aim @ u - (low + high) / 2)
    if abs(shift) < max(6.0, (high - low) * 0.5 + 3.0):
        return 0.0
    return round(shift, 2)


def moved_text(stage: Stage, dimension: Dimension, pointer: tuple[float, float]) -> Place:
    """Place of a dimension whose text alone is dragged along its line, to mm from the view's zero."""
    picture = stage.view
    found = measure(picture.shot, dimension)
    if not isinstance(found, Linear):
        return placed(stage, dimension, pointer).place
    aim = np.array(pointer)
    u = picture.chart.direction(found.along)
    n = normal_of(u)
    level = level_of(stage, dimension, found)
    ends = []
    for options in (found.first, found.second):
        points = picture.chart.to_sheet(options)
        ends.append(float(points[int(np.argmin(np.abs(points @ n - level)))] @ u))
    shift = float(aim @ u) - sum(ends) / 2
    return dimension.place.model_copy(update={"along": 0.0 if abs(shift) < stage.style.overrun else round(shift, 2)})
