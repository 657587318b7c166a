"""Second factors of people, what happened to their accounts, and the browsers of their sign-ins."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0007"
down_revision = "0006"

USER_COLUMNS = ("factor", "factor_step", "spare")


def upgrade() -> None:
    op.add_column("users", sa.Column("factor", sa.String(200), nullable=True))
    op.add_column("users", sa.Column("factor_step", sa.Integer, nullable=True))
    op.add_column("users", sa.Column("spare", sa.String(700), nullable=True))
    op.add_column("sign_ins", sa.Column("browser", sa.String(60), nullable=False, server_default=""))
    op.create_table(
        "notices",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id"), nullable=False, index=True),
        sa.Column("at", DATETIME(fsp=3), nullable=False),
        sa.Column("what", sa.String(160), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("notices")
    op.drop_column("sign_ins", "browser")
    for name in USER_COLUMNS:
        op.drop_column("users", name)
