"""Parts: bring, list, change, remove."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from flask import Blueprint, Response, request, send_file

from ..core.bounds import DENSITY, NAME, clipped
from ..core.errors import UserError
from ..core.measuring.part_changes import changes_of
from ..core.part.matching import matching
from ..core.part.model import Part
from ..core.part.shape import drawn_edges, shape_bytes
from ..core.projection import camera
from ..core.reading.bringing import parts_of
from ..core.reading.reading import LARGE, SMALL, check_part_file
from ..core.recipe.model import read_recipe, with_values
from ..core.standards.materials import MATERIALS
from ..store.columns import Spoilt
from ..store.shelf import likely_former
from ..store.tables import PartRow
from . import part_schemas as s
from .api import route, services
from .schemas import Problem

parts = Blueprint("parts", __name__)
DEMO = Path(__file__).parents[1] / "demo" / "parts"


def demo_files() -> list[Path]:
    """The files of the parts that ship with the application: as recipes, where there are."""
    files = {p.stem: p for suffix in ("step", "recipe") for p in sorted(DEMO.glob(f"*.{suffix}"))}
    return [files[stem] for stem in sorted(files)]


def _info(row: PartRow, used: dict[str, int], newest: dict[str, str], rows: list[PartRow] | None = None) -> s.PartInfo:
    """What is known of a part, whatever stands in its row; with all ``rows`` also of which it may be a revision."""
    try:
        summary, damaged = s.PartSummary.model_validate(row.summary), ""
        largest = max(summary.size)
    except (ValueError, TypeError):
        summary, damaged, largest = UNKNOWN, "What was read of its file is damaged; bring the same file again.", 1.0
    whole = {name: _text(getattr(row, name)) for name in ("key", "file_name", "name", "number", "material")}
    density = row.density if isinstance(row.density, float) and 0 < row.density < DENSITY else None
    created, directions = row.created, row.directions
    try:
        kept = [s.Direction.model_validate(d) for d in directions]
    except (ValueError, TypeError):
        kept, damaged = [], damaged or "The directions kept with it are damaged; keep them anew."
    volume = sum(b.volume for b in summary.bodies if b.solid)
    return s.PartInfo(
        **whole,
        density=density,
        mass=volume * density / 1000 if density and volume else summary.mass,
        created="" if isinstance(created, Spoilt) else created.isoformat(),
        drawings=used.get(row.key, 0),
        doubtful_unit=not SMALL <= largest <= LARGE,
        directions=kept,
        summary=summary,
        former=_text(row.former),
        newest=newest.get(row.key, ""),
        likely=likely_former(row, rows or []),
        damaged=damaged,
    )


UNKNOWN = s.PartSummary(
    unit="millimetre",
    size=[0.0, 0.0, 0.0],
    volume=0.0,
    area=0.0,
    centroid=[0.0, 0.0, 0.0],
    mass=None,
    bodies=[],
    faces=0,
    edges=0,
    name="",
    number="",
    remarks=[],
)


def _text(value: Any) -> str:
    return str(value.value)[:NAME] if isinstance(value, Spoilt) else str(value or "")


def _used() -> dict[str, int]:
    return Counter(key for drawing in services().store.drawings() for key in drawing.parts)


@route(parts, "GET", "/parts", answer=list[s.PartInfo], query=("search",))
def list_parts() -> list[s.PartInfo]:
    """Parts on the shelf, newest first."""
    store = services().store
    used, newest = _used(), store.newer()
    return [_info(r, used, newest) for r in store.parts(request.args.get("search", ""))]


@route(parts, "GET", "/parts/{key}", answer=s.PartInfo)
def get_part(key: str) -> s.PartInfo:
    """One part."""
    store = services().store
    return _info(store.part(key), _used(), store.newer(), store.parts())


@route(parts, "GET", "/parts/{key}/changes", answer=s.PartChangesJson, query=("since",))
def part_changes(key: str) -> s.PartChangesJson:
    """What differs between a part and another revision of it (``since``)."""
    here = services()
    since = request.args.get("since", "") or _text(here.store.part(key).former)
    if not since:
        raise UserError("There is nothing to compare it with", "Say since which part: since=KEY.")
    rows = [here.store.part(k) for k in (since, key)]
    old, new = (here.projections.part(r.key) for r in rows)
    found = matching(old, new)
    told = changes_of(old, new, found)
    # shapes are about the middles of their boxes
    by = told.turn @ ((old.low + old.high) / 2) + told.by - (new.low + new.high) / 2
    masses = [
        p.volume * r.density / 1000 if r.density and p.volume else p.mass()
        for p, r in zip((old, new), rows, strict=True)
    ]
    return s.PartChangesJson(
        since=since,
        part=key,
        size=[(p.high - p.low).tolist() for p in (old, new)],
        volume=[old.volume, new.volume],
        mass=masses,
        counts=[len(old.faces), len(new.faces)],
        changes=[
            s.FaceChangeJson(change=c.change, words=c.words, before=list(c.before), after=list(c.after))
            for c in told.faces
        ],
        lines_before=_lines(old, told.edges_before),
        lines_after=_lines(new, told.edges_after),
        turn=told.turn.ravel().tolist(),
        by=by.tolist(),
        words=told.words,
        sure=found.sure,
    )


def _lines(part: Part, rows: Iterable[int]) -> list[int]:
    """The places of some edges, by row, among those that are sent with a shape."""
    wanted = {part.edges[row].ref for row in rows}
    return [k for k, edge in enumerate(drawn_edges(part)) if edge.ref in wanted]


@route(parts, "PATCH", "/parts/{key}", body=s.PartChanges, answer=s.PartInfo)
def change_part(key: str, body: s.PartChanges) -> s.PartInfo:
    """Change a part's name, number, material or density."""
    changes = body.model_dump(exclude_unset=True, mode="json")
    seen, former = changes.pop("directions_seen", None), changes.pop("former", None)
    for d in body.directions or []:
        # what does not make a camera is refused before it is kept
        camera(d.toward, d.up)
    if changes.get("material") in MATERIALS and "density" not in changes:
        changes["density"] = MATERIALS[changes["material"]]
    kept = {k: v for k, v in changes.items() if v is not None or k == "density"}
    row = services().store.set_part(key, kept, seen)
    if former is not None:
        row = services().store.revise(key, former)
    if {"material", "density"} & set(kept):
        services().tell_drawings(key, row.material, row.density)
    return _info(row, _used(), services().store.newer(), services().store.parts())


