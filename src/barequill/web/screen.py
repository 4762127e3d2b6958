"""Sheets for the screen: elements with their ink, and of each view what can be pointed at; what the screen has already
is not sent again."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Literal, TypeVar, cast
from uuid import uuid4

import shapely

from ..core.arranging.checking import checked
from ..core.arranging.clashes import hull_shape
from ..core.display import DisplayList, Element
from ..core.drawing import Drawing, Sheet
from ..core.drawing.views import View, way_of
from ..core.measuring.pointing import lines_of, snaps_of
from ..core.part.chosen import body_names
from ..core.recent import Recent
from ..core.sheet.cuts import hatch_look
from ..core.sheet.elements import view_name, view_words
from ..core.standards.scales import scale_text
from ..core.standards.sheets import Rectangle
from ..core.views.occupancy import occupancy
from ..core.views.placed_view import PlacedView
from ..core.views.tones import colours_of
from ..core.writers.screen import ScreenElement, screen_element
from . import schemas as s
from .handles import axes_of, breaks_on, local_cuts_on, outline_of, section_of

Made = TypeVar("Made")
TOKENS = 16
"""How many of the sheets last sent are remembered by what was in them."""
HELD = 40_000
"""Marks, and points and lines to point at, that are held as the screen takes them."""


@dataclass(frozen=True)
class Sent:
    """What a screen was sent: the keys of all ink, and each element as it stood."""

    keys: frozenset[str]
    elements: dict[str, Element]


Pointing = Literal["all", "later", "none"]
MANY = 800
"""Lines of a sheet's views from which on what can be pointed at in them may come later."""


class Screens:
    """What was sent to screens, and elements as they take them."""

    def __init__(self) -> None:
        self._sent: Recent[str, Sent] = Recent(TOKENS)
        self._made: Recent[str, object] = Recent(HELD, _size)
        # a screen may hold tokens from before this process began
        self._name = uuid4().hex[:16]

    def _kept(self, key: str, make: Callable[[], Made]) -> Made:
        return cast(Made, self._made.made(key, make))

    def element(self, ink: DisplayList, element: Element, bare: bool = False) -> ScreenElement:
        """An element as the screen takes it, ``bare`` without its ink."""
        found = self._kept(element.key, lambda: screen_element(ink, element)) if not bare else None
        if found is None:
            return screen_element(ink, element, bare=True)
        x, y = round(element.at[0], 4), round(ink.height - element.at[1], 4)
        return found if (found.x, found.y) == (x, y) else found.model_copy(update={"x": x, "y": y})

    def sheet(
        self,
        drawing: Drawing,
        sheet: Sheet,
        ink: DisplayList,
        placed_views: dict[str, PlacedView],
        pending: Collection[str],
        since: str,
        pointing: Pointing,
    ) -> s.SheetInk:
        """A sheet's ink, without that which was sent with the token ``since``; what can be pointed at where there are many
        lines may be left for ``later``."""
        have = self._sent.get(since) or Sent(frozenset(), {})
        if pointing == "later" and sum(len(p.projected.curves) for p in placed_views.values()) <= MANY:
            pointing = "all"
        views = [
            self._view(
                drawing=drawing,
                sheet=sheet,
                ink=ink,
                placed_view=p,
                pending=p.view.id in pending,
                have=have.keys,
                pointing=pointing,
                section=section_of(drawing, ink, p.view, placed_views),
                outline=outline_of(drawing, ink, p, placed_views),
            )
            for p in placed_views.values()
        ]
        now = Sent(
            frozenset([*(e.key for e in ink.elements), *(v.key for v in views if v.pointed or v.key in have.keys)]),
            {e.id: e for e in ink.elements},
        )
        told = hash((tuple((e.id, e.key, e.at) for e in ink.elements), now.keys))
        token = f"{self._name}{told & (1 << 64) - 1:016x}"
        self._sent.keep(token, now)
        fresh = _untold(ink, have)
        ground = occupancy(drawing, sheet)
        return s.SheetInk.model_construct(
            token=token,
            width=ink.width,
            height=ink.height,
            scale_text=scale_text(sheet.scale),
            order=[e.id for e in ink.elements],
            elements=[self.element(ink, e, e.key in have.keys) for e in fresh],
            fields=[
                s.FieldJson.model_construct(
                    cell=f.cell,
                    choices=list(f.choices),
                    field=f.field,
                    label=f.label,
                    value=f.value,
                    auto=f.auto,
                    missing=f.needed and not f.value,
                    told=f.field in drawing.fields,
                    says=f.says,
                    x=f.x0,
                    y=ink.height - f.y1,
                    width=f.x1 - f.x0,
                    height=f.y1 - f.y0,
                )
                for f in ink.fields
            ],
            views=views,
            remarks=[
                s.RemarkJson(on=r.on, words=r.words, lies=r.lies) for r in checked(drawing, sheet, ink, placed_views)
            ],
            space=_box(ground.space, ink),
            title=_box(ground.title, ink),
        )

    def _view(
        self,
        drawing: Drawing,
        sheet: Sheet,
        ink: DisplayList,
        placed_view: PlacedView,
        pending: bool,
        have: frozenset[str],
        pointing: Pointing,
        section: s.SectionJson | None,
        outline: s.OutlineJson | None,
    ) -> s.ViewJson:
        view, box = placed_view.view, placed_view.box
        use = drawing.part(view.part)
        element = ink.of(view.id)
        assert element is not None
        key = f"{element.key}-{drawing.unit}-{drawing.standard}{'-' if pointing == 'none' else ''}"
        pointed = None
        if pointing == "none":
            pointed = s.Pointed(words=[], lines=[], snaps=[])
        elif key not in have and (pointing == "all" or key in self._made):
            pointed = self._kept(key, lambda: _pointed(placed_view, drawing))
        # what stands on another sheet holds nothing in line here
        parent = sheet.view(view.parent)
        return s.ViewJson.model_construct(
            id=view.id,
            name=view_name(view),
            words=view_words(view),
            x=box.x0,
            y=ink.height - box.y1,
            width=box.width,
            height=box.height,
            scale=placed_view.scale,
            scale_text=scale_text(sheet.scale_of(view)),
            axes=axes_of(placed_view),
            part_name=use.name if use else "",
            facing=facing(placed_view.projected.scene.toward),
            meshed=len({c.source for c in placed_view.projected.curves if c.meshed}),
            hull=_hull(placed_view, ink.height),
            pending=pending,
            moves=_moves(view, parent is not None),
            carries=[v.id for v in drawing.descendants(view.id, tied_only=True) if sheet.view(v.id) is not None],
            own_direction=not (view.parent is not None and view.kind != "principal"),
            bodies=body_names(placed_view.projected.whole),
            colours=colours_of(view, placed_view.projected.whole) if view.coloured else [],
            bent=placed_view.projected.bent,
            section=section,
            outline=outline,
            breaks=breaks_on(drawing, ink, placed_view),
            local_cuts=local_cuts_on(ink, placed_view),
            broken=bool(placed_view.transform.gaps),
            hatches=_hatches(drawing, placed_view) if placed_view.projected.scene.is_cut and not pending else [],
            key=key,
            pointed=pointed,
        )


