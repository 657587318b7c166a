"""First tables: users, projects, floors, revisions, runs, verdict rows, result arrays."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "users", sa.Column("id", sa.Integer, primary_key=True), sa.Column("name", sa.String(80), nullable=False, unique=True)
    )
    op.create_table(
        "projects", sa.Column("id", sa.Integer, primary_key=True), sa.Column("name", sa.String(120), nullable=False, unique=True)
    )
    op.create_table(
        "floors",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.UniqueConstraint("project_id", "name"),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("floor_id", sa.Integer, sa.ForeignKey("floors.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("line", sa.String(300), nullable=False),
        sa.Column("restores", sa.Integer, nullable=True),
        sa.Column("content", LONGBLOB, nullable=False),
        sa.UniqueConstraint("floor_id", "number"),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("state", sa.String(20), nullable=False),
        sa.Column("engine", sa.String(20), nullable=False),
        sa.Column("begun", DATETIME(fsp=3), nullable=False),
        sa.Column("ended", DATETIME(fsp=3), nullable=True),
        sa.Column("seconds", sa.Double, nullable=True),
        sa.Column("attempts", sa.Integer, nullable=False, server_default="0"),
        sa.Column("told", sa.Text, nullable=False),
    )
    op.create_index("ix_runs_revision", "runs", ["revision_id"])
    op.create_index("ix_runs_state", "runs", ["state"])
    op.create_table(
        "verdict_rows",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id"), nullable=False),
        sa.Column("check_name", sa.String(40), nullable=False),
        sa.Column("utilisation", sa.Double, nullable=True),
        sa.Column("place", sa.String(160), nullable=False),
        sa.Column("combination", sa.String(60), nullable=False),
        sa.Column("status", sa.String(20), nullable=False),
    )
    op.create_table(
        "result_arrays",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id"), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("content", LONGBLOB, nullable=False),
        sa.UniqueConstraint("run_id", "kind"),
    )


def downgrade() -> None:
    for table in ("result_arrays", "verdict_rows", "runs", "revisions", "floors", "projects", "users"):
        op.drop_table(table)
