"""Studies of a project, with a row for each of their variants."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "studies",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False, index=True),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("stopped", sa.Boolean, nullable=False),
        sa.Column("content", LONGBLOB, nullable=False),
    )
    op.create_table(
        "variants",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studies.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("content", LONGBLOB, nullable=True),
        sa.UniqueConstraint("study_id", "number"),
    )


def downgrade() -> None:
    op.drop_table("variants")
    op.drop_table("studies")
