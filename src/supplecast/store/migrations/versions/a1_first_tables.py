"""Projects, documents, revisions and assets."""

import sqlalchemy as sa
from alembic import op

revision = "a1"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "project",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.Column("gone", sa.Boolean, nullable=False),
    )
    op.create_table(
        "document",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("tip", sa.Integer, nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
        sa.Column("gone", sa.Boolean, nullable=False),
    )
    op.create_index("ix_document_project_id", "document", ["project_id"])
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("document_id", sa.String(64), sa.ForeignKey("document.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer, nullable=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("change", sa.String(200), nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.UniqueConstraint("document_id", "number"),
    )
    op.create_index("ix_revision_document_id", "revision", ["document_id"])
    op.create_table(
        "asset",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    for table in ("asset", "revision", "document", "project"):
        op.drop_table(table)
