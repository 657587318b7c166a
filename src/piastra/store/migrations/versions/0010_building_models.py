"""What of a building model a project has taken in, for the next one to be compared with."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "building_models",
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("made", DATETIME(fsp=3), nullable=False),
        sa.Column("taken", LONGBLOB, nullable=False),
        sa.Column("newest", LONGBLOB, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("building_models")
