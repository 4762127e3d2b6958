"""Of each step what it changed, packed, and a whole document now and then; documents that cannot be read stay as they are."""

import json
import zlib
from collections.abc import Callable
from typing import Any

import sqlalchemy as sa
from alembic import op

from barequill.core.drawing.differences import difference

revision = "0004"
down_revision = "0003"
EVERY = 64


def _read(text: Any) -> dict[str, Any] | None:
    """The document of a text, None where there is none in it."""
    try:
        found = json.loads(text)
    except (ValueError, TypeError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


def _bytes(text: Any) -> bytes:
    return text if isinstance(text, bytes) else str(text).encode(errors="surrogateescape")


def _number(value: Any, otherwise: int = 0) -> int:
    return value if isinstance(value, int) and abs(value) < 2**62 else otherwise


def _keys(document: dict[str, Any] | None) -> list[str]:
    parts = document.get("parts") if document else None
    return [p["key"] for p in parts or [] if isinstance(p, dict) and isinstance(p.get("key"), str)]


def upgrade() -> None:
    connection = op.get_bind()
    run = connection.exec_driver_sql
    for table in ("drawings", "steps", "acts"):
        run(f"ALTER TABLE {table} RENAME TO old_{table}")
    run("DROP INDEX steps_of_drawing")
    run("DROP INDEX acts_of_drawing")
    run("CREATE UNIQUE INDEX old_order ON old_steps (drawing_id, position)")
    op.create_table(
        "drawings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("last_id", sa.Integer, nullable=False),
        sa.Column("parts", sa.String, nullable=False),
        sa.Column("about", sa.String, nullable=True),
        sa.Column("search", sa.String, nullable=False),
        sa.Column("created", sa.String, nullable=False),
        sa.Column("changed", sa.String, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "steps",
        sa.Column("drawing_id", sa.Integer, sa.ForeignKey("drawings.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("position", sa.Integer, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("whole", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("parts", sa.String, nullable=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("at", sa.String, nullable=False),
    )
    op.create_table(
        "acts",
        sa.Column("drawing_id", sa.Integer, sa.ForeignKey("drawings.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sqlite_with_rowid=False,
    )
    ids = [r[0] for r in run("SELECT id FROM old_drawings ORDER BY id")]
    for number in ids:
        _one(run, number)
    run(
        "INSERT OR REPLACE INTO acts SELECT drawing_id, revision, label FROM old_acts WHERE drawing_id IN (SELECT id FROM drawings)"
    )
    # no number is given out again, also not that of a drawing that was removed
    last = run("SELECT seq FROM sqlite_sequence WHERE name = 'old_drawings'").scalar() or 0
    run("DELETE FROM sqlite_sequence WHERE name = 'drawings'")
    run("INSERT INTO sqlite_sequence (name, seq) VALUES ('drawings', ?)", (max(last, *ids, 0) if ids else last,))
    for table in ("acts", "steps", "drawings"):
        run(f"DROP TABLE old_{table}")


def _one(run: Callable[..., Any], number: int) -> None:
    """A drawing with all its steps."""
    row = run(
        "SELECT revision, position, document, search, created, changed FROM old_drawings WHERE id = ?", (number,)
    ).one()
    standing, at = _read(row[2]), _number(row[1])
    known = [_number((standing or {}).get("last_id"))]
    run(
        "INSERT INTO drawings VALUES (?, ?, ?, 0, ?, NULL, ?, ?, ?)",
        (number, _number(row[0], 1), at, json.dumps(_keys(standing)), row[3] or "", row[4] or "", row[5] or ""),
    )
    before: dict[str, Any] | None = None
    keys: list[str] | None = None
    since = 0
    places = [r[0] for r in run("SELECT position FROM old_steps WHERE drawing_id = ? ORDER BY position", (number,))]
    sound = [p for p in places if _number(p, -1) == p]
    if at not in sound:
        sound = sorted([*sound, at])
    # a step whose place is damaged is kept behind the others
    places = [(p, p) for p in sound] + [
        (p, sound[-1] + 1 + k) for k, p in enumerate(p for p in places if p not in sound)
    ]
    for was, place in places:
        found = run(
            "SELECT label, document, at FROM old_steps WHERE drawing_id = ? AND position IS ? LIMIT 1", (number, was)
        ).one_or_none()
        label, text, when = found or ("As it stands", row[2], row[5])
        document = _read(text)
        if document is None and place == at and standing is not None:
            text, document = row[2], standing
        data, whole = None, 1
        if document is not None:
            known.append(_number(document.get("last_id")))
            fitting = before is not None and since < EVERY and before.get("version", 1) == document.get("version", 1)
            if fitting:
                data, whole = json.dumps(difference(before, document), separators=(",", ":")).encode(), 0
        since = 0 if whole else since + 1
        shown = _keys(document) if document is not None else None
        values = (
            number,
            place,
            label if isinstance(label, str) else str(label),
            whole,
            _number((document or {}).get("version", 1), 0),
            json.dumps(shown) if shown is not None and shown != keys else None,
            zlib.compress(data if data is not None else _bytes(text), 6),
            when or "",
        )
        run("INSERT INTO steps VALUES (?, ?, ?, ?, ?, ?, ?, ?)", values)
        before, keys = document, shown if shown is not None else keys
    run("UPDATE drawings SET last_id = ? WHERE id = ?", (max(known), number))


def downgrade() -> None:
    raise NotImplementedError("put back the copy of the database that was made before")
