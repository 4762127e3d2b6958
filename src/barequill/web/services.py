"""The services of the application: store, workers and projection cache brought together for the requests."""

from __future__ import annotations

import hashlib
import logging
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import date
from pathlib import Path
from threading import BoundedSemaphore, Lock, Thread
from typing import Any

from ..core.acts import ActContext, AnyAct, NewDrawing, Shelved, new_drawing
from ..core.acts.for_another import for_another
from ..core.acts.new_drawing import use_of
from ..core.bounds import NAME
from ..core.display import DisplayList, Text
from ..core.display.lettering import lettered
from ..core.display.paths import path_data
from ..core.drawing import Drawing, Operation, Sheet
from ..core.drawing.operations import Group, SetPart
from ..core.errors import BadOperation, Busy, NotFound, Pending, Unwritable, UserError
from ..core.projection.shading import NO_TONES
from ..core.reading.reading import key_as
from ..core.sheet.display_cache import DisplayCache
from ..core.sheet.stages import draw_sheet
from ..core.standards.sheets import sheet_rectangle
from ..core.views.directions import FACES, turned
from ..core.views.placed_view import ProjectionCache
from ..core.views.projecting import NOTHING
from ..core.views.proposal import views_for
from ..core.views.scene import Scene
from ..core.writers import write_png
from ..store import DrawingSnapshot, Store
from ..work.confining import confined_by
from ..work.jobs import Job, key_of
from ..work.pools import Workshop
from ..work.serialisation import write_whole
from . import schemas as s
from .part_schemas import FacePreview
from .screen import Pointing, Screens

log = logging.getLogger(__name__)
PATIENCE = 0.7
"""How long (s) a sheet waits for its views before it is shown without them."""
RESERVE = 50_000_000
"""Bytes of room on the disk that uploads leave for acts, on a disk that has four times as much."""
RENDERINGS = 12
"""Sheets that are written, or wait for their turn, at once."""
LEAST_FREE = 20_000_000
"""Bytes of room on the disk below which it counts as full."""


