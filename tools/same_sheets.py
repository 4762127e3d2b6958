"""Whether a change of the program changes a sheet: ``python -m tools.same_sheets keep FILE [FOLDER]`` before it, and
``python -m tools.same_sheets compare FILE [FOLDER]`` after it.

Kept is, of each element of the sheets of the demo data, and of a sheet with sizes, notes and a section of each part file of a folder, a digest of
all that is drawn. Different ones are told by name; the exit code is 1 where there are any.
"""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import sys
import tempfile
from pathlib import Path

from barequill.core import read_part
from barequill.core.acts.centres import Centres
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.tidy import Tidy
from barequill.core.display import DisplayList, Element
from barequill.core.sheet.stages import draw_sheet
from barequill.demo.filling import fill
from barequill.web.services import Services
from tools.tidying import dimensioned, done

MOST = 200
Kept = dict[str, dict[str, str]]


def told(ink: DisplayList) -> dict[str, str]:
    """By element a digest of all that it is; and one of the sheet's own figures."""
    found = {f"{k} {e.id}": _digest(e) for k, e in enumerate(ink.elements)}
    found["sheet"] = hashlib.sha256(
        repr((ink.width, ink.height, ink.title, ink.fields, ink.names)).encode()
    ).hexdigest()
    return found


def _digest(e: Element) -> str:
    what = e.id, e.kind, e.group, e.words, e.at, e.loose, e.record
    return hashlib.sha256(repr([what, *map(_plain, (*e.marks, None, *e.under))]).encode()).hexdigest()[:16]


def _plain(mark: object) -> object:
    """A mark as figures: curves and places by their bytes."""
    if mark is None or isinstance(mark, str | int | float | bool):
        return mark
    if hasattr(mark, "tobytes"):
        return mark.tobytes().hex()
    if isinstance(mark, list | tuple):
        return [_plain(m) for m in mark]
    fields = getattr(mark, "__dataclass_fields__", None)
    if fields is not None:
        # what is as it is by itself may be new
        own = {k: getattr(mark, k) for k in fields}
        return [type(mark).__name__, *((k, _plain(v)) for k, v in own.items() if v is not fields[k].default)]
    return repr(mark)


def demo() -> Kept:
    """The sheets of the demo data."""
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        fill(home, lambda said: None)
        services = Services(home)
        try:
            found = {}
            for row in services.store.drawings():
                drawing = services.store.get(row.id).drawing
                for sheet in drawing.sheets:
                    found[f"demo {row.id} {sheet.id}"] = told(draw_sheet(drawing, sheet, services.projections))
            return found
        finally:
            services.close()


def of_part(job: tuple[int, str]) -> Kept:
    """A sheet of a part: sizes over all, notes of holes, sizes here and there, a section through the middle, all tidied."""
    seed, name = job
    try:
        part = read_part(Path(name))
    except Exception as error:
        return {name: {"refused": str(error)}}
    if not part.faces or len(part.faces) > 600:
        return {}
    drawing, tools = dimensioned(part, seed, 4)
    drawing = done(drawing, tools, Centres(sheet=drawing.front_sheet.id))
    front = drawing.front_sheet.views[0].id
    box = tools.projections.placed_views(drawing, drawing.front_sheet)[front].box
    x, y0, y1 = (box.x0 + box.x1) / 2, box.y0 - 3, box.y1 + 3
    line = [CutPoint(x=x, y=y0), CutPoint(x=x, y=y1)]
    drawing = done(drawing, tools, CutView(view=front, points=line, to=(box.x1 + 60, (y0 + y1) / 2)))
    drawing = done(drawing, tools, Tidy(sheet=drawing.front_sheet.id))
    return {Path(name).name: told(draw_sheet(drawing, drawing.front_sheet, tools.projections))}


def all_sheets(folder: str | None) -> Kept:
    """All of them."""
    found = demo()
    names = sorted(str(p) for p in Path(folder).iterdir() if p.suffix.lower() in (".step", ".stp")) if folder else []
    with multiprocessing.get_context("forkserver").Pool(maxtasksperchild=20) as pool:
        for one in pool.imap(of_part, list(enumerate(names))):
            found |= one
    return found


def main(what: str, file: str, folder: str | None = None) -> int:
    """Keep, or compare."""
    now = all_sheets(folder)
    if what == "keep":
        Path(file).write_text(json.dumps(now))
        print(f"{len(now)} sheets kept, {sum(map(len, now.values()))} elements")
        return 0
    before: Kept = json.loads(Path(file).read_text())
    unlike = 0
    for name in sorted(before.keys() | now.keys()):
        own, then = now.get(name, {}), before.get(name, {})
        for key in sorted(own.keys() | then.keys()):
            if own.get(key) != then.get(key):
                unlike += 1
                if unlike <= MOST:
                    how = "gone" if key not in own else "new" if key not in then else "unlike"
                    print(f"{name}: {key} {how}")
    print(f"{len(now)} sheets compared, {sum(map(len, now.values()))} elements, {unlike} unlike")
    return int(unlike > 0)


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