@route(parts, "DELETE", "/parts/{key}", status=200)
def remove_part(key: str) -> dict[str, str]:
    """Take a part off the shelf."""
    services().store.remove_part(key)
    services().workshop.forget(key)
    return {}


@route(parts, "GET", "/parts/{key}/faces", answer=list[s.FacePreview])
def part_faces(key: str) -> list[s.FacePreview]:
    """The six faces of a part as small true pictures."""
    services().store.part(key)
    return services().face_previews(key)


@route(parts, "GET", "/parts/{key}/shape")
def part_shape(key: str) -> Response:
    """A part's mesh and edges, for a look at it in space: see core/part/shape.py for what the bytes are."""
    services().store.part(key)
    data = shape_bytes(services().projections.part(key))
    return Response(data, content_type="application/octet-stream", headers={"Cache-Control": "no-cache"})


@route(parts, "GET", "/materials", answer=list[s.MaterialInfo])
def list_materials() -> list[s.MaterialInfo]:
    """The short list of materials."""
    return [s.MaterialInfo(name=n, density=d) for n, d in MATERIALS.items()]


@route(parts, "POST", "/parts", answer=s.JobInfo, status=202, upload=True, query=("former",))
def bring_part() -> s.JobInfo:
    """Begin to read a part file (multipart form, field ``file``), or several at once: those that name each other are one
    part, and so are those of a zip. What else they hold is told as ``more``. The first is the next revision of a ``former``
    part, where that is named."""
    former = request.args.get("former", "")
    if former:
        services().store.part(former)
    uploads = [u for u in request.files.getlist("file") if u is not None]
    if not uploads:
        raise UserError("No file came along", "Send it as the form field named file.")
    here = services()
    here.check_room(request.content_length or 0)
    with here.workshop.incoming() as folder:
        brought, refused = [], []
        for k, upload in enumerate(uploads):
            name = clipped((upload.filename or "part").replace("\\", "/").rsplit("/", 1)[-1]) or "part"
            path = folder / f"{k}"
            upload.save(path)
            try:
                check_part_file(name, path)
                brought.append((name, path))
            except UserError as error:
                # of several those that are none keep the others from nothing
                if len(uploads) == 1:
                    raise
                refused.append(
                    s.JobInfo(id="", name=name, state="failed", share=1, doing="failed", problem=_told(error))
                )
        # one at a time: what is packed small may be large in memory
        with here.unpacking:
            found = parts_of(brought) if brought else []
            jobs = [here.read(n, source, former="" if k else former) for k, (n, source) in enumerate(found)]
    first, *more = [*(_job(job.id) for job in jobs), *refused]
    return first.model_copy(update={"more": more})


