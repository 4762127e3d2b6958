"""What a tolerance frame may not say (ISO 1101, ISO 2692, ISO 5459), each with its reason."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ...errors import BadOperation
from ...standards.geometrical import CHARACTERISTICS, NO_DATUM, RANKS, ZONES, Feature
from .language import figure_text
from .model import DatumCell, Frame, FrameRow

Refusal = tuple[str, str]
ASSOCIATED = {"G", "N", "C", "X", "T"}


def check(
    frame: Frame,
    feature: Feature | None = None,
    datums: Collection[str] | None = None,
    sized: Collection[str] | None = None,
) -> None:
    """Refuse nonsense.

    Parameters
    ----------
    feature : what the frame is about, where that is known
    datums : the letters that the drawing has, where that is known
    sized : those of them that are features of size

    Raises
    ------
    UserError
        The first thing that is wrong, and what to write in its place.
    """
    for title, detail in refusals(frame, feature, datums, sized):
        raise BadOperation(title, detail)


def refusals(
    frame: Frame,
    feature: Feature | None = None,
    datums: Collection[str] | None = None,
    sized: Collection[str] | None = None,
) -> Iterator[Refusal]:
    """All that is wrong with a frame."""
    for row in frame.rows:
        yield from _datums(row)
        yield from _feature(row, feature)
        yield from _zone(row, feature)
        yield from _modifiers(row)
        yield from _material(row, feature, sized)
        yield from _per(row)
    yield from _rows(frame)
    if frame.around and feature not in (None, "surface"):
        yield f"An axis has no outline to go {frame.around}", "Point at the surface, clear of the dimension line."
    if frame.between and frame.around:
        yield "Between two points, or all around", "Say one of both."
    if frame.between and frame.between[0] == frame.between[1]:
        yield "Between one point and itself", "Name two points."
    for plane in frame.planes:
        if plane.kind == "intersection" and not any(_lines(r) for r in frame.rows):
            yield (
                "Nothing lies in an intersection plane",
                "It tells in which plane lines of a surface lie: of straightness, the profile of a line, or an orientation.",
            )
    if datums is not None:
        for letter in frame.datums:
            if letter not in datums:
                yield (
                    f"There is no datum {letter} on the drawing",
                    f"Set the datum feature {letter} first, or take another letter.",
                )


def _lines(row: FrameRow) -> bool:
    rule = CHARACTERISTICS[row.characteristic]
    return row.characteristic in ("straightness", "profile of a line", "roundness") or rule.group == "orientation"


def _datums(row: FrameRow) -> Iterator[Refusal]:
    rule, name = CHARACTERISTICS[row.characteristic], row.characteristic
    n = len(row.datums)
    if rule.most == 0 and n:
        yield f"{name.capitalize()} has no datum", f"It is form by itself: leave out {_names(row.datums)}."
    if n > 3:
        yield "Too many datums", "A frame has at most three cells of datums."
    alone = name == "position" and not {"CZ"} & set(row.modifiers)
    if n < rule.least or (alone and not n):
        more = ", or CZ where only the members of a pattern are held to each other" if name == "position" else ""
        yield f"{name.capitalize()} needs a datum", f"Say to what: {name} {figure_text(row.value)} A{more}."
    seen: list[str] = []
    for cell in row.datums:
        for letter in cell.letters:
            if set(letter) & NO_DATUM:
                yield (
                    f"{letter} is no letter of a datum",
                    "I, O, Q and X are left out: they are taken for figures or signs.",
                )
            if letter in seen:
                yield f"Datum {letter} stands twice", "Each stands in a frame once."
            seen.append(letter)
        if len(set(cell.modifiers)) != len(cell.modifiers):
            yield f"Datum {cell.name} has a modifier twice", "Write it once."
        if {"M", "L"} <= set(cell.modifiers):
            yield f"Datum {cell.name} at maximum and at least material", "Say one of both."
        if rule.group == "run-out" and {"M", "L"} & set(cell.modifiers):
            yield "Run-out is taken whatever the size of its datum", f"Leave out the modifier of {cell.name}."
        if rule.group in ("form", "run-out") and "><" in cell.modifiers:
            yield f"{name.capitalize()} has no datum for direction only", "Leave out ><."
        if rule.group == "orientation" and "><" in cell.modifiers:
            yield "An orientation is direction only", "Leave out ><: it says so already."


def _names(cells: list[DatumCell]) -> str:
    return " and ".join(c.name for c in cells)


def _feature(row: FrameRow, feature: Feature | None) -> Iterator[Refusal]:
    rule, name = CHARACTERISTICS[row.characteristic], row.characteristic
    if feature is not None and feature != "surface":
        if name in ("roundness", "cylindricity"):
            yield f"An axis has no {name}", "It is about the surface: put the leader clear of the dimension line."
        if rule.group == "run-out":
            yield f"{name.capitalize()} is of a surface", "Put the leader on the surface, clear of the dimension line."
    if name in ("coaxiality", "symmetry") and feature == "surface":
        what = "axis" if name == "coaxiality" else "middle plane"
        yield f"A surface has no {name}", f"It is about the {what}: put the frame in line with the dimension line."
    if name == "symmetry" and feature == "centre":
        yield "A centre has no symmetry", "Take coaxiality with SØ, or position."
    if name == "flatness" and feature in ("axis", "centre"):
        yield "An axis has no flatness", "Take straightness."


def _zone(row: FrameRow, feature: Feature | None) -> Iterator[Refusal]:
    rule, name = CHARACTERISTICS[row.characteristic], row.characteristic
    sign = ZONES[row.zone] or "without Ø"
    if row.zone not in rule.zones:
        if row.zone == "width":
            yield f"The zone of {name} is round", f"Write Ø{figure_text(row.value)}."
        elif rule.zones == ("width",):
            yield (
                f"{name.capitalize()} has no zone {sign}",
                f"Its zone has a width: write {figure_text(row.value)} alone.",
            )
        else:
            yield (
                f"{name.capitalize()} has no zone {sign}",
                f"Write Ø{figure_text(row.value)} or {figure_text(row.value)}.",
            )
    elif row.zone == "diameter" and feature in ("surface", "middle plane"):
        what = "surface" if feature == "surface" else "middle plane"
        yield (
            f"A {what} has no zone with Ø",
            "Only an axis lies in a cylinder: put the frame in line with its dimension line.",
        )
    elif row.zone == "sphere" and feature in ("surface", "axis", "middle plane"):
        yield "Only a centre lies in a sphere", "Put the frame on a sphere, or write Ø."
    if row.value == 0 and not {"M", "L"} & set(row.modifiers):
        yield "A zone of nothing", "Zero stands only with Ⓜ or Ⓛ, where the size leaves something."


def _modifiers(row: FrameRow) -> Iterator[Refusal]:
    rule, name, own = CHARACTERISTICS[row.characteristic], row.characteristic, set(row.modifiers)
    if len(own) != len(row.modifiers):
        yield "A modifier stands twice", "Write it once."
    for one, other in (("M", "L"), ("CZ", "SZ"), ("U", "UZ")):
        if {one, other} <= own:
            yield f"{one} and {other} exclude each other", "Say one of both."
    if "R" in own and not own & {"M", "L"}:
        yield "Reciprocity goes with Ⓜ or Ⓛ only", "Write ⓂⓇ, or leave it out."
    if "P" in own:
        if rule.group not in ("orientation", "location"):
            yield f"{name.capitalize()} has no projected zone", "Only orientation and location reach out of the part."
        elif row.projected is None:
            yield "Ⓟ says how far it reaches", "Write its length behind it: (P) 20."
    if own & {"U", "UZ"}:
        if rule.group != "profile":
            yield "Only a profile has an unequal zone", "Leave out Ⓤ or UZ."
        elif row.offset is None:
            yield "An unequal zone says by how much", "Write its offset: UZ +0.05."
        elif "U" in own and not 0 <= row.offset <= row.value:
            yield "Ⓤ says how much of the zone lies outside", f"Write between 0 and {figure_text(row.value)}."
    if "OZ" in own and rule.group != "profile":
        yield "Only a profile has a zone that moves off", "Leave out OZ."
    if "VA" in own and name not in ("profile of a line", "profile of a surface", "angularity"):
        yield "Only a profile or an angularity has a free angle", "Leave out VA."
    if "E" in own and rule.group != "form":
        yield "The envelope is of form", "Leave out Ⓔ, or state it at the size."
    if "T" in own and rule.group not in ("orientation", "location"):
        yield "A tangent feature is oriented or located", "Leave out Ⓣ."
    if len(own & ASSOCIATED) > 1:
        yield "Two ways of taking the feature", "Say one of G, N, C, X and T."


def _material(row: FrameRow, feature: Feature | None, sized: Collection[str] | None) -> Iterator[Refusal]:
    rule, name = CHARACTERISTICS[row.characteristic], row.characteristic
    own = [m for m in ("M", "L") if m in row.modifiers]
    sign = {"M": "Ⓜ", "L": "Ⓛ"}
    if own and not rule.material:
        yield f"{name.capitalize()} is held whatever the size", f"Leave out {sign[own[0]]}."
    elif own and feature == "surface":
        yield (
            f"{sign[own[0]]} on a feature without size",
            "A single surface has no material limit: put the frame on a size, or leave the modifier out.",
        )
    if sized is not None:
        for cell in row.datums:
            for m in ("M", "L"):
                if m in cell.modifiers and not set(cell.letters) <= set(sized):
                    yield (
                        f"{sign[m]} on datum {cell.name}, which has no size",
                        "Leave it out: that datum is a single surface.",
                    )


def _per(row: FrameRow) -> Iterator[Refusal]:
    rule, name = CHARACTERISTICS[row.characteristic], row.characteristic
    if not row.per:
        return
    sides = 2 if row.per_round else len(row.per)
    if not rule.per:
        yield f"{name.capitalize()} is not limited along a length", f"Leave out /{figure_text(row.per[0])}."
    elif sides not in rule.per:
        yield f"{name.capitalize()} is of lines, not of an area", f"Write one length: /{figure_text(row.per[0])}."
    if row.zone == "diameter" and sides == 2:
        yield "An axis has no area", "Write one length."


def _rows(frame: Frame) -> Iterator[Refusal]:
    for one, other in zip(frame.rows, frame.rows[1:], strict=False):
        if one.characteristic == other.characteristic and other.value >= one.value:
            yield (
                "A lower row is finer",
                f"{figure_text(other.value)} says no more than {figure_text(one.value)} above it.",
            )
    seen: set[str] = set()
    for row in frame.rows:
        key = row.model_dump_json(exclude={"value"})
        if key in seen:
            yield f"{row.characteristic.capitalize()} is said twice", "Leave one of both rows out."
        seen.add(key)


def remarks(frame: Frame) -> list[str]:
    """What is allowed and hardly meant: a form that is coarser than the orientation or the location of the same feature."""
    found = []
    for one in frame.rows:
        for other in frame.rows:
            a, b = (RANKS[CHARACTERISTICS[r.characteristic].group] for r in (one, other))
            if a < b and one.value >= other.value and not one.per and other.value > 0:
                found.append(
                    f"{one.characteristic} {figure_text(one.value)} is not finer than {other.characteristic} "
                    f"{figure_text(other.value)}, which holds it already"
                )
    return found
