"""The desk: store, workers and studio brought together for the requests."""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Callable, Iterator
from datetime import date
from pathlib import Path
from typing import Any

from ..core import planning
from ..core.annotation import Pick, draw_sheet, infer
from ..core.annotation.dimensions import draw_dimension
from ..core.annotation.inference import moved_text, placed
from ..core.annotation.pointing import snaps_of, words_of
from ..core.annotation.sheet_ink import blank, draw_caption, view_name
from ..core.drawing import Dimension, Drawing, Operation, Sheet, View, apply
from ..core.drawing.operations import AddViews, Annotate, ChangeAnnotation, Group, SetPart, SetSheet
from ..core.errors import BadOperation, NotFound, Pending, UserError
from ..core.ink import Ink, mark_json
from ..core.ink.paths import path_data
from ..core.projection import camera
from ..core.projection.shading import NO_TONES
from ..core.standards.scales import scale_text
from ..core.views import Studio, draw_view
from ..core.views.directions import FACES, turned
from ..core.views.picture import Shot
from ..core.views.proposal import apply_layout, items_for, views_for
from ..core.writers import write_png
from ..store import Standing, Store
from ..work.plain import write_whole
from ..work.pools import Held, Workshop
from ..work.pools import Shot as Shown
from . import schemas as s

PATIENCE = 0.7
"""How long (s) a sheet waits for its views before it is shown without them."""
INKS_HELD = 24_000_000
"""Bytes of ink, as sent to the screen, that are held in memory."""
LEAST_FREE = 20_000_000
"""Bytes of room on the disk below which it counts as full."""


def shot_of(view: View) -> Shown:
    """What of a view its projection depends on."""
    d, u = view.toward, view.up
    return view.part, (d[0], d[1], d[2]), (u[0], u[1], u[2])


def shots_of(sheet: Sheet) -> list[Shown]:
    """What the projections of a sheet depend on, each once."""
    return list(dict.fromkeys(shot_of(v) for v in sheet.views))


