"""Answers given in practice."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "practice_answer",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("time", sa.Float(), nullable=False),
        sa.Column("skill", sa.String(), nullable=False),
        sa.Column("difficulty", sa.Float(), nullable=False),
        sa.Column("right", sa.Boolean(), nullable=False),
        sa.Column("score", sa.Float(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("extra", sa.String(), nullable=False),
        sa.Column("batch", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_practice_answer"),
    )
    op.create_index("ix_practice_answer_time", "practice_answer", ["time"])
