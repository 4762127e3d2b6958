"""Words that the sheets of a drawing show, by which it is found, and what it is filed under."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("drawings", sa.Column("shown", sa.String, nullable=False, server_default=""))
    op.add_column("drawings", sa.Column("tags", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("drawings", "tags")
    op.drop_column("drawings", "shown")