class Desk:
    """What the web application works with."""

    def __init__(self, home: Path, read_limit: float = 180.0) -> None:
        self.store = Store(home)
        self.workshop = Workshop(home, read_limit)
        self.studio = Studio(self.workshop.part, self.workshop.curves, self.workshop.shading)
        self._inks = Held(INKS_HELD)

    def close(self) -> None:
        """Stop workers and let go of the database."""
        self.workshop.close()
        self.store.close()

    def prefetch(self, sheet: Sheet) -> None:
        """Project all views of a sheet side by side."""
        self.workshop.many(shots_of(sheet))

    def shown(self, standing: Standing, sheet_id: str) -> str:
        """JSON of a sheet's ink for the screen: views that take long are left out, and told of."""
        sheet = self.sheet(standing.drawing, sheet_id)
        partial = self.partial(standing.drawing, sheet)
        return self.drawn(standing, sheet_id)[1] if partial is None else json.dumps(partial)

    def partial(self, drawing: Drawing, sheet: Sheet, pointing: bool = True) -> dict[str, Any] | None:
        """Ink of a sheet without the views that are not there after a short while; None where all are."""
        shots = shots_of(sheet)
        self.workshop.begin(shots)
        waiting = self.workshop.pending(shots, PATIENCE)
        if not waiting:
            return None
        studio = Studio(
            self.workshop.part,
            lambda key, d, u: [] if (key, d, u) in waiting else self.workshop.curves(key, d, u),
            lambda key, d, u: NO_TONES if (key, d, u) in waiting else self.workshop.shading(key, d, u),
        )
        ink = draw_sheet(drawing, sheet, studio, date.today().isoformat())
        pending = {v.id for v in sheet.views if shot_of(v) in waiting}
        return self.ink_json(drawing, sheet, ink, pointing, studio, pending)

    def progress(self, sheet: Sheet) -> list[s.ViewProgress]:
        """How far the views of a sheet are that are not there yet."""
        shots = shots_of(sheet)
        self.workshop.begin(shots)
        waiting = self.workshop.pending(shots)
        found = [(v, waiting.get(shot_of(v))) for v in sheet.views]
        return [
            s.ViewProgress(view=v.id, share=p.share, what=p.what, stopped=p.stopped) for v, p in found if p is not None
        ]

    def project_view(self, sheet: Sheet, view_id: str, act: str) -> None:
        """Stop projecting a view, or begin again."""
        view = sheet.view(view_id)
        if view is None:
            raise NotFound("There is no such view", "It was removed; choose another.")
        if act == "stop":
            self.workshop.stop(shot_of(view))
        else:
            self.workshop.begin([shot_of(view)], again=True)

    def ink(self, drawing: Drawing, sheet: Sheet) -> Ink:
        """A sheet as ink."""
        self.prefetch(sheet)
        return draw_sheet(drawing, sheet, self.studio, date.today().isoformat())

    def sheet(self, drawing: Drawing, sheet_id: str) -> Sheet:
        """A sheet of a drawing."""
        sheet = drawing.sheet(sheet_id)
        if sheet is None:
            raise NotFound("There is no such sheet", "It was removed; choose another.")
        return sheet

    def drawn(self, standing: Standing, sheet_id: str) -> tuple[Ink, str]:
        """Ink of a sheet and its JSON, kept for the sheets last shown."""
        sheet = self.sheet(standing.drawing, sheet_id)
        today = date.today().isoformat()
        # by content, and by the day that stands in the title block
        name = hashlib.sha256(f"{standing.drawing.model_dump_json()} {sheet_id} {today}".encode()).hexdigest()
        found: tuple[Ink, str] | None = self._inks.get(name)
        if found is None:
            ink = self.ink(standing.drawing, sheet)
            found = (ink, json.dumps(self.ink_json(standing.drawing, sheet, ink)))
            self._inks.keep(name, found, len(found[1]))
        return found

    def health(self) -> dict[str, Any]:
        """What a watcher asks: whether drawings can be kept and workers work, and the room left on the disk."""
        free = shutil.disk_usage(self.store.home).free
        found = {
            "database": "writable" if self.store.writable() else "not writable",
            "readers": "alive" if self.workshop.readers.alive else "being started again",
            "projectors": "alive" if self.workshop.projectors.alive else "being started again",
            "disk_free_mb": free // 1_000_000,
        }
        return {"ready": found["database"] == "writable" and free > LEAST_FREE, **found}

    def thumbnail(self, standing: Standing) -> bytes:
        """The first sheet as a small PNG, kept on disk for the drawing as it stands today."""
        folder = self.workshop.cache / "thumbnails"
        folder.mkdir(exist_ok=True)
        # by content: the number of a removed drawing may be given out again
        shown = f"{standing.drawing.model_dump_json()} {date.today().isoformat()}"
        path = folder / f"{standing.id}-{hashlib.sha256(shown.encode()).hexdigest()[:16]}.png"
        if not path.exists():
            sheet = standing.drawing.sheets[0]
            shots = shots_of(sheet)
            self.workshop.begin(shots)
            if self.workshop.pending(shots, PATIENCE):
                raise Pending("The small picture is not there yet", "Views of the sheet are being projected.")
            ink, _ = self.drawn(standing, sheet.id)
            for old in folder.glob(f"{standing.id}-*.png"):
                old.unlink(missing_ok=True)
            write_whole(str(path), write_png(ink, 50 * 420 / ink.width))
        return path.read_bytes()

    def ink_json(
        self,
        drawing: Drawing,
        sheet: Sheet,
        ink: Ink,
        pointing: bool = True,
        studio: Studio | None = None,
        pending: set[str] = frozenset(),  # type: ignore[assignment]
    ) -> dict[str, Any]:
        """A sheet's ink as the screen takes it; ``pending`` are views without their lines yet."""
        views = []
        for picture in (studio or self.studio).pictures(sheet).values():
            box, view = picture.box, picture.view
            use = drawing.part(view.part)
            views.append(
                {
                    "id": view.id,
                    "name": view_name(view),
                    "x": box.x0,
                    "y": ink.height - box.y1,
                    "width": box.width,
                    "height": box.height,
                    "scale": picture.scale,
                    "scale_text": scale_text(picture.scale),
                    "part_name": use.name if use else "",
                    "facing": facing(view.toward),
                    "meshed": len({c.source for c in picture.shot.curves if c.meshed}),
                    "pending": view.id in pending,
                    "snaps": snaps_of(picture, drawing, ink.height) if pointing else [],
                    "words": words_of(picture, drawing) if pointing else {},
                }
            )
        return {
            "width": ink.width,
            "height": ink.height,
            "scale_text": scale_text(sheet.scale),
            "marks": [*(mark_json(ink, m) for m in ink.marks), *(mark_json(ink, m) | {"m": "u"} for m in ink.under)],
            "groups": ink.group_of,
            "fields": [
                {
                    "field": f.field,
                    "label": f.label,
                    "value": f.value,
                    "auto": f.auto,
                    "x": f.x0,
                    "y": ink.height - f.y1,
                    "width": f.x1 - f.x0,
                    "height": f.y1 - f.y0,
                }
                for f in ink.fields
            ],
            "views": views,
            "texts": {d.owner: d.text for d in ink.dimensions},
        }

    def propose(self, wish: s.NewDrawing) -> Drawing:
        """A new drawing as wished, not kept."""
        row = self.store.part(wish.part)
        part = self.workshop.part(wish.part)
        toward, up = turned(*FACES[wish.face], wish.quarter_turns)
        self.workshop.begin([shot_of(v) for v in views_for(part.key, list(wish.views), toward, up, 1)])
        drawing = planning.new_drawing(
            self.studio,
            part,
            size=wish.size,
            landscape=wish.landscape,
            standard=wish.standard,
            angle=wish.angle,
            unit=wish.unit,
            scale=wish.scale,
            names=list(wish.views),
            face=wish.face,
            quarter_turns=wish.quarter_turns,
            centres=wish.centres,
            material=row.material,
            density=row.density,
        )
        drawing.parts[0].name, drawing.parts[0].number = row.name, row.number
        drawing.fields |= wish.fields
        return drawing

    def plan(self, act: s.Act) -> Callable[[Drawing], Operation]:  # type: ignore[valid-type]
        """The way from a drawing to the operation that an act means."""

        def made(drawing: Drawing) -> Operation:
            match act:
                case s.DoOperation():
                    for operation in _each(act.operation):
                        if isinstance(operation, SetPart):
                            self.store.part(operation.part.key)
                    return act.operation
                case s.PullView():
                    sheet, view = planning.pulled_view(drawing, act.view, act.side, act.to)
                    return AddViews(sheet=sheet.id, views=[view])
                case s.PlaceSet():
                    return self._place_set(drawing, act)
                case s.Centres():
                    return self._centres(drawing, act)
                case s.ChangeSheet():
                    return planning.sheet_plan(self.studio, drawing, SetSheet(**act.model_dump(exclude={"act"})))
                case s.Spread():
                    return planning.spread_plan(self.studio, drawing, act.sheet)
                case s.PullDimension():
                    sheet, dimension = self._pulled(drawing, act)
                    return Annotate(sheet=sheet.id, annotations=[dimension])
                case s.MoveDimension():
                    return ChangeAnnotation(id=act.id, changes={"place": self._moved(drawing, act).place.model_dump()})
            raise BadOperation("Unknown act", "Load the page again.")

        return made

    def _place_set(self, drawing: Drawing, act: s.PlaceSet) -> Operation:
        sheet = self.sheet(drawing, act.sheet)
        if not drawing.parts:
            raise BadOperation("There is no part in this drawing", "Take a part from the shelf first.")
        if sheet.views:
            raise BadOperation(
                "There are views on this sheet already", "Pull further views out of them, or remove them first."
            )
        toward, up = turned(*FACES[act.face], act.quarter_turns)
        views = views_for(drawing.parts[0].key, list(act.views), toward, up, drawing.last_id + 1)
        items = items_for(self.studio, views, drawing.angle)
        found = planning.layout.choose(items, sheet.size, sheet.landscape)
        return Group(
            label=f"Place {len(views)} views",
            operations=[
                SetSheet(sheet=sheet.id, scale=found.scale),
                AddViews(sheet=sheet.id, views=apply_layout(views, found)),
            ],
        )

    def _centres(self, drawing: Drawing, act: s.Centres) -> Operation:
        sheet = self.sheet(drawing, act.sheet)
        found: list[Operation] = []
        trial = drawing
        for view in act.views if act.views is not None else [v.id for v in sheet.views]:
            plan = planning.centres_plan(self.studio, trial, view)
            if plan is not None:
                found.append(plan)
                trial = apply(trial, plan)
        if not found:
            raise BadOperation(
                "Nothing to mark",
                "All round features of these views carry their marks and lines already, or there are none.",
            )
        return found[0] if len(found) == 1 else Group(label="Add centre marks and lines", operations=found)

    def _pulled(self, drawing: Drawing, act: s.PullDimension) -> tuple[Sheet, Dimension]:
        sheet = drawing.sheet_of(act.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        picture = self.studio.pictures(sheet)[act.view]
        picks = [Pick(p.ref, p.x, p.y, p.at) for p in act.picks]
        return sheet, infer(picture, sheet, picks, act.pointer, f"d{drawing.last_id + 1}", act.wish)

    def _moved(self, drawing: Drawing, act: s.MoveDimension) -> Dimension:
        sheet = drawing.sheet_of(act.id)
        found = next((a for a in sheet.annotations if a.id == act.id), None) if sheet else None
        if sheet is None or not isinstance(found, Dimension):
            raise BadOperation("The dimension is gone", "It was removed.")
        picture = self.studio.pictures(sheet)[found.view]
        if act.text_only:
            return found.model_copy(update={"place": moved_text(picture, found, act.pointer)})
        new = placed(picture, sheet, found, act.pointer)
        if found.measure not in ("diameter", "radius", "angle") or new.place.angle == found.place.angle:
            new = new.model_copy(update={"place": new.place.model_copy(update={"along": found.place.along})})
        return new

    def preview(self, drawing: Drawing, act: s.Act) -> dict[str, Any]:  # type: ignore[valid-type]
        """Ink of what an act would make."""
        if isinstance(act, s.PullDimension | s.MoveDimension):
            if isinstance(act, s.PullDimension):
                sheet, dimension = self._pulled(drawing, act)
            else:
                dimension = self._moved(drawing, act)
                sheet = drawing.sheet_of(act.id)  # type: ignore[assignment]
            ink = blank(drawing, sheet)
            draw_dimension(ink, self.studio.pictures(sheet)[dimension.view], dimension, drawing)
            text = ink.dimensions[0].text if ink.dimensions else ""
            kind = {"length": "length", "distance": "distance"}.get(dimension.measure, dimension.measure)
            direction = f", {dimension.direction}" if dimension.measure in ("length", "distance") else ""
            return {
                "marks": [mark_json(ink, m) for m in ink.marks],
                "words": f"{text}  {kind}{direction}",
                "others": _others(dimension),
                "place": None,
            }
        if isinstance(act, s.PullView):
            sheet, view = planning.pulled_view(drawing, act.view, act.side, act.to)
            trial = sheet.model_copy(update={"views": [*sheet.views, view]})
            picture = self.studio.pictures(trial)[view.id]
            ink = blank(drawing, sheet)
            draw_view(ink, picture, drawing)
            draw_caption(ink, picture, trial)
            return {
                "marks": [mark_json(ink, m) for m in ink.marks],
                "words": f"{view_name(view)} view",
                "others": [],
                "place": view.place,
            }
        raise UserError("There is no preview of that", "Do it; it can be undone.")

    def face_previews(self, key: str) -> list[dict[str, Any]]:
        """The six faces of a part as small true pictures."""
        part = self.workshop.part(key)
        shots = [(key, d, u) for d, u in FACES.values()]
        found = []
        for (face, (d, u)), curves in zip(FACES.items(), self.workshop.many(shots), strict=True):
            shot = Shot(part, camera(d, u), lambda curves=curves: curves)
            box = shot.box
            offset = -shot.centre - [box.x0, box.y0]
            paths: dict[bool, list[str]] = {True: [], False: []}
            for c in curves:
                if c.cls != "smooth":
                    paths[c.visible].append(path_data(c.curve.moved(1.0, 0.0, offset), box.height))
            found.append(
                {
                    "face": face,
                    "width": box.width,
                    "height": box.height,
                    "visible": "".join(paths[True]),
                    "hidden": "".join(paths[False]),
                }
            )
        return found


def _each(operation: Operation) -> Iterator[Operation]:
    """An operation and, of a group, all within it."""
    yield operation
    if isinstance(operation, Group):
        for inner in operation.operations:
            yield from _each(inner)


def facing(toward: tuple[float, float, float]) -> str:
    """A direction in words: ``−Y``, or its components."""
    names = [
        ("+X", (1, 0, 0)),
        ("−X", (-1, 0, 0)),
        ("+Y", (0, 1, 0)),
        ("−Y", (0, -1, 0)),
        ("+Z", (0, 0, 1)),
        ("−Z", (0, 0, -1)),
    ]
    for name, axis in names:
        if all(abs(a - b) < 1e-9 for a, b in zip(toward, axis, strict=True)):
            return name
    return "(" + ", ".join(f"{x:.3g}" for x in toward) + ")"


def _others(dimension: Dimension) -> list[str]:
    """What else the same picks could mean."""
    if dimension.measure in ("length", "distance") and not (
        len(dimension.anchors) == 2 and any(a.at in ("line", "outline") for a in dimension.anchors)
    ):
        return [d for d in ("aligned", "horizontal", "vertical") if d != dimension.direction]
    if dimension.measure in ("diameter", "radius") and dimension.anchors[0].at == "round":
        return ["radius" if dimension.measure == "diameter" else "diameter"]
    return []
