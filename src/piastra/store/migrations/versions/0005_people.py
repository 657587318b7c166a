"""People with passwords, their roles in projects, invitations, sign-ins and tokens; names of projects may be the same."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0005"
down_revision = "0004"

USER_COLUMNS = ("email", "password", "administrator", "begins", "barred")


def upgrade() -> None:
    op.add_column("users", sa.Column("email", sa.String(254), nullable=True))
    op.add_column("users", sa.Column("password", sa.String(200), nullable=True))
    for flag in ("administrator", "begins", "barred"):
        op.add_column("users", sa.Column(flag, sa.Boolean, nullable=False, server_default=sa.false()))
    op.create_unique_constraint("uq_users_email", "users", ["email"])
    op.create_table(
        "attempts",
        sa.Column("mark", sa.String(64), primary_key=True),
        sa.Column("failures", sa.Integer, nullable=False, server_default="0"),
        sa.Column("last", DATETIME(fsp=3), nullable=False),
        sa.Column("wait_until", DATETIME(fsp=3), nullable=True),
    )
    op.create_table(
        "memberships",
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), primary_key=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id"), primary_key=True),
        sa.Column("role", sa.String(20), nullable=False),
    )
    op.create_table(
        "invitations",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id"), nullable=True),
        sa.Column("role", sa.String(20), nullable=True),
        sa.Column("note", sa.String(120), nullable=False, server_default=""),
        sa.Column("made_by_id", sa.Integer, sa.ForeignKey("users.id"), nullable=True),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("expires", DATETIME(fsp=3), nullable=False),
        sa.Column("used", DATETIME(fsp=3), nullable=True),
    )
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("before", sa.String(64), nullable=True, index=True),
        sa.Column("guard", sa.String(64), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("turned", DATETIME(fsp=3), nullable=False),
        sa.Column("seen", DATETIME(fsp=3), nullable=False),
    )
    op.create_table(
        "tokens",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("reads_only", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("expires", DATETIME(fsp=3), nullable=False),
        sa.Column("used", DATETIME(fsp=3), nullable=True),
    )
    op.drop_index("name", table_name="projects")


def downgrade() -> None:
    # Names that are the same now get their number behind them.
    op.execute(
        "UPDATE projects p JOIN (SELECT name, MIN(id) AS first FROM projects GROUP BY name HAVING COUNT(*) > 1) d "
        "ON p.name = d.name AND p.id > d.first SET p.name = CONCAT(LEFT(p.name, 105), ' (', p.id, ')')"
    )
    op.create_unique_constraint("name", "projects", ["name"])
    for table in ("tokens", "sign_ins", "invitations", "memberships", "attempts"):
        op.drop_table(table)
    op.drop_constraint("uq_users_email", "users", type_="unique")
    for column in USER_COLUMNS:
        op.drop_column("users", column)
