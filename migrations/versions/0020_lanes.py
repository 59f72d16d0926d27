"""Lanes with a timetable and a word of the company's own; parts with a warranty."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    op.add_column("lane", sa.Column("every_days", sa.Integer(), nullable=True))
    op.add_column("lane", sa.Column("weekdays", postgresql.JSONB(), server_default="[]", nullable=False))
    op.add_column("lane", sa.Column("carrier", sa.String(), server_default="boat", nullable=False))
    op.create_check_constraint(op.f("ck_lane_every_days_positive"), "lane", "every_days > 0")
    op.add_column("part", sa.Column("warranty_days", sa.Integer(), nullable=True))
    op.create_check_constraint(op.f("ck_part_warranty_positive"), "part", "warranty_days > 0")


def downgrade() -> None:
    op.drop_constraint(op.f("ck_part_warranty_positive"), "part")
    op.drop_column("part", "warranty_days")
    op.drop_constraint(op.f("ck_lane_every_days_positive"), "lane")
    for column in ("carrier", "weekdays", "every_days"):
        op.drop_column("lane", column)
