"""A part of the drawing exchanged for another revision of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ...bounds import Figure, Key, Ref
from ...errors import BadOperation
from ..document import Drawing
from .base import AnyOperation

Step = tuple[Figure, Figure, Figure]
MOST = 50_000
WAS = "was"
"""The field of an annotation that tells of another revision."""


class TakeRevision(AnyOperation):
    """Show another revision of a part in all views: what its entities are called there (``refs``), and by how much (mm
    right, up and toward the viewer) the place from which each view counts has moved in it (``steps``, by view). ``turn``: by rows, how the whole
    was turned in its file; the directions of views turn with it. ``scale``: how many times as large it is in it."""

    op: Literal["take_revision"] = "take_revision"
    part: Key
    by: Key
    refs: Annotated[dict[Ref, Ref], Field(max_length=MOST)] = {}
    steps: Annotated[dict[Ref, Step], Field(max_length=MOST)] = {}
    turn: Annotated[tuple[Figure, ...], Field(min_length=9, max_length=9)] | None = None
    scale: Annotated[Figure, Field(gt=0)] = 1.0

    def applied(self, drawing: Drawing) -> Drawing:
        if drawing.part(self.part) is None:
            raise BadOperation("The part is gone", "The drawing does not show it any more.")
        document = drawing.model_dump(mode="json")
        for use in document["parts"]:
            if use["key"] == self.part:
                use["key"] = self.by
        # a part that the drawing shows already is taken up once
        document["parts"] = list({use["key"]: use for use in document["parts"]}.values())
        for thread in document["threads"]:
            if thread["part"] == self.part:
                thread.update(part=self.by, ref=self.refs.get(thread["ref"], thread["ref"]))
        for item in document["items"]:
            if item["part"] == self.part:
                item["part"] = self.by
        for sheet in document["sheets"]:
            own = {v["id"] for v in sheet["views"] if v["part"] == self.part}
            # a table stands on the sheet, and is about a view all the same
            about = {a["id"] for a in sheet["annotations"] if a.get("view") in own}
            hung = _hanging(sheet["annotations"], own) | about
            sheet["annotations"] = [renamed(a, self.refs) if a["id"] in hung else a for a in sheet["annotations"]]
            sheet["views"] = [self._taken(v) if v["id"] in own else v for v in sheet["views"]]
        return Drawing.model_validate(document)

    def _taken(self, view: dict[str, Any]) -> dict[str, Any]:
        """A view of the revision: what is told in mm of it, or of its parent, stays where it is in the part."""
        view = renamed(view, self.refs) | {"part": self.by}
        for way in ("toward", "up"):
            # what is laid flat lies as it is laid, however the part was turned
            if self.turn is not None and way in view and not view.get("flat"):
                rows = (self.turn[0:3], self.turn[3:6], self.turn[6:9])
                view[way] = [sum(t * x for t, x in zip(row, view[way], strict=True)) for row in rows]
        for moved in view.get("apart", []):
            by = moved["by"]
            if self.turn is not None:
                by = [sum(t * a for t, a in zip(self.turn[k : k + 3], by, strict=True)) for k in (0, 3, 6)]
            moved["by"] = [a * self.scale for a in by]
        x, y, z = self.steps.get(view["id"], (0.0, 0.0, 0.0))
        of_parent = self.steps.get(view.get("parent") or "", (0.0, 0.0, 0.0))
        for corner in (view.get("line") or {}).get("corners", []):
            corner["place"] = self._moved(corner["place"], of_parent)
        for cut in view.get("local_cuts", []):
            cut["outline"] = [self._moved(p, (x, y, z)) for p in cut["outline"]]
            cut["depth"] = cut["depth"] * self.scale + z
        for held, step in ((view, of_parent), (view.get("crop") or {}, (x, y, z))):
            if held.get("outline"):
                held["outline"]["centre"] = self._moved(held["outline"]["centre"], step)
        if view.get("cut_at") is not None:
            view["cut_at"] = view["cut_at"] * self.scale + z
        for stretch in view.get("breaks", []):
            along = x if stretch["along"] == "x" else y
            stretch["start"], stretch["end"] = (p * self.scale + along for p in (stretch["start"], stretch["end"]))
        return view

    def _moved(self, place: list[float], step: Step) -> list[float]:
        return [place[0] * self.scale + step[0], place[1] * self.scale + step[1]]

    def words(self) -> str:
        return "Take another revision of the part"


def renamed(value: Any, refs: Mapping[str, str]) -> Any:
    """A document, or a piece of it, with its references called as ``refs`` say; what annotations were keeps the names of then."""
    if isinstance(value, str):
        return refs.get(value, value)
    if isinstance(value, list):
        return [renamed(v, refs) for v in value]
    if isinstance(value, dict):
        return {k: v if k == WAS else renamed(v, refs) for k, v in value.items()}
    return value


def strings(value: Any) -> Iterator[str]:
    """All strings of a document, or a piece of it, but for what annotations were."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for k, v in value.items():
            if k != WAS:
                yield from strings(v)
    elif isinstance(value, list):
        for v in value:
            yield from strings(v)


def _hanging(annotations: list[dict[str, Any]], views: set[str]) -> set[str]:
    """What hangs on some views, or on something that does."""
    found, grown = set(views), True
    while grown:
        more = {a["id"] for a in annotations if a.get("on") in found and a["id"] not in found}
        found |= more
        grown = bool(more)
    return found
