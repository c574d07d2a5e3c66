"""Grades: figures of resins that users typed themselves."""

import sqlalchemy as sa
from alembic import op

revision = "c3"
down_revision = "b2"


def upgrade() -> None:
    op.create_table(
        "grade",
        sa.Column("name", sa.String(60), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("grade")
