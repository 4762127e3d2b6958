"""Signs and notes kept under a name, for any drawing."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "own_signs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("annotations", sa.JSON, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("own_signs")
