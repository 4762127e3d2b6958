"""What was issued is kept."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "issues",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("drawing_id", sa.Integer, nullable=False),
        sa.Column("letter", sa.String, nullable=False),
        sa.Column("about", sa.String, nullable=False),
        sa.Column("files", sa.String, nullable=False),
        sa.Column("created", sa.String, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_index("issues_of", "issues", ["drawing_id", "letter"], unique=True)


def downgrade() -> None:
    op.drop_table("issues")
