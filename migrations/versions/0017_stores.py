"""Stores: acts that move stock and can be undone, transfers between sites, counts, and the place of a shelf."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"

BUCKETS = ("on_hand", "harvested", "quarantine", "scrapped", "returned")
CAUSES = ("opening", "receipt", "fitted", "removed", "reclassified", "sent", "arrived", "counted", "tested", "returned", "scrapped")
MORE_CAUSES = ("found", "quarantined", "released", "disposed", "expired", "lost", "undone")
NEW = ("stock_act", "transfer", "stock_count")


def _known(column: str, values: tuple[str, ...]) -> str:
    listed = ", ".join(f"'{value}'" for value in values)
    return f"{column} IN ({listed})"


def upgrade() -> None:
    for name, values in (("bucket", (*BUCKETS, "under_way")), ("cause", (*CAUSES, *MORE_CAUSES))):
        op.drop_constraint(op.f(f"ck_stock_move_{name}_known"), "stock_move")
        op.create_check_constraint(op.f(f"ck_stock_move_{name}_known"), "stock_move", _known(name, values))
    op.add_column("shelf", sa.Column("place", sa.String(), nullable=True))
    op.create_table(
        "transfer",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("from_site_id", sa.Integer(), nullable=False),
        sa.Column("to_site_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("packed_on", sa.Date(), nullable=False),
        sa.Column("left_on", sa.Date(), nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("arrived_on", sa.Date(), nullable=True),
        sa.Column("arrived", sa.Integer(), nullable=True),
        sa.Column("cancelled_on", sa.Date(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_transfer_quantity_positive")),
        sa.CheckConstraint("from_site_id <> to_site_id", name=op.f("ck_transfer_two_sites")),
        sa.CheckConstraint("arrived >= 0 AND arrived <= quantity", name=op.f("ck_transfer_arrived_within_quantity")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_transfer_part_id_part")),
        sa.ForeignKeyConstraint(["from_site_id"], ["site.id"], name=op.f("fk_transfer_from_site_id_site")),
        sa.ForeignKeyConstraint(["to_site_id"], ["site.id"], name=op.f("fk_transfer_to_site_id_site")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_transfer_author_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_transfer")),
    )
    op.create_table(
        "stock_count",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("booked", sa.Integer(), nullable=False),
        sa.Column("counted", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("counted_on", sa.Date(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("approved_by_id", sa.Integer(), nullable=True),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("counted >= 0", name=op.f("ck_stock_count_counted_not_negative")),
        sa.CheckConstraint(_known("state", ("booked", "waits", "refused")), name=op.f("ck_stock_count_state_known")),
        sa.ForeignKeyConstraint(["shelf_id"], ["shelf.id"], name=op.f("fk_stock_count_shelf_id_shelf")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_stock_count_author_id_user")),
        sa.ForeignKeyConstraint(["approved_by_id"], ["user.id"], name=op.f("fk_stock_count_approved_by_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stock_count")),
    )
    op.create_index("ix_stock_count_shelf_id", "stock_count", ["shelf_id"])
    op.create_table(
        "stock_act",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("done_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("undoes_id", sa.Integer(), nullable=True),
        sa.Column("transfer_id", sa.Integer(), nullable=True),
        sa.Column("count_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_stock_act_author_id_user")),
        sa.ForeignKeyConstraint(["undoes_id"], ["stock_act.id"], name=op.f("fk_stock_act_undoes_id_stock_act")),
        sa.ForeignKeyConstraint(["transfer_id"], ["transfer.id"], name=op.f("fk_stock_act_transfer_id_transfer")),
        sa.ForeignKeyConstraint(["count_id"], ["stock_count.id"], name=op.f("fk_stock_act_count_id_stock_count")),
        sa.UniqueConstraint("undoes_id", name=op.f("uq_stock_act_undoes_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stock_act")),
    )
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON stock_act FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.add_column("stock_move", sa.Column("act_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_stock_move_act_id_stock_act"), "stock_move", "stock_act", ["act_id"], ["id"])
    op.create_index("ix_stock_move_act_id", "stock_move", ["act_id"])
    for table in NEW:
        _mark(table)


def _mark(table: str) -> None:
    op.execute(
        f"CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {table} "
        f"FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE stock_move DISABLE TRIGGER append_only")
    op.drop_index("ix_stock_move_act_id", table_name="stock_move")
    op.drop_constraint(op.f("fk_stock_move_act_id_stock_act"), "stock_move")
    op.drop_column("stock_move", "act_id")
    op.execute("DELETE FROM stock_move WHERE bucket = 'under_way'")
    op.execute(f"UPDATE stock_move SET cause = 'counted' WHERE NOT ({_known('cause', CAUSES)})")
    op.execute("ALTER TABLE stock_move ENABLE TRIGGER append_only")
    op.execute("DELETE FROM shelf_balance WHERE bucket = 'under_way'")
    for table in ("stock_act", "stock_count", "transfer"):
        op.drop_table(table)
    op.drop_column("shelf", "place")
    for name, values in (("bucket", BUCKETS), ("cause", CAUSES)):
        op.drop_constraint(op.f(f"ck_stock_move_{name}_known"), "stock_move")
        op.create_check_constraint(op.f(f"ck_stock_move_{name}_known"), "stock_move", _known(name, values))
