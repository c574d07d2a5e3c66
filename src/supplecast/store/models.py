"""The tables. A document's content lives in its revisions, which are written once and never changed."""

from __future__ import annotations

import datetime

from sqlalchemy import ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def now() -> datetime.datetime:
    return datetime.datetime.now(datetime.UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    pass


class ProjectRow(Base):
    __tablename__ = "project"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    made: Mapped[datetime.datetime] = mapped_column(default=now)
    gone: Mapped[bool] = mapped_column(default=False)
    documents: Mapped[list[DocumentRow]] = relationship(back_populates="project", order_by="DocumentRow.made")


class DocumentRow(Base):
    """`head` is the revision shown now; `tip` the newest one, to which redo leads back."""

    __tablename__ = "document"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    kind: Mapped[str] = mapped_column(String(8))
    name: Mapped[str] = mapped_column(String(120))
    head: Mapped[int] = mapped_column(default=0)
    tip: Mapped[int] = mapped_column(default=0)
    made: Mapped[datetime.datetime] = mapped_column(default=now)
    changed: Mapped[datetime.datetime] = mapped_column(default=now)
    gone: Mapped[bool] = mapped_column(default=False)
    project: Mapped[ProjectRow] = relationship(back_populates="documents")


class RevisionRow(Base):
    """One state of a document. `number` counts within the document; `parent` is the number it was made from."""

    __tablename__ = "revision"
    __table_args__ = (UniqueConstraint("document_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    number: Mapped[int]
    parent: Mapped[int | None]
    content: Mapped[str] = mapped_column(Text)
    change: Mapped[str] = mapped_column(String(200))
    made: Mapped[datetime.datetime] = mapped_column(default=now)


class MilestoneRow(Base):
    """A name given to one revision of a document."""

    __tablename__ = "milestone"
    __table_args__ = (UniqueConstraint("document_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    number: Mapped[int]
    name: Mapped[str] = mapped_column(String(80))
    made: Mapped[datetime.datetime] = mapped_column(default=now)


class GradeRow(Base):
    """A grade of one's own, as JSON."""

    __tablename__ = "grade"

    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    changed: Mapped[datetime.datetime] = mapped_column(default=now)


class AssetRow(Base):
    """An imported file, kept under its SHA-256 beside the database."""

    __tablename__ = "asset"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    size: Mapped[int]
    made: Mapped[datetime.datetime] = mapped_column(default=now)
