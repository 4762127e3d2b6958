"""Numbers of drawings are given out once, also after a drawing was removed."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    # made anew under the old name: SQLite cannot add AUTOINCREMENT to a table, and others refer to this one
    columns = "id, revision, position, document, search, created, changed"
    op.execute("PRAGMA defer_foreign_keys=ON")
    op.create_table(
        "drawings_once",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("search", sa.String, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
        sqlite_autoincrement=True,
    )
    op.execute(f"INSERT INTO drawings_once ({columns}) SELECT {columns} FROM drawings")
    op.drop_table("drawings")
    op.rename_table("drawings_once", "drawings")


def downgrade() -> None:
    raise NotImplementedError("numbers that were given out stay given out")
