"""What changed between two documents, as plain values: small where little changed, whatever the document holds.

A difference is ``{"v": value}`` (replaced whole), ``{"d": {key: difference}, "x": [keys]}`` (fields changed, fields gone),
or ``{"e": {id: difference}, "x": [ids], "a": [[place, value]]}`` (of a list of things with ids: changed, gone, and added
at their places in the list as it became); what is empty is left out. None stands for no difference.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel

Difference = dict[str, Any]


def difference(before: Any, after: Any) -> Difference | None:
    """What makes ``after`` of ``before``: models of the document or their plain values, None where they are the same.

    What is one and the same object in both is not looked into, so that the time goes by what changed.
    """
    if before is after:
        return None
    if isinstance(before, BaseModel) and type(before) is type(after):
        return _of_fields(
            {name: getattr(before, name) for name in type(before).model_fields},
            {name: getattr(after, name) for name in type(after).model_fields},
        )
    if isinstance(before, dict) and isinstance(after, dict):
        return _of_fields(before, after)
    if isinstance(before, list) and isinstance(after, list):
        found = _of_things(before, after)
        if found is not None:
            return found or None
    if isinstance(before, BaseModel) or isinstance(after, BaseModel) or type(before) is not type(after):
        return None if plain(before) == plain(after) else {"v": plain(after)}
    return None if before == after else {"v": plain(after)}


def plain(value: Any) -> Any:
    """A value of the document as JSON has it."""
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, dict):
        return {k: plain(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return value


def _of_fields(before: dict[str, Any], after: dict[str, Any]) -> Difference | None:
    gone = [k for k in before if k not in after]
    inner = {k: {"v": plain(v)} if k not in before else difference(before[k], v) for k, v in after.items()}
    changed = {k: d for k, d in inner.items() if d is not None}
    found: Difference = ({"d": changed} if changed else {}) | ({"x": gone} if gone else {})
    return found or None


def _id_of(thing: Any) -> Any:
    return thing.get("id") if isinstance(thing, dict) else getattr(thing, "id", None)


def _ids_of(things: Sequence[Any]) -> list[str] | None:
    """The ids of all, None where one has none or two have the same."""
    ids = [_id_of(t) for t in things]
    return ids if all(isinstance(i, str) for i in ids) and len(set(ids)) == len(ids) else None


def _of_things(before: list[Any], after: list[Any]) -> Difference | None:
    """The difference of two lists of things with ids; empty where there is none, None where the lists have things without ids, or ids twice."""
    quick = _of_models(before, after)
    if quick is not None:
        return quick
    old_ids, new_ids = _ids_of(before), _ids_of(after)
    if old_ids is None or new_ids is None:
        return None
    old, new = dict(zip(old_ids, before, strict=True)), set(new_ids)
    kept = [i for i in old_ids if i in new]
    if kept != [i for i in new_ids if i in old]:
        return None
    gone = [i for i in old_ids if i not in new]
    added = [[k, plain(t)] for k, (i, t) in enumerate(zip(new_ids, after, strict=True)) if i not in old]
    inner = ((i, difference(old[i], t)) for i, t in zip(new_ids, after, strict=True) if i in old and old[i] is not t)
    changed = {i: d for i, d in inner if d is not None}
    return ({"e": changed} if changed else {}) | ({"x": gone} if gone else {}) | ({"a": added} if added else {})


def _of_models(before: list[Any], after: list[Any]) -> Difference | None:
    """The difference where each of ``before`` is still at its place: no two of a sheet have the same id. None where that
    is not so."""
    most = len(before)
    if most > len(after) or not (after and isinstance(after[0], BaseModel) and isinstance(_id_of(after[0]), str)):
        return None
    others = [(a, b) for a, b in zip(before, after, strict=False) if a is not b]
    if any(_id_of(a) is None or _id_of(a) != _id_of(b) for a, b in others):
        return None
    inner = ((b.id, difference(a, b)) for a, b in others)
    changed = {i: d for i, d in inner if d is not None}
    added = [[k, plain(after[k])] for k in range(most, len(after))]
    return ({"e": changed} if changed else {}) | ({"a": added} if added else {})


def changed_by(before: Any, change: Difference | None) -> Any:
    """The plain value that a difference makes of another, which is left as it is.

    Raises
    ------
    ValueError
        Where the difference is not one of that value.
    """
    if change is None:
        return before
    if "v" in change:
        return change["v"]
    try:
        if isinstance(before, list):
            gone, inner = set(change.get("x", ())), change.get("e", {})
            found = [changed_by(t, inner.get(t["id"])) for t in before if t["id"] not in gone]
            for place, value in change.get("a", ()):
                found.insert(place, value)
            return found
        gone = set(change.get("x", ()))
        fields = {k: v for k, v in before.items() if k not in gone}
        for key, inner in change.get("d", {}).items():
            fields[key] = changed_by(fields.get(key), inner)
        return fields
    except (TypeError, KeyError, AttributeError) as error:
        raise ValueError("a difference that does not belong to this document") from error
