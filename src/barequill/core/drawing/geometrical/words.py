"""What a tolerance frame says, in words: in a sentence, and in full for somebody who does not know the signs."""

from __future__ import annotations

from ...standards.geometrical import CHARACTERISTICS, SAYS, ZONES, Feature
from .language import figure_text
from .model import DatumCell, Frame, FrameRow

RELATIONS = {
    "parallel": "parallel to",
    "perpendicular": "square to",
    "angle": "at its angle to",
    "symmetrical": "through",
    "run-out": "round",
}
SHAPES = {
    "roundness": "two circles about one centre, {v} apart",
    "cylindricity": "two cylinders about one axis, {v} apart",
    "profile of a line": "two lines, {v} apart, half of it on each side of the true profile",
    "profile of a surface": "two surfaces, {v} apart, half of it on each side of the true shape",
    "circular run-out": "{v} of play of an indicator at any one place, in one turn about {d}",
    "total run-out": "{v} of play of an indicator that goes over all of it, in turns about {d}",
}
HELD = {
    "parallelism": "parallel to {d}",
    "perpendicularity": "square to {d}",
    "angularity": "at the boxed angle to {d}",
    "position": "where the boxed sizes put it from {d}",
    "coaxiality": "about the axis of {d}",
    "symmetry": "about the middle plane of {d}",
}


def sentence(frame: Frame) -> str:
    """What a frame says, in one sentence that names all of it."""
    rows = []
    for row in frame.rows:
        said = f"{row.characteristic} within {_zone(row)}"
        said += "".join(f", {_modified(row, m)}" for m in row.modifiers)
        if row.datums:
            said += ", to " + ", then to ".join(_datum(c) for c in row.datums)
        rows.append(said)
    found = "; ".join(rows)
    if frame.count > 1:
        found += f"; for {frame.count} features"
    for plane in frame.planes:
        found += f"; in the {plane.kind} plane {RELATIONS[plane.relation]} {_datum(plane.datum)}"
    if frame.around:
        found += f"; all {frame.around}"
    if frame.between:
        found += f"; between {frame.between[0]} and {frame.between[1]}"
    for where in ("above", "below"):
        if getattr(frame, where):
            found += f"; {where} it “{getattr(frame, where)}”"
    return found[0].upper() + found[1:]


def _zone(row: FrameRow) -> str:
    found = f"{ZONES[row.zone]}{figure_text(row.value)}"
    if row.per:
        area = " × ".join(figure_text(p) for p in row.per)
        found += f" over any {'Ø' if row.per_round else ''}{area}"
    return found


def _modified(row: FrameRow, modifier: str) -> str:
    said = SAYS[modifier]
    if modifier == "P" and row.projected is not None:
        said += f", {figure_text(row.projected)} long"
    if modifier == "UZ" and row.offset is not None:
        said += f" by {figure_text(abs(row.offset))} {'out of' if row.offset > 0 else 'into'} the material"
    if modifier == "U" and row.offset is not None:
        said += f", {figure_text(row.offset)} of it outside the material"
    return said


def _datum(cell: DatumCell) -> str:
    name = f"datum {cell.name}" if len(cell.letters) == 1 else f"the common datum {cell.name}"
    return name + "".join(f" {SAYS[m]}" for m in cell.modifiers)


def explained(frame: Frame, feature: Feature | None = None) -> str:
    """What a frame asks of the part, in full, for somebody who does not know the signs."""
    return " ".join(_explained(row, frame, feature) for row in frame.rows)


def _explained(row: FrameRow, frame: Frame, feature: Feature | None) -> str:
    v, rule = f"{figure_text(row.value)} mm", CHARACTERISTICS[row.characteristic]
    what = feature or ("axis" if row.zone == "diameter" else "centre" if row.zone == "sphere" else "surface")
    subject = f"The {what} of each of the {frame.count} features" if frame.count > 1 else f"The {what}"
    if what == "surface" and row.characteristic in ("straightness", "profile of a line") and row.zone == "width":
        subject = f"Every line of {subject[0].lower()}{subject[1:]}"
    if what == "surface" and row.characteristic in ("roundness", "circular run-out"):
        subject = f"Every cross-section of {subject[0].lower()}{subject[1:]}"
    datums = ", then ".join(_datum(c) for c in row.datums)
    shape = SHAPES.get(row.characteristic)
    if rule.group == "run-out":
        found = f"{subject} may show at most {(shape or '').format(v=v, d=datums)}"
    else:
        zones = {
            "width": f"two {'parallel lines' if row.characteristic == 'straightness' else 'parallel planes'}, {v} apart",
            "diameter": f"a cylinder {v} across",
            "sphere": f"a sphere {v} across",
        }
        within = shape.format(v=v, d=datums) if shape else zones[row.zone]
        found = f"{subject} must lie within {within}"
        held = HELD.get(row.characteristic)
        if held and datums:
            found += f", held {held.format(d=datums)}"
        elif held:
            found += ", the features held to each other by the boxed sizes"
        elif datums:
            found += f", held to {datums}"
    if row.per:
        found += f", over any {' × '.join(figure_text(p) for p in row.per)} mm of it"
    if "M" in row.modifiers:
        found += "; the zone grows by as much as the feature's size is away from its most material"
    if "L" in row.modifiers:
        found += "; the zone grows by as much as the feature's size is away from its least material"
    others = [_modified(row, m) for m in row.modifiers if m not in "ML"]
    if others:
        found += "; " + ", ".join(others)
    return found + "."
