"""Who planned what for the fleet and when, and what was withdrawn: what a past day knew of it can be told."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("fleet_plan", sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=True))
    # Of plans without a day of record it is not known when they were made: they are taken as always known, as they were so far.
    op.execute("UPDATE fleet_plan SET recorded_at = '2000-01-01T00:00:00Z'")
    op.alter_column("fleet_plan", "recorded_at", nullable=False, server_default=sa.func.now())
    op.add_column("fleet_plan", sa.Column("withdrawn_at", sa.DateTime(timezone=True), nullable=True))
    for column in ("author_id", "withdrawn_by_id"):
        op.add_column("fleet_plan", sa.Column(column, sa.Integer(), nullable=True))
        op.create_foreign_key(op.f(f"fk_fleet_plan_{column}_user"), "fleet_plan", "user", [column], ["id"])
    op.create_check_constraint(op.f("ck_fleet_plan_withdrawn_after_recorded"), "fleet_plan", "withdrawn_at >= recorded_at")


def downgrade() -> None:
    op.drop_constraint(op.f("ck_fleet_plan_withdrawn_after_recorded"), "fleet_plan")
    for column in ("author_id", "withdrawn_by_id"):
        op.drop_constraint(op.f(f"fk_fleet_plan_{column}_user"), "fleet_plan")
        op.drop_column("fleet_plan", column)
    op.drop_column("fleet_plan", "withdrawn_at")
    op.drop_column("fleet_plan", "recorded_at")
