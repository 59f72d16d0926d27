"""Settings with the reason they were decided for."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.add_column("setting", sa.Column("reason", sa.String(), server_default="", nullable=False))


def downgrade() -> None:
    op.drop_column("setting", "reason")
