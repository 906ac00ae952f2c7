"""Tables of the log. Changes of shape go through migrations/, never through here alone."""

from __future__ import annotations

from sqlalchemy import ForeignKey, MetaData
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """All tables; constraints are named so that migrations can address them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class MarkRow(Base):
    """One mark."""

    __tablename__ = "mark"

    id: Mapped[int] = mapped_column(primary_key=True)
    water: Mapped[str]
    kind: Mapped[str]
    time: Mapped[float] = mapped_column(index=True)
    latitude: Mapped[float]
    longitude: Mapped[float]
    position_sd_m: Mapped[float | None]
    depth_m: Mapped[float | None]
    bottom_depth_m: Mapped[float | None]
    seen: Mapped[int]
    source: Mapped[str]
    note: Mapped[str]


class CatchRow(Base):
    """One catch, at a mark."""

    __tablename__ = "catch"

    id: Mapped[int] = mapped_column(primary_key=True)
    mark_id: Mapped[int] = mapped_column(ForeignKey("mark.id"), index=True)
    time: Mapped[float] = mapped_column(index=True)
    species: Mapped[str]
    length_m: Mapped[float | None]
    kept: Mapped[bool]
    rig: Mapped[str]
    lure_depth_m: Mapped[float | None]
    note: Mapped[str]


class MomentRow(Base):
    """Something that happened on the water."""

    __tablename__ = "moment"

    id: Mapped[int] = mapped_column(primary_key=True)
    water: Mapped[str]
    kind: Mapped[str]
    time: Mapped[float] = mapped_column(index=True)
    latitude: Mapped[float | None]
    longitude: Mapped[float | None]
    fish_depth_m: Mapped[float | None]
    bottom_depth_m: Mapped[float | None]
    lure_depth_m: Mapped[float | None]
    rig: Mapped[str]
    source: Mapped[str]
    note: Mapped[str]
    is_open: Mapped[bool]


class RigNoteRow(Base):
    """What happened with a rod, as it was rigged then; the rod as JSON, so that it outlives changes of the box."""

    __tablename__ = "rig_note"

    id: Mapped[int] = mapped_column(primary_key=True)
    time: Mapped[float] = mapped_column(index=True)
    told: Mapped[str]
    depth_m: Mapped[float]
    value: Mapped[float]
    words: Mapped[str]
    rod: Mapped[str]
