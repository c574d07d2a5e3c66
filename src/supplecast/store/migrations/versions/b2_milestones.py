"""Milestones: names given to revisions."""

import sqlalchemy as sa
from alembic import op

revision = "b2"
down_revision = "a1"


def upgrade() -> None:
    op.create_table(
        "milestone",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("document_id", sa.String(64), sa.ForeignKey("document.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.UniqueConstraint("document_id", "number"),
    )
    op.create_index("ix_milestone_document_id", "milestone", ["document_id"])


def downgrade() -> None:
    op.drop_table("milestone")
