"""Notes that tune the rig."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "rig_note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("time", sa.Float(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("depth_m", sa.Float(), nullable=False),
        sa.Column("value", sa.Float(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("rod", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_rig_note"),
    )
    op.create_index("ix_rig_note_time", "rig_note", ["time"])


def downgrade() -> None:
    op.drop_table("rig_note")
