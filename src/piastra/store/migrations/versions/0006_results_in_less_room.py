"""Results are kept in another form; those in the old one, or in the new one on the way back, are computed again."""

from alembic import op

revision = "0006"
down_revision = "0005"

GONE = "DELETE FROM result_arrays WHERE kind <> 'brief'"


def upgrade() -> None:
    op.execute(GONE)


def downgrade() -> None:
    op.execute(GONE)
