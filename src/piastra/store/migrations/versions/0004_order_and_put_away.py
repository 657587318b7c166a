"""The order of a project's floors, and what was put away."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("floors", sa.Column("place", sa.Integer, nullable=False, server_default="0"))
    op.add_column("floors", sa.Column("put_away", sa.Boolean, nullable=False, server_default=sa.false()))
    op.add_column("projects", sa.Column("put_away", sa.Boolean, nullable=False, server_default=sa.false()))


def downgrade() -> None:
    op.drop_column("projects", "put_away")
    op.drop_column("floors", "put_away")
    op.drop_column("floors", "place")
