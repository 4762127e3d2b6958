"""Two states of a drawing compared: what is gone, has come, was moved or says something else, as a picture of each sheet and in words.

In the picture what stayed is drawn in narrow lines, what has come in wide ones, with its lettering underlined, what is gone in long-dashed
double-dotted ones, with its lettering struck through; what was moved is drawn where it is now, with an arrow from where it was. So it can
be told apart in black on paper."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import DisplayList, Element, Hatch, Mark, Region, Stroke, Text, Tint, box_of
from ..drawing import AnyAnnotation, Drawing, Sheet
from ..drawing.annotations.notes_block import NotesBlock
from ..geometry import curves2
from ..standards.lines import PENS
from ..standards.scales import scale_text
from ..standards.sheets import Rectangle, size_words
from .mark_differences import SAME, differences

Array = NDArray[np.float64]
Of = Literal["setting", "view", "annotation"]
Kind = Literal["gone", "come", "moved", "changed"]
SHIFTED = 0.05
"""mm by which something was moved that counts as moved."""
ARROW = 3.0
NARROW = {pen: pen for pen in PENS} | {"visible": "tangent", "cutting-end": "cutting", "treated": "cutting"}
"""The narrow line that stands for a pen where nothing changed."""
MOST = 4
"""Texts that are told of one table or block."""


@dataclass(frozen=True)
class Change:
    """What is otherwise, in words; on which sheet (its id), and where (mm), if it is on one; ``of`` what it is: of a size or sign that is
    where its lettering is."""

    kind: Kind
    words: str
    sheet: str = ""
    box: Rectangle | None = None
    of: Of = "setting"


@dataclass(frozen=True)
class State:
    """A drawing with the display lists of its sheets, by their ids."""

    drawing: Drawing
    inks: Mapping[str, DisplayList]


def compared(before: State, after: State) -> tuple[list[Change], dict[str, DisplayList]]:
    """All changes, and the picture of each sheet by its id: those that are there after it, in their order, then those that are gone."""
    changes = list(_settings(before.drawing, after.drawing))
    pictures: dict[str, DisplayList] = {}
    numbers = {s.id: k for k, s in enumerate(before.drawing.sheets, 1)}
    for k, sheet in enumerate(after.drawing.sheets, 1):
        was = before.drawing.sheet(sheet.id)
        if was is None:
            changes.append(Change("come", f"Sheet {k}{_named(sheet)} is new", sheet.id))
        elif numbers[sheet.id] != k:
            changes.append(Change("moved", f"Sheet {numbers[sheet.id]} is sheet {k} now", sheet.id))
        found, pictures[sheet.id] = _of_sheet(before, after, was, sheet)
        changes += found
    for sheet in before.drawing.sheets:
        if sheet.id not in pictures:
            changes.append(Change("gone", f"Sheet {numbers[sheet.id]}{_named(sheet)} is gone", sheet.id))
            _, pictures[sheet.id] = _of_sheet(before, after, sheet, None)
    # what is said of each sheet alike, such as an owner, is said once
    once = {
        (c.kind, c.words, c.sheet if c.box is not None and c.kind != "changed" else ""): c for c in reversed(changes)
    }
    kept = {id(c) for c in once.values()}
    # what only stands elsewhere comes last
    told = sorted((c for c in changes if id(c) in kept), key=lambda c: c.kind == "moved")
    return told, pictures


def _named(sheet: Sheet) -> str:
    return f", {sheet.name}," if sheet.name else ""


def _settings(before: Drawing, after: Drawing) -> Iterator[Change]:
    for name, said in (("standard", "Conventions"), ("angle", "Projection"), ("unit", "Units"), ("font", "Lettering")):
        was, now = getattr(before, name), getattr(after, name)
        if was != now:
            yield Change("changed", f"{said}: {was} → {now}")
    parts = {p.key: p for p in before.parts}
    for use in after.parts:
        if use.key not in parts and before.parts:
            yield Change("changed", f"Part: another file of {use.name or use.number or 'it'}")


def _of_sheet(before: State, after: State, was: Sheet | None, now: Sheet | None) -> tuple[list[Change], DisplayList]:
    own = now or was
    assert own is not None
    old = before.inks[own.id] if was is not None else None
    new = after.inks[own.id] if now is not None else None
    ink = new or old
    assert ink is not None
    picture = DisplayList(
        width=max(i.width for i in (old, new) if i is not None),
        height=max(i.height for i in (old, new) if i is not None),
        lines=ink.lines,
        names={"gone": "gone", "come": "come", "kept": "kept", "moved": "moved"},
        title=f"{ink.title}, compared",
    )
    layers: dict[str, list[Mark]] = {"kept": [], "gone": [], "come": [], "moved": []}
    changes: list[Change] = []
    if was is not None and now is not None:
        changes += _sheet_settings(was, now)
    olds = {e.id: e for e in old.elements} if old is not None else {}
    news = {e.id: e for e in new.elements} if new is not None else {}
    if was is not None and now is not None and old is not None and new is not None:
        changes += _fields(old, new, own.id)
    told = _Told(before=before.drawing, after=after.drawing, was=was, now=now, old=old, new=new)
    for name in [*news, *(n for n in olds if n not in news)]:
        a, b = olds.get(name), news.get(name)
        split = _split(a, b)
        for layer in ("kept", "gone", "come"):
            layers[layer] += split[layer]
        layers["moved"] += split["moved"]
        if was is not None and now is not None:
            changes += told.of(a, b, split, own.id)
    picture.elements = [
        Element(id=layer, kind="kept", group=layer, words=layer, key=layer, at=(0.0, 0.0), marks=tuple(drawn))
        for layer, drawn in (
            ("kept", [m for mark in layers["kept"] for m in _kept(mark)]),
            ("gone", [m for mark in _apart(layers["gone"], layers["come"]) for m in _gone(mark)]),
            ("come", [m for mark in layers["come"] for m in _come(mark)]),
            ("moved", layers["moved"]),
        )
    ]
    return changes, picture


def _sheet_settings(was: Sheet, now: Sheet) -> Iterator[Change]:
    if was.size != now.size or was.landscape != now.landscape:
        lies = ["upright", "lying"]
        a, b = (f"{size_words(s.size)} {lies[s.landscape]}" for s in (was, now))
        yield Change("changed", f"Sheet: {a} → {b}", now.id)
    if was.name != now.name:
        yield Change("changed", f"Name of the sheet: {was.name or 'none'} → {now.name or 'none'}", now.id)
    if was.template != now.template:
        yield Change("changed", f"Title block: {was.template or 'ISO 7200'} → {now.template or 'ISO 7200'}", now.id)


def _fields(old: DisplayList, new: DisplayList, sheet: str) -> Iterator[Change]:
    values = {f.cell: f.value for f in old.fields}
    for f in new.fields:
        was = values.get(f.cell)
        if was is not None and was != f.value:
            box = Rectangle(f.x0, f.y0, f.x1, f.y1)
            yield Change(
                "changed", f"{f.label.rstrip('.') or 'Text'}: {was or 'empty'} → {f.value or 'empty'}", sheet, box
            )


class _Told:
    """What became of elements, in words."""

    def __init__(
        self,
        before: Drawing,
        after: Drawing,
        was: Sheet | None,
        now: Sheet | None,
        old: DisplayList | None,
        new: DisplayList | None,
    ) -> None:
        self.before, self.after = before, after
        self.names = {**(old.names if old is not None else {}), **(new.names if new is not None else {})}
        self.scales = [{v.id: s.scale_of(v) for v in s.views} if s is not None else {} for s in (was, now)]
        self.views = {v for s in (was, now) if s is not None for v in (view.id for view in s.views)}
        at = [{e.id: e.at for e in ink.elements if e.kind == "view"} if ink is not None else {} for ink in (old, new)]
        self.shifts = {v: (at[1][v][0] - at[0][v][0], at[1][v][1] - at[0][v][1]) for v in at[0] if v in at[1]}
        self.annotations: list[dict[str, AnyAnnotation]] = [
            {a.id: a for a in s.annotations} if s is not None else {} for s in (was, now)
        ]
        self.elsewhere = [
            {e.id: k for k, s in enumerate(d.sheets, 1) for e in (*s.views, *s.annotations)} for d in (before, after)
        ]

    def of(self, a: Element | None, b: Element | None, split: dict[str, list[Mark]], sheet: str) -> Iterator[Change]:
        """The changes of one element, as it was and is."""
        own = b or a
        assert own is not None
        if own.kind == "view":
            yield from (replace(c, of="view") for c in self._view(a, b, split, sheet))
        elif own.id in self.annotations[0] or own.id in self.annotations[1]:
            # marks of revisions are not marked themselves
            of: Of = "setting" if own.kind == "revision_mark" else "annotation"
            yield from (replace(c, of=of) for c in self._annotation(a, b, split, sheet))

    def _view(self, a: Element | None, b: Element | None, split: dict[str, list[Mark]], sheet: str) -> Iterator[Change]:
        own = b or a
        assert own is not None
        name, box = _capital(self.names.get(own.id, "view")), box_of(own.on_sheet())
        if a is None or b is None:
            k = 1 if b is None else 0
            other = self.elsewhere[k].get(own.id)
            if other is None:
                yield Change("gone" if b is None else "come", f"{name} is {'gone' if b is None else 'new'}", sheet, box)
            elif b is not None:
                yield Change("moved", f"{name} was moved here from sheet {other}", sheet, box)
            return
        scales = self.scales[0].get(own.id), self.scales[1].get(own.id)
        if scales[0] != scales[1] and None not in scales:
            yield Change("changed", f"{name}: {scale_text(scales[0] or 1)} → {scale_text(scales[1] or 1)}", sheet, box)
        else:
            lines = [sum(isinstance(m, Stroke) for m in split[k]) for k in ("come", "gone")]
            said = " and ".join(f"{_counted(n, 'line')} {w}" for n, w in zip(lines, ("new", "gone"), strict=True) if n)
            if said:
                drawn = box_of([*split["come"], *split["gone"]])
                yield Change("changed", f"{name}: {said}", sheet, drawn)
        dx, dy = self.shifts.get(own.id, (0.0, 0.0))
        if max(abs(dx), abs(dy)) > SHIFTED:
            yield Change("moved", f"{name} was moved {_way(dx, dy)}", sheet, box)

    def _annotation(
        self, a: Element | None, b: Element | None, split: dict[str, list[Mark]], sheet: str
    ) -> Iterator[Change]:
        own = b or a
        assert own is not None
        annotation = self.annotations[1].get(own.id) or self.annotations[0][own.id]
        noun = annotation.noun
        where = (
            f" on the {_small(self.names[own.group])}" if own.group in self.views and own.group in self.names else ""
        )
        drawn = own.on_sheet()
        box = box_of([m for m in drawn if isinstance(m, Text)] or drawn)
        if isinstance(annotation, NotesBlock) and a is not None and b is not None:
            yield from self._notes(own.id, sheet, box)
        if a is None or b is None:
            if self.elsewhere[1 if b is None else 0].get(own.id) is None:
                words = _capital(own.words if own.words.lower().startswith(noun) else f"{noun} {own.words}")
                yield Change(
                    "gone" if b is None else "come",
                    f"{words}{where} {'is gone' if b is None else 'is new'}",
                    sheet,
                    box,
                )
            return
        shift = self.shifts.get(own.group, (0.0, 0.0))
        moved = max(abs(b.at[k] - a.at[k] - shift[k]) for k in (0, 1)) > SHIFTED
        if a.words != b.words:
            yield Change("changed", f"{a.words} → {b.words}{where}", sheet, box)
            return
        texts = [Counter(m.text for m in e.marks if isinstance(m, Text)) for e in (a, b)]
        if texts[0] != texts[1] and not isinstance(annotation, NotesBlock):
            gone, come = list((texts[0] - texts[1]).elements()), list((texts[1] - texts[0]).elements())
            said = ", ".join(f"{x} → {y}" for x, y in zip(gone[:MOST], come[:MOST], strict=False))
            said = said or ", ".join([*(f"{t} new" for t in come[:MOST]), *(f"{t} gone" for t in gone[:MOST])])
            yield Change("changed", f"{_capital(own.words)}{where}: {said}", sheet, box)
        elif self.scales[0].get(own.group) == self.scales[1].get(own.group) and (
            moved or split["come"] or split["gone"]
        ):
            same = len(a.marks) == len(b.marks)
            yield Change(
                "moved" if same else "changed",
                f"{_capital(own.words)}{where} {'stands elsewhere' if same else 'is drawn otherwise'}",
                sheet,
                box,
            )

    def _notes(self, own: str, sheet: str, box: Rectangle | None) -> Iterator[Change]:
        blocks = [self.annotations[k].get(own) for k in (0, 1)]
        was, now = (
            {n.id: (k, n.text) for k, n in enumerate(b.notes, 1)} if isinstance(b, NotesBlock) else {} for b in blocks
        )
        for line, (number, text) in now.items():
            if line not in was:
                yield Change("come", f"Note {number} is new: {text}"[:200], sheet, box)
            elif was[line][1] != text:
                yield Change("changed", f"Note {number}: {was[line][1]} → {text}"[:300], sheet, box)
            elif was[line][0] != number:
                yield Change("moved", f"Note {was[line][0]} is note {number} now", sheet, box)
        for line, (number, text) in was.items():
            if line not in now:
                yield Change("gone", f"Note {number} is gone: {text}"[:200], sheet, box)


def _way(dx: float, dy: float) -> str:
    pieces = [f"{abs(dx):.4g} mm {'right' if dx > 0 else 'left'}" if abs(dx) > SHIFTED else "",
              f"{abs(dy):.4g} mm {'up' if dy > 0 else 'down'}" if abs(dy) > SHIFTED else ""]  # fmt: skip
    return ", ".join(p for p in pieces if p)


def _small(words: str) -> str:
    return words[:1].lower() + words[1:]


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _counted(n: int, noun: str) -> str:
    return f"{n} {noun}{'' if n == 1 else 's'}"


# ---- marks


def _split(a: Element | None, b: Element | None) -> dict[str, list[Mark]]:
    """The marks of an element on the sheet: those that are in both, gone and come; with an arrow where it was only moved."""
    if a is None or b is None:
        there = list((b or a).on_sheet()) if (b or a) is not None else []  # type: ignore[union-attr]
        return {"kept": [], "moved": [], "gone": there if b is None else [], "come": there if b is not None else []}
    if a.key == b.key and max(abs(a.at[0] - b.at[0]), abs(a.at[1] - b.at[1])) <= SHIFTED:
        return {"kept": list(b.on_sheet()), "moved": [], "gone": [], "come": []}
    kept, gone, come = differences(a.marks, b.marks)
    found = {
        "kept": [m.moved(b.at) for m in kept],
        "gone": [m.moved(a.at) for m in gone],
        "come": [m.moved(b.at) for m in come],
        "moved": [],
    }
    if max(abs(a.at[0] - b.at[0]), abs(a.at[1] - b.at[1])) > SHIFTED and b.kind == "view":
        found["moved"] = _arrow(a, b)
    return found


def _arrow(a: Element, b: Element) -> list[Mark]:
    """An arrow from the middle of where an element was to where it is."""
    boxes = [box_of(e.on_sheet()) for e in (a, b)]
    if boxes[0] is None or boxes[1] is None:
        return []
    start, end = (np.array([(r.x0 + r.x1) / 2, (r.y0 + r.y1) / 2]) for r in boxes if r is not None)
    length = float(np.linalg.norm(end - start))
    if length < SHIFTED:
        return []
    way = (end - start) / length
    side = np.array([-way[1], way[0]])
    size = min(ARROW, 0.6 * length)
    head = Region((np.array([end, end - size * way + size / 6 * side, end - size * way - size / 6 * side]),))
    return [Stroke(curves2.line(start, end - 0.9 * size * way), "dimension"), head]


# ---- how they are drawn


def _kept(mark: Mark) -> Iterator[Mark]:
    yield replace(mark, pen=NARROW[mark.pen], source="") if isinstance(mark, Stroke) else mark


def _come(mark: Mark) -> Iterator[Mark]:
    """What has come: wide continuous lines, lettering underlined."""
    if isinstance(mark, Stroke):
        yield replace(mark, pen="visible", source="")
    elif isinstance(mark, Text):
        yield mark
        corners = mark.corners()
        yield Stroke(curves2.line(corners[0], corners[1]), "visible")
    elif isinstance(mark, Hatch):
        yield mark
        yield from _outlines(mark.rings, "visible")
    elif not isinstance(mark, Tint):
        yield mark


def _gone(mark: Mark) -> Iterator[Mark]:
    """What is gone: long-dashed double-dotted narrow lines, lettering struck through; areas by their outlines."""
    if isinstance(mark, Stroke):
        yield replace(mark, pen="adjacent", source="")
    elif isinstance(mark, Text):
        yield mark
        corners = mark.corners()
        low, high = (corners[0] + corners[3]) / 2, (corners[1] + corners[2]) / 2
        yield Stroke(curves2.line(low, high), "dimension")
    elif isinstance(mark, Region | Hatch):
        yield from _outlines(mark.rings, "adjacent")


def _apart(gone: Iterable[Mark], come: Iterable[Mark]) -> Iterator[Mark]:
    """What is gone, with lettering beside that which has come in its place, so that both can be read."""
    taken = [_polygon(m) for m in come if isinstance(m, Text)]
    for mark in gone:
        if isinstance(mark, Text):
            a = np.radians(mark.angle)
            up = np.array([-np.sin(a), np.cos(a)]) * 1.35 * mark.height
            places = [mark.moved((float(k * up[0]), float(k * up[1]))) for k in (0, 1, -1, 2, -2, 3)]
            mark = next((t for t in places if not any(_polygon(t).intersects(b) for b in taken)), mark)
            taken.append(_polygon(mark))
        yield mark


def _polygon(text: Text) -> shapely.Polygon:
    return shapely.Polygon(text.corners()).buffer(-0.1)


def _outlines(rings: Iterable[Array], pen: str) -> Iterator[Mark]:
    for ring in rings:
        for p, q in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            if np.linalg.norm(q - p) > SAME:
                yield Stroke(curves2.line(p, q), pen)