@route(parts, "POST", "/demo-parts", body=s.DemoParts, answer=s.JobInfo, status=202)
def bring_demo_parts(body: s.DemoParts) -> s.JobInfo:
    """Begin to read the parts that ship with the application."""
    first, *more = [_job(services().read(path.name, path).id) for path in demo_files()]
    return first.model_copy(update={"more": more})


@route(parts, "GET", "/parts/{key}/file")
def part_file(key: str) -> Response:
    """The file of a part, as it was brought."""
    here = services().store
    path, row = here.part_file(key), here.part(key)
    return send_file(path, "application/octet-stream", as_attachment=True, download_name=row.file_name)


@route(parts, "POST", "/parts/{key}/readings", body=s.ReadAgain, answer=s.JobInfo, status=202)
def read_again(key: str, body: s.ReadAgain) -> s.JobInfo:
    """Begin to read a part's file as another unit; it becomes a part of its own on the shelf."""
    here = services()
    row = here.store.part(key)
    return _job(here.read(row.file_name, here.store.part_file(key), body.unit).id)


@route(parts, "POST", "/parts/{key}/sizes", body=s.NewSizes, answer=s.JobInfo, status=202)
def build_anew(key: str, body: s.NewSizes) -> s.JobInfo:
    """Begin to build a part anew from its recipe, with other values of some sizes, as its next revision. Where it cannot be
    built the job says at which step and why, and nothing changes."""
    here = services()
    row, path = here.store.part(key), here.store.part_file(key)
    if check_part_file(row.file_name, path) != "recipe":
        raise UserError(f"{row.name} is no recipe", "Only a part that is a recipe is built anew from its sizes.")
    before = path.read_bytes()
    data = with_values(before, body.values, row.file_name, after=key)
    if read_recipe(data, row.file_name).sizes == read_recipe(before, row.file_name).sizes:
        raise UserError("Nothing changes", "The sizes have these values already.")
    here.check_room(len(data))
    return _job(here.read(row.file_name, data, former=key).id)


def _told(error: UserError) -> Problem:
    return Problem(type=f"urn:barequill:{error.kind}", title=error.title, status=error.status, detail=error.detail)


def _job(job_id: str) -> s.JobInfo:
    job = services().workshop.job(job_id)
    share, doing = job.progress()
    problem = None
    if job.state not in ("working", "done") and job.error is not None:
        problem = _told(job.error)
    return s.JobInfo(
        id=job.id,
        name=job.name,
        state=job.state,  # type: ignore[arg-type]
        share=share,
        doing=doing,
        part=job.key if job.state == "done" else None,
        problem=problem,
    )


@route(parts, "GET", "/jobs/{job_id}", answer=s.JobInfo)
def get_job(job_id: str) -> s.JobInfo:
    """How far the reading of a part is; a part that was read is on the shelf from then on."""
    return _job(job_id)


@route(parts, "DELETE", "/jobs/{job_id}", answer=s.JobInfo)
def cancel_job(job_id: str) -> s.JobInfo:
    """Stop reading a part."""
    services().workshop.cancel(job_id)
    return _job(job_id)
