"""Moments on the water."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "moment",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("water", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("time", sa.Float(), nullable=False),
        sa.Column("latitude", sa.Float(), nullable=True),
        sa.Column("longitude", sa.Float(), nullable=True),
        sa.Column("fish_depth_m", sa.Float(), nullable=True),
        sa.Column("bottom_depth_m", sa.Float(), nullable=True),
        sa.Column("lure_depth_m", sa.Float(), nullable=True),
        sa.Column("rig", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("is_open", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_moment"),
    )
    op.create_index("ix_moment_time", "moment", ["time"])


def downgrade() -> None:
    op.drop_table("moment")
