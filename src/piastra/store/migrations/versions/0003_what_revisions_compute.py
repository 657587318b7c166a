"""What revisions compute: those that share it share their results."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("revisions", sa.Column("computes", sa.String(64), nullable=True))


def downgrade() -> None:
    op.drop_column("revisions", "computes")