class Services:
    """What the web application works with."""

    def __init__(self, home: Path, read_limit: float = 180.0) -> None:
        self.store = Store(home)
        self.store.empty_basket()
        self.workshop = Workshop(home, read_limit)
        self.projections = ProjectionCache(self.workshop.part, self.workshop.taken, self.workshop.shading)
        self.acting = ActContext(self.projections, DisplayCache(), self.store.part)
        self.screens = Screens()
        self.unpacking = Lock()
        self._rendering, self._queued = Lock(), BoundedSemaphore(RENDERINGS)

    def close(self) -> None:
        """Stop workers and let go of the database."""
        self.workshop.close()
        self.store.close()

    def sheet(self, drawing: Drawing, sheet_id: str) -> Sheet:
        """A sheet of a drawing."""
        sheet = drawing.sheet(sheet_id)
        if sheet is None:
            raise NotFound("There is no such sheet", "It was removed; choose another.")
        return sheet

    # ---- parts

    def read(self, name: str, source: bytes | Path, as_unit: str | None = None, former: str = "") -> Job:
        """Begin to read a part that goes on the shelf, as the next revision of a ``former`` one where that is named."""
        return self.workshop.read(
            source,
            name,
            lambda part, kept: self.store.keep_part(part.key, name, kept, part.summary(), as_unit, former),
            as_unit,
        )

    def take_back(self) -> None:
        """Begin to put part files of which no row tells back on the shelf; those that are not what they are called stay."""
        found = self.store.found()
        if found:
            # they are gone through whole: nobody waits for that
            Thread(target=self._take_back, args=(found,), daemon=True).start()

    def _take_back(self, found: list[tuple[str, Path, str | None]]) -> None:
        for key, path, unit in found:
            with suppress(OSError):
                if key_as(key_of(path), unit) == key:
                    self.read(f"found-{key[:8]}{path.suffix}", path, unit)

    def check_room(self, size: int) -> None:
        """Raise Unwritable where so many bytes more would leave too little room on the disk for acts."""
        room = shutil.disk_usage(self.store.home)
        # a part takes its file, a copy while it is read, and what is prepared of it
        if size and room.free - 3 * size < min(RESERVE, room.total // 4):
            raise Unwritable(
                "There is no room for that part",
                f"The disk has {room.free / 1e6:.0f} MB free; what is left is kept for drawings. Free some room, or take "
                "parts off the shelf, and bring it again.",
            )

    # ---- views

    def prefetch(self, drawing: Drawing, sheet: Sheet) -> None:
        """Project all views of a sheet side by side."""
        self.workshop.many(self.distinct(drawing, sheet))

    def progress(self, drawing: Drawing, sheet: Sheet) -> list[s.ViewProgress]:
        """How far the views of a sheet are that are not there yet."""
        scenes = self.projections.scenes(drawing, sheet)
        self.workshop.begin(list(scenes.values()))
        waiting = self.workshop.pending(list(dict.fromkeys(scenes.values())))
        found = [(v, waiting.get(scene)) for v, scene in scenes.items()]
        return [s.ViewProgress(view=v, share=p.share, what=p.what, stopped=p.stopped) for v, p in found if p]

    def project_view(self, drawing: Drawing, sheet: Sheet, view_id: str, act: str) -> None:
        """Stop projecting a view, or begin again."""
        scene = self.projections.scenes(drawing, sheet).get(view_id)
        if scene is None:
            raise NotFound("There is no such view", "It was removed; choose another.")
        if act == "stop":
            self.workshop.stop(scene)
        else:
            self.workshop.begin([scene], again=True)

    def distinct(self, drawing: Drawing, sheet: Sheet) -> list[Scene]:
        """What the views of a sheet show, each once."""
        return list(dict.fromkeys(self.projections.scenes(drawing, sheet).values()))

    @contextmanager
    def rendering(self) -> Iterator[None]:
        """One turn at what takes long to write: one at a time, so that acts go on beside it.

        Raises
        ------
        Busy
            Where so many wait for theirs that it would take long.
        """
        if not self._queued.acquire(blocking=False):
            raise Busy("Many sheets are being written just now", "Ask again in a moment; nothing is lost.")
        try:
            with self._rendering:
                yield
        finally:
            self._queued.release()

    # ---- ink

    def ink(self, drawing: Drawing, sheet: Sheet) -> DisplayList:
        """A sheet as ink, once all its views are there."""
        self.prefetch(drawing, sheet)
        return draw_sheet(drawing, sheet, self.projections, self.acting.display_cache)

    def shown(self, drawing: Drawing, sheet: Sheet, since: str = "", pointing: Pointing = "all") -> s.SheetInk:
        """A sheet for the screen: views that take long are left out, and told of; ink that the screen has from
        ``since`` (the token of what it was sent before) is not sent again."""
        return self._shown(drawing, sheet, self._waiting(drawing, sheet, PATIENCE), since, pointing)

    def shown_at_once(self, drawing: Drawing, sheet: Sheet, since: str) -> s.SheetInk | None:
        """The same, where no view is to be waited for."""
        waiting = self._waiting(drawing, sheet, 0.0)
        return None if waiting else self._shown(drawing, sheet, waiting, since, "all")

    def _waiting(self, drawing: Drawing, sheet: Sheet, patience: float) -> set[Scene]:
        """What the views of a sheet show that is not there after ``patience`` (s); it is on its way."""
        scenes = self.distinct(drawing, sheet)
        self.workshop.begin(scenes)
        return set(self.workshop.pending(scenes, patience))

    def _shown(self, drawing: Drawing, sheet: Sheet, waiting: set[Scene], since: str, pointing: Pointing) -> s.SheetInk:
        projections, pending = self.projections, set[str]()
        if waiting:
            pending = {v for v, scene in self.projections.scenes(drawing, sheet).items() if scene in waiting}
            projections = ProjectionCache(
                self.workshop.part,
                lambda scene: NOTHING if scene in waiting else self.projections.projected(scene).taken,
                lambda scene: NO_TONES if scene in waiting else self.projections.projected(scene).shading,
            )
        ink = draw_sheet(drawing, sheet, projections, self.acting.display_cache, pending)
        placed_views = projections.placed_views(drawing, sheet)
        return self.screens.sheet(
            drawing=drawing,
            sheet=sheet,
            ink=ink,
            placed_views=placed_views,
            pending=pending,
            since=since,
            pointing=pointing,
        )

    def thumbnail(self, snapshot: DrawingSnapshot, sheet: Sheet) -> bytes:
        """A sheet as a small PNG, kept on disk for the drawing as it stands today."""
        folder = self.workshop.cache / "thumbnails"
        folder.mkdir(exist_ok=True)
        # by content, and by the day that stands in the title block
        shown = f"{snapshot.drawing.model_dump_json()} {date.today().isoformat()}"
        own = f"{snapshot.id}-{sheet.id}-"
        path = folder / f"{own}{hashlib.sha256(shown.encode()).hexdigest()[:16]}.png"
        if not path.exists():
            drawing = snapshot.drawing
            scenes = self.distinct(drawing, sheet)
            self.workshop.begin(scenes)
            if self.workshop.pending(scenes, PATIENCE):
                raise Pending("The small picture is not there yet", "Views of the sheet are being projected.")
            with self.rendering():
                placed_view = write_png(
                    self.ink(drawing, sheet), 50 * 420 / sheet_rectangle(sheet.size, sheet.landscape).x1
                )
            self._keep_words(snapshot)
            for old in folder.glob(f"{own}*.png"):
                old.unlink(missing_ok=True)
            try:
                write_whole(str(path), placed_view)
            except OSError:
                log.warning("a small picture was not kept", exc_info=True)
                return placed_view
        return path.read_bytes()

    def _keep_words(self, snapshot: DrawingSnapshot) -> None:
        """Keep what all sheets of a drawing show whose views are there, so that it is found by it."""
        words: list[str] = []
        for sheet in snapshot.drawing.sheets:
            scenes = self.distinct(snapshot.drawing, sheet)
            self.workshop.begin(scenes)
            if not self.workshop.pending(scenes, PATIENCE):
                elements = self.ink(snapshot.drawing, sheet).elements
                words += [m.text for e in elements for m in e.marks if isinstance(m, Text)]
        try:
            self.store.keep_shown(snapshot.id, snapshot.edit, words)
        except UserError:
            log.warning("what the sheets of drawing %d show was not kept", snapshot.id, exc_info=True)

    def tell_drawings(self, key: str, material: str, density: float | None) -> None:
        """Let the drawings of a part, of which no other material was chosen there, have that which the shelf says, as a step of theirs."""
        for own in self.store.drawings():
            if key not in own.parts or own.damaged:
                continue

            def plan(drawing: Drawing) -> Operation:
                use = drawing.part(key)
                if use is None or use.told or (use.material, use.density) == (material, density):
                    raise BadOperation("It has that material, or one of its own", "Nothing was changed.")
                said = use.model_copy(update={"material": material, "density": density})
                called = f"Material as on the shelf: {material}" if material else "No material, as on the shelf"
                return Group(label=called[:NAME], operations=[SetPart(part=said)])

            try:
                self.store.act(own.id, own.edit, plan)
            except BadOperation:
                continue
            except UserError:
                # changed or damaged in the same moment: it keeps what it says
                log.warning("drawing %d was not told the material of %s", own.id, key, exc_info=True)

    def forget_thumbnail(self, drawing_id: int) -> None:
        """Remove the small pictures of a drawing."""
        for path in (self.workshop.cache / "thumbnails").glob(f"{drawing_id}-*.png"):
            path.unlink(missing_ok=True)

    # ---- drawings

    def propose(self, wish: NewDrawing) -> Drawing:
        """A new drawing as wished, not kept."""
        shelved = self._shelved(wish.part)
        toward, up = turned(*FACES[wish.face], wish.quarter_turns)
        ids = [f"e{k + 2}" for k in range(len(wish.views))]
        trial = Sheet(id="e1", views=views_for(wish.part, list(wish.views), toward, up, ids))
        self.workshop.begin(self.distinct(Drawing(sheets=[trial]), trial))
        return new_drawing(self.projections, wish, shelved)

    def _shelved(self, key: str) -> Shelved:
        """What the shelf says of a part; raises NotFound where it does not lie there."""
        row = self.store.part(key)
        return Shelved(name=row.name, number=row.number, material=row.material, density=row.density)

    def for_another(self, drawing: Drawing, key: str) -> Drawing:
        """A drawing taken over for another part of the shelf."""
        shelved = self._shelved(key)
        use = use_of(self.workshop.part(key), shelved)
        with lettered(drawing.font):
            return for_another(self.acting, drawing, use)

    def preview(self, drawing: Drawing, act: AnyAct) -> s.Preview:
        """The display list of what an act would make."""
        with lettered(drawing.font):
            found = act.preview(drawing, self.acting)
        return s.Preview(
            elements=[self.screens.element(found.ink, e) for e in found.elements],
            words=found.words,
            others=list(found.others),
            place=found.place,
            changes=list(found.changes),
        )

    def newer(self, drawing: Drawing) -> list[s.NewerPart]:
        """Of which parts of a drawing the shelf has newer revisions."""
        newest = self.store.newer()
        found = []
        for use in drawing.parts:
            if use.key in newest:
                row = self.store.part(newest[use.key])
                names = [str(x) for x in (row.name, row.file_name)]
                found.append(s.NewerPart(part=use.key, by=row.key, name=names[0], file_name=names[1]))
        return found

    def face_previews(self, key: str) -> list[FacePreview]:
        """The six faces of a part as small true pictures."""
        scenes = [Scene(key, d, u) for d, u in FACES.values()]
        self.workshop.many(scenes)
        found = []
        for face, scene in zip(FACES, scenes, strict=True):
            projected = self.projections.projected(scene)
            box = projected.box
            offset = -projected.centre - [box.x0, box.y0]
            paths: dict[bool, list[str]] = {True: [], False: []}
            for c in projected.curves:
                if c.cls != "smooth":
                    paths[c.visible].append(path_data(c.curve.moved(1.0, 0.0, offset), box.height, 3))
            found.append(
                FacePreview.model_validate(
                    {
                        "face": face,
                        "width": box.width,
                        "height": box.height,
                        "visible": "".join(paths[True]),
                        "hidden": "".join(paths[False]),
                    }
                )
            )
        return found

    def health(self) -> dict[str, Any]:
        """What a watcher asks: whether drawings can be kept and workers work, and the room left on the disk."""
        free = shutil.disk_usage(self.store.home).free
        found = {
            "database": "writable" if self.store.writable() else "not writable",
            "readers": "alive" if self.workshop.readers.alive else "being started again",
            "projectors": "alive" if self.workshop.projectors.alive else "being started again",
            "disk_free_mb": free // 1_000_000,
            "readers_confined_by": confined_by(),
        }
        return {"ready": found["database"] == "writable" and free > LEAST_FREE, **found}
