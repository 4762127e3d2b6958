"""First tables: parts, drawings, steps, acts."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "parts",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("file_name", sa.String(300), nullable=False),
        sa.Column("name", sa.String(300), nullable=False),
        sa.Column("number", sa.String(300), nullable=False),
        sa.Column("material", sa.String(200), nullable=False),
        sa.Column("density", sa.Float, nullable=True),
        sa.Column("summary", sa.JSON, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    op.create_table(
        "drawings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("search", sa.String, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
    )
    op.create_table(
        "steps",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("drawing_id", sa.Integer, sa.ForeignKey("drawings.id", ondelete="CASCADE"), nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("operation", sa.JSON, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_index("steps_of_drawing", "steps", ["drawing_id", "position"], unique=True)
    op.create_table(
        "acts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("drawing_id", sa.Integer, sa.ForeignKey("drawings.id", ondelete="CASCADE"), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("label", sa.String, nullable=False),
    )
    op.create_index("acts_of_drawing", "acts", ["drawing_id", "revision"])


def downgrade() -> None:
    for table in ("acts", "steps", "drawings", "parts"):
        op.drop_table(table)
