"""Comments on floors, and checks that somebody answers for."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, DOUBLE

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "comments",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("floor_id", sa.Integer, sa.ForeignKey("floors.id"), nullable=False, index=True),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("x", DOUBLE, nullable=True),
        sa.Column("y", DOUBLE, nullable=True),
        sa.Column("answers_id", sa.Integer, sa.ForeignKey("comments.id", ondelete="CASCADE"), nullable=True),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("settled_by_id", sa.Integer, sa.ForeignKey("users.id"), nullable=True),
    )
    op.create_table(
        "signatures",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("floor_id", sa.Integer, sa.ForeignKey("floors.id"), nullable=False, index=True),
        sa.Column("check_name", sa.String(40), nullable=False),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("note", sa.String(400), nullable=False, server_default=""),
        sa.Column("computes", sa.String(64), nullable=True),
        sa.Column("mark", sa.String(64), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("signatures")
    op.drop_table("comments")
