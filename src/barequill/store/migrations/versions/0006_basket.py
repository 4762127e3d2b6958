"""Drawings that were removed are kept in a basket for a while."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("drawings", sa.Column("removed", sa.String, nullable=True))


def downgrade() -> None:
    op.drop_column("drawings", "removed")
