"""Lanes with a timetable and a word of the company's own; parts with a warranty; parts issued to a job, kept for planned swaps;
and what was changed in the catalogue."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"


BUCKETS = ("on_hand", "harvested", "quarantine", "scrapped", "returned", "under_way")
CAUSES = (
    *("opening", "receipt", "fitted", "removed", "reclassified", "sent", "arrived", "counted", "tested", "returned", "scrapped"),
    *("found", "quarantined", "released", "disposed", "expired", "lost", "undone"),
)
FITTED_FROM = ("on_hand", "harvested", "quarantine", "scrapped", "returned")


def _known(table: str, column: str, values: tuple[str, ...]) -> None:
    listed = ", ".join(f"'{value}'" for value in values)
    op.drop_constraint(op.f(f"ck_{table}_{column}_known"), table)
    op.create_check_constraint(op.f(f"ck_{table}_{column}_known"), table, f"{column} IN ({listed})")


def upgrade() -> None:
    _known("stock_move", "bucket", (*BUCKETS, "issued"))
    _known("stock_move", "cause", (*CAUSES, "issued"))
    _known("event_line", "fitted_from", (*FITTED_FROM, "issued"))
    for table in ("reservation", "backorder"):
        op.add_column(table, sa.Column("plan_id", sa.Integer(), nullable=True))
        op.create_foreign_key(op.f(f"fk_{table}_plan_id_fleet_plan"), table, "fleet_plan", ["plan_id"], ["id"])
    op.add_column("stock_act", sa.Column("job_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_stock_act_job_id_job"), "stock_act", "job", ["job_id"], ["id"])
    op.create_index("ix_stock_act_job_id", "stock_act", ["job_id"], postgresql_where=sa.text("job_id IS NOT NULL"))
    op.add_column("shelf", sa.Column("topped_up_on", sa.Date(), nullable=True))
    op.add_column("lane", sa.Column("every_days", sa.Integer(), nullable=True))
    op.add_column("lane", sa.Column("weekdays", postgresql.JSONB(), server_default="[]", nullable=False))
    op.add_column("lane", sa.Column("carrier", sa.String(), server_default="boat", nullable=False))
    op.create_check_constraint(op.f("ck_lane_every_days_positive"), "lane", "every_days > 0")
    op.add_column("part", sa.Column("warranty_days", sa.Integer(), nullable=True))
    op.create_check_constraint(op.f("ck_part_warranty_positive"), "part", "warranty_days > 0")

    op.create_table(
        "catalog_change",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("field", sa.String(), nullable=False),
        sa.Column("before", sa.String(), nullable=False),
        sa.Column("after", sa.String(), nullable=False),
        sa.Column("changed_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_catalog_change_author_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_catalog_change")),
    )
    op.create_index("ix_catalog_change_subject", "catalog_change", ["subject"])
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON catalog_change FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.execute(
        "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON catalog_change "
        "FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )


def downgrade() -> None:
    op.drop_table("catalog_change")
    for table in ("backorder", "reservation"):
        op.drop_constraint(op.f(f"fk_{table}_plan_id_fleet_plan"), table)
        op.drop_column(table, "plan_id")
    op.drop_index("ix_stock_act_job_id", table_name="stock_act")
    op.drop_constraint(op.f("fk_stock_act_job_id_job"), "stock_act")
    op.drop_column("stock_act", "job_id")
    for table in ("stock_move", "event_line"):
        op.execute(f"ALTER TABLE {table} DISABLE TRIGGER append_only")
    op.execute("UPDATE stock_move SET bucket = 'on_hand' WHERE bucket = 'issued'")
    op.execute("UPDATE stock_move SET cause = 'counted' WHERE cause = 'issued'")
    op.execute("UPDATE event_line SET fitted_from = 'on_hand' WHERE fitted_from = 'issued'")
    for table in ("stock_move", "event_line"):
        op.execute(f"ALTER TABLE {table} ENABLE TRIGGER append_only")
    op.execute(
        "WITH gone AS (DELETE FROM shelf_balance WHERE bucket = 'issued' RETURNING shelf_id, quantity) "
        "INSERT INTO shelf_balance SELECT shelf_id, 'on_hand', quantity FROM gone WHERE quantity <> 0 "
        "ON CONFLICT (shelf_id, bucket) DO UPDATE SET quantity = shelf_balance.quantity + EXCLUDED.quantity"
    )
    _known("stock_move", "bucket", BUCKETS)
    _known("stock_move", "cause", CAUSES)
    _known("event_line", "fitted_from", FITTED_FROM)
    op.drop_column("shelf", "topped_up_on")
    op.drop_constraint(op.f("ck_part_warranty_positive"), "part")
    op.drop_column("part", "warranty_days")
    op.drop_constraint(op.f("ck_lane_every_days_positive"), "lane")
    for column in ("carrier", "weekdays", "every_days"):
        op.drop_column("lane", column)
