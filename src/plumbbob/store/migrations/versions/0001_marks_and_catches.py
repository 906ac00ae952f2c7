"""Marks and catches."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "mark",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("water", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("time", sa.Float(), nullable=False),
        sa.Column("latitude", sa.Float(), nullable=False),
        sa.Column("longitude", sa.Float(), nullable=False),
        sa.Column("position_sd_m", sa.Float()),
        sa.Column("depth_m", sa.Float()),
        sa.Column("bottom_depth_m", sa.Float()),
        sa.Column("seen", sa.Integer(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_mark"),
    )
    op.create_index("ix_mark_time", "mark", ["time"])
    op.create_table(
        "catch",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("mark_id", sa.Integer(), nullable=False),
        sa.Column("time", sa.Float(), nullable=False),
        sa.Column("species", sa.String(), nullable=False),
        sa.Column("length_m", sa.Float()),
        sa.Column("kept", sa.Boolean(), nullable=False),
        sa.Column("rig", sa.String(), nullable=False),
        sa.Column("lure_depth_m", sa.Float()),
        sa.Column("note", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_catch"),
        sa.ForeignKeyConstraint(["mark_id"], ["mark.id"], name="fk_catch_mark_id_mark"),
    )
    op.create_index("ix_catch_mark_id", "catch", ["mark_id"])
    op.create_index("ix_catch_time", "catch", ["time"])


def downgrade() -> None:
    op.drop_table("catch")
    op.drop_table("mark")