def _box(r: Rectangle, ink: DisplayList) -> s.BoxJson:
    return s.BoxJson(x=r.x0, y=ink.height - r.y1, width=r.x1 - r.x0, height=r.y1 - r.y0)


def _hull(placed_view: PlacedView, height: float) -> list[s.Point]:
    """The corners of what a view takes up on the sheet, roughly, mm, y down."""
    shape = hull_shape(placed_view).simplify(0.2)
    ring = shapely.get_coordinates(shape)[:-1] if shape.geom_type == "Polygon" else shapely.get_coordinates(shape)
    return [(round(float(x), 2), round(height - float(y), 2)) for x, y in ring]


def _hatches(drawing: Drawing, placed_view: PlacedView) -> list[s.HatchJson]:
    found = []
    for body in dict.fromkeys(r.body for r in placed_view.projected.taken.regions):
        look = hatch_look(drawing, placed_view.view, placed_view.projected.whole, body)
        found.append(s.HatchJson(body=body, angle=look.angle, spacing=look.spacing, pattern=look.pattern, off=look.off))
    return found


def _size(made: object) -> int:
    """How much a thing weighs among those that are held."""
    if isinstance(made, s.Pointed):
        return len(made.lines) + len(made.snaps)
    return 1 + len(made.marks or ()) if isinstance(made, ScreenElement) else 1


def _untold(ink: DisplayList, have: Sent) -> list[Element]:
    """The elements that the screen is told of: those that are not as they were, or not where they were. What stood at the
    place of its view and went along with it is not among them: that the screen sees by itself."""

    def place(e: Element) -> tuple[float, float]:
        # as the screen has it
        return round(e.at[0], 4), round(ink.height - e.at[1], 4)

    moved = {
        e.id: (old, e)
        for e in ink.elements
        if e.kind == "view" and (old := have.elements.get(e.id)) is not None and place(old) != place(e)
    }
    found = []
    for e in ink.elements:
        old, went = have.elements.get(e.id), moved.get(e.group)
        if old is None or e.key != old.key or e.group != old.group:
            found.append(e)
        elif went is None or e.id == e.group:
            if e.at != old.at and place(e) != place(old):
                found.append(e)
        elif old.at != went[0].at or e.at != went[1].at:
            goes = place(old) == place(went[0])
            if place(e) != place(went[1] if goes else old):
                found.append(e)
    return found


def _pointed(placed_view: PlacedView, drawing: Drawing) -> s.Pointed:
    still = placed_view.still()
    words: dict[str, int] = {}
    rows: dict[str, int] = {}
    lines = []
    for ref, line in lines_of(still, drawing).items():
        rows[ref] = len(rows)
        lines.append((ref, line.shape, words.setdefault(line.words, len(words))))
    snaps = [
        (rows[p.ref], p.at, p.x, round(-p.y, 2), words.setdefault(p.word, len(words)), p.full)
        for p in snaps_of(still, drawing)
        if p.ref in rows
    ]
    return s.Pointed.model_construct(words=list(words), lines=lines, snaps=snaps)


def facing(toward: tuple[float, float, float]) -> str:
    """A direction in words: ``−Y``, or its components."""
    for k, name in enumerate("XYZ"):
        axis = [1.0 if i == k else 0.0 for i in range(3)]
        for sign, mark in ((1, "+"), (-1, "−")):
            if all(abs(a - sign * b) < 1e-9 for a, b in zip(toward, axis, strict=True)):
                return f"{mark}{name}"
    return "(" + ", ".join(f"{x:.3g}" for x in toward) + ")"


def _moves(view: View, follows: bool) -> s.Point | None:
    """The only way in which a view moves, being tied to its parent (which it ``follows``) or held in line; (0, 0) where it does not."""
    ways = {line.way for line in view.lined}
    if ways:
        return (0.0, 0.0) if len(ways) > 1 else (1.0, 0.0) if "level" in ways else (0.0, 1.0)
    return way_of(view) if follows else None
