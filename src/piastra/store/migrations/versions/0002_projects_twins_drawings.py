"""Project revisions; floors that follow others, with their levels; underlaid drawings."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "project_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("line", sa.String(300), nullable=False),
        sa.Column("restores", sa.Integer),
        sa.Column("content", LONGBLOB, nullable=False),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.add_column("floors", sa.Column("follows_id", sa.Integer, sa.ForeignKey("floors.id")))
    op.add_column("floors", sa.Column("level", sa.String(60)))
    op.add_column("floors", sa.Column("begins", sa.Integer, nullable=False, server_default="1"))
    op.add_column("revisions", sa.Column("carried", sa.Boolean, nullable=False, server_default=sa.false()))
    op.create_table(
        "drawings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("floor_id", sa.Integer, sa.ForeignKey("floors.id"), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("content", LONGBLOB, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("drawings")
    op.drop_column("revisions", "carried")
    # The database named this one itself.
    op.drop_constraint("floors_ibfk_2", "floors", type_="foreignkey")
    for column in ("begins", "level", "follows_id"):
        op.drop_column("floors", column)
    op.drop_table("project_revisions")
