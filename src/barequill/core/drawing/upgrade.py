"""Documents of older versions brought to this one, a step a version."""

from __future__ import annotations

import re
from typing import Any

VERSION = 7


def upgrade(document: dict[str, Any]) -> dict[str, Any]:
    """A document as this version writes it; the given one is left as it is.

    Raises
    ------
    ValueError
        Where it is of a newer version.
    """
    if not isinstance(document, dict):
        raise ValueError("it is no JSON object")
    version = document.get("version", 1)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ValueError(f"its version, {str(version)[:40]!r}, is none: versions are whole numbers from 1 on")
    if version > VERSION:
        raise ValueError(f"version {version} is newer than this Bare Quill knows ({VERSION})")
    if version < 2:
        document = _to_2(document)
    if version < 6:
        document = _to_6(document)
    if version < 7:
        document = _to_7(document)
    # what versions 3 to 5 add (sections; details, auxiliary, broken and cropped views; dimensions in full) has no trace in
    # older documents
    return document if version == VERSION else document | {"version": VERSION}


def _to_6(old: dict[str, Any]) -> dict[str, Any]:
    """One kind of table; a field that is empty in the title block is one that was emptied, not one that fills itself."""
    fields, sheets = old.get("fields"), old.get("sheets")
    new = dict(old)
    if isinstance(fields, dict):
        new["fields"] = {k: v for k, v in fields.items() if v != ""}
    if isinstance(sheets, list):
        new["sheets"] = [_sheet_6(s) if isinstance(s, dict) else s for s in sheets]
    return new


def _to_7(old: dict[str, Any]) -> dict[str, Any]:
    """Lettering of 3.5 mm on large sheets too, as it was drawn on all before."""
    sheets = old.get("sheets")
    sizes = [s.get("size") for s in sheets if isinstance(s, dict)] if isinstance(sheets, list) else []
    return {"lettering": 3.5} | old if {"A0", "A1", "D", "E"}.intersection(sizes) else old


def _sheet_6(old: dict[str, Any]) -> dict[str, Any]:
    annotations = old.get("annotations")
    if not isinstance(annotations, list):
        return old
    return old | {"annotations": [_table_6(a) if isinstance(a, dict) else a for a in annotations]}


def _table_6(old: dict[str, Any]) -> dict[str, Any]:
    if old.get("kind") != "value_table":
        return old
    rows = [[r.get("name", ""), r.get("value", "")] for r in old.get("rows", []) if isinstance(r, dict)]
    kept = {k: v for k, v in old.items() if k in ("id", "on", "heading", "at")}
    return kept | {"kind": "table", "columns": [{}, {}], "rows": rows}


def _to_2(old: dict[str, Any]) -> dict[str, Any]:
    """Views by kind, annotations that hang on something, counts and signs out of prefixes."""
    sheets = []
    for sheet in old.get("sheets") or [{"id": "s1"}]:
        views = {v["id"]: v for v in sheet.get("views", [])}
        sheets.append(
            sheet
            | {
                "views": [_view_2(v, views) for v in sheet.get("views", [])],
                "annotations": [_annotation_2(a) for a in sheet.get("annotations", [])],
            }
        )
    return old | {"version": 2, "sheets": sheets}


_CORNERS = ((1, 1), (-1, 1), (1, -1), (-1, -1))


def _view_2(old: dict[str, Any], views: dict[str, dict[str, Any]]) -> dict[str, Any]:
    new = dict(old)
    look = new.get("look", "front")
    parent = views.get(new.get("parent") or "")
    toward, up = new.pop("toward"), new.pop("up")
    corner = next((c for c in _CORNERS if parent and _alike(toward, _of_corner(parent, c))), None)
    if look == "corner":
        del new["look"]
        if corner is not None and parent is not None and _alike(up, parent["up"]):
            return new | {"kind": "pictorial", "corner": list(corner)}
        return new | {"kind": "free", "toward": toward, "up": up}
    if parent is not None and look != "front" and _alike(toward, _of_side(parent, look)):
        return new | {"kind": "projected", "look": look}
    return new | {"kind": "principal", "look": look, "toward": toward, "up": up}


def _across(view: dict[str, Any]) -> list[float]:
    """The direction to the right of a view, of the length of the two others together."""
    u, d = view["up"], view["toward"]
    return [u[(k + 1) % 3] * d[(k + 2) % 3] - u[(k + 2) % 3] * d[(k + 1) % 3] for k in range(3)]


def _of_side(view: dict[str, Any], look: str) -> list[float]:
    r = _across(view)
    d, u = view["toward"], view["up"]
    sides = {"left": (r, -1), "right": (r, 1), "top": (u, 1), "bottom": (u, -1), "back": (d, -1)}
    v, sign = sides[look]
    return [sign * x for x in v]


def _of_corner(view: dict[str, Any], corner: tuple[int, int]) -> list[float]:
    units = [
        [x / max(sum(y * y for y in v) ** 0.5, 1e-300) for x in v] for v in (view["toward"], _across(view), view["up"])
    ]
    return [d + corner[0] * r + corner[1] * u for d, r, u in zip(*units, strict=True)]


def _alike(a: list[float], b: list[float]) -> bool:
    """True where two directions are one."""
    la, lb = (max(sum(x * x for x in v) ** 0.5, 1e-300) for v in (a, b))
    return all(abs(x / la - y / lb) < 1e-9 for x, y in zip(a, b, strict=True))


def _annotation_2(old: dict[str, Any]) -> dict[str, Any]:
    new = dict(old)
    new["on"] = new.pop("view")
    if new.get("kind", "dimension") != "dimension":
        return new
    prefix = new.get("prefix", "")
    found = re.match(r"(\d{1,4})\s?[×x]\s?(?=$|[^\d])", prefix)
    if found and int(found[1]) >= 1:
        new["count"], prefix = int(found[1]), prefix[found.end() :]
    linear = new.get("measure") in ("length", "distance")
    for mark, sign in (("□", "square"), ("Ø", "diameter"), ("⌀", "diameter")):
        if linear and prefix == mark:
            new["sign"], prefix = sign, ""
    new["prefix"] = prefix
    return new
