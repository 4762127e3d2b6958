"""What a house keeps for all its drawings: templates, and its ways."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "kept",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("data", sa.JSON, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("kept")
