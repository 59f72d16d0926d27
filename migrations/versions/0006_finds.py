"""Failures found at a check: the last day on which the part was seen in order."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("event_revision", sa.Column("last_good_on", sa.Date(), nullable=True))
    op.create_check_constraint(op.f("ck_event_revision_last_good_before"), "event_revision", "last_good_on < occurred_on")
    op.create_index("ix_event_revision_last_good_on", "event_revision", ["id"], postgresql_where=sa.text("last_good_on IS NOT NULL"))


def downgrade() -> None:
    op.drop_index("ix_event_revision_last_good_on", "event_revision")
    op.drop_constraint(op.f("ck_event_revision_last_good_before"), "event_revision")
    op.drop_column("event_revision", "last_good_on")
