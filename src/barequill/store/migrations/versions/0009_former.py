"""Of which part of the shelf a part is a newer revision."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.add_column("parts", sa.Column("former", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("parts", "former")
