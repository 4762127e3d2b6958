"""Directions from which a part is looked at, kept with it under names."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("parts", sa.Column("directions", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("parts", "directions")
