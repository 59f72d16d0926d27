"""A sign-in knows its browser and when it was used last."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    op.add_column("web_session", sa.Column("device", sa.String(), server_default="", nullable=False))
    op.alter_column("web_session", "device", server_default=None)
    op.add_column("web_session", sa.Column("seen_at", sa.DateTime(timezone=True)))


def downgrade() -> None:
    op.drop_column("web_session", "seen_at")
    op.drop_column("web_session", "device")
