"""Orders as documents: drafts, approvals above a limit, price breaks, what the supplier answered, receipts that can be undone."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0019"
down_revision = "0018"

NEW = ("price_break", "order_draft", "order_draft_line", "supplier_answer")
UNDONE = "(quantity > 0 AND undoes_id IS NULL) OR (quantity < 0 AND undoes_id IS NOT NULL)"


def upgrade() -> None:
    op.create_table(
        "price_break",
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("from_quantity", sa.Integer(), nullable=False),
        sa.Column("price", sa.Numeric(12, 2), nullable=False),
        sa.CheckConstraint("from_quantity > 1", name=op.f("ck_price_break_more_than_one")),
        sa.CheckConstraint("price >= 0", name=op.f("ck_price_break_price_not_negative")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_price_break_part_id_part")),
        sa.PrimaryKeyConstraint("part_id", "from_quantity", name=op.f("pk_price_break")),
    )
    _drafts()
    op.add_column("purchase_order", sa.Column("approved_by_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_purchase_order_approved_by_id_user"), "purchase_order", "user", ["approved_by_id"], ["id"])
    op.add_column("purchase_order", sa.Column("note", sa.String(), server_default="", nullable=False))
    op.add_column("purchase_line", sa.Column("confirmed_on", sa.Date(), nullable=True))
    op.add_column("receipt", sa.Column("serials", postgresql.JSONB(), server_default="[]", nullable=False))
    op.add_column("receipt", sa.Column("reason", sa.String(), server_default="", nullable=False))
    op.add_column("receipt", sa.Column("undoes_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_receipt_undoes_id_receipt"), "receipt", "receipt", ["undoes_id"], ["id"])
    op.create_unique_constraint(op.f("uq_receipt_undoes_id"), "receipt", ["undoes_id"])
    op.drop_constraint(op.f("ck_receipt_quantity_positive"), "receipt")
    op.create_check_constraint(op.f("ck_receipt_undone_below_zero"), "receipt", UNDONE)
    _answers()
    for table in NEW:
        op.execute(
            f"CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {table} "
            f"FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
        )


def _drafts() -> None:
    op.create_table(
        "order_draft",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("supplier_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("note", sa.String(), server_default="", nullable=False),
        sa.Column("asked_on", sa.Date(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("sent_by_id", sa.Integer(), nullable=True),
        sa.Column("decided_by_id", sa.Integer(), nullable=True),
        sa.Column("decided_on", sa.Date(), nullable=True),
        sa.Column("decision", sa.String(), server_default="", nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=True),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("state IN ('draft', 'waits', 'refused', 'sent', 'dropped')", name=op.f("ck_order_draft_state_known")),
        sa.ForeignKeyConstraint(["supplier_id"], ["supplier.id"], name=op.f("fk_order_draft_supplier_id_supplier")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_order_draft_author_id_user")),
        sa.ForeignKeyConstraint(["sent_by_id"], ["user.id"], name=op.f("fk_order_draft_sent_by_id_user")),
        sa.ForeignKeyConstraint(["decided_by_id"], ["user.id"], name=op.f("fk_order_draft_decided_by_id_user")),
        sa.ForeignKeyConstraint(["order_id"], ["purchase_order.id"], name=op.f("fk_order_draft_order_id_purchase_order")),
        sa.UniqueConstraint("order_id", name=op.f("uq_order_draft_order_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_order_draft")),
    )
    op.create_table(
        "order_draft_line",
        sa.Column("draft_id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_order_draft_line_quantity_positive")),
        sa.ForeignKeyConstraint(["draft_id"], ["order_draft.id"], name=op.f("fk_order_draft_line_draft_id_order_draft")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_order_draft_line_part_id_part")),
        sa.PrimaryKeyConstraint("draft_id", "part_id", name=op.f("pk_order_draft_line")),
    )


def _answers() -> None:
    op.create_table(
        "supplier_answer",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("line_id", sa.Integer(), nullable=False),
        sa.Column("reply", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=True),
        sa.Column("expected_on", sa.Date(), nullable=True),
        sa.Column("price", sa.Numeric(12, 2), nullable=True),
        sa.Column("part_id", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), server_default="", nullable=False),
        sa.Column("was", sa.String(), server_default="", nullable=False),
        sa.Column("answered_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("decided_by_id", sa.Integer(), nullable=True),
        sa.Column("decided_on", sa.Date(), nullable=True),
        sa.CheckConstraint("reply IN ('confirmed', 'moved', 'short', 'substitute', 'price')", name=op.f("ck_supplier_answer_reply_known")),
        sa.CheckConstraint("state IN ('open', 'accepted', 'refused')", name=op.f("ck_supplier_answer_state_known")),
        sa.CheckConstraint("quantity >= 0", name=op.f("ck_supplier_answer_quantity_not_negative")),
        sa.CheckConstraint("price >= 0", name=op.f("ck_supplier_answer_price_not_negative")),
        sa.ForeignKeyConstraint(["line_id"], ["purchase_line.id"], name=op.f("fk_supplier_answer_line_id_purchase_line")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_supplier_answer_part_id_part")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_supplier_answer_author_id_user")),
        sa.ForeignKeyConstraint(["decided_by_id"], ["user.id"], name=op.f("fk_supplier_answer_decided_by_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_supplier_answer")),
    )
    op.create_index("ix_supplier_answer_line_id", "supplier_answer", ["line_id"])


def downgrade() -> None:
    for table in ("supplier_answer", "order_draft_line", "order_draft", "price_break"):
        op.drop_table(table)
    op.execute("ALTER TABLE receipt DISABLE TRIGGER append_only")
    op.execute("ALTER TABLE stock_move DISABLE TRIGGER append_only")
    op.execute("UPDATE stock_move SET receipt_id = NULL WHERE receipt_id IN (SELECT id FROM receipt WHERE quantity < 0)")
    op.execute("UPDATE stock_move SET receipt_id = NULL WHERE receipt_id IN (SELECT undoes_id FROM receipt WHERE undoes_id IS NOT NULL)")
    op.execute("DELETE FROM receipt WHERE quantity < 0 OR id IN (SELECT undoes_id FROM receipt WHERE undoes_id IS NOT NULL)")
    op.execute("ALTER TABLE stock_move ENABLE TRIGGER append_only")
    op.execute("ALTER TABLE receipt ENABLE TRIGGER append_only")
    op.drop_constraint(op.f("ck_receipt_undone_below_zero"), "receipt")
    op.drop_constraint(op.f("uq_receipt_undoes_id"), "receipt")
    op.drop_constraint(op.f("fk_receipt_undoes_id_receipt"), "receipt")
    for column in ("undoes_id", "reason", "serials"):
        op.drop_column("receipt", column)
    op.create_check_constraint(op.f("ck_receipt_quantity_positive"), "receipt", "quantity > 0")
    op.drop_column("purchase_line", "confirmed_on")
    op.drop_constraint(op.f("fk_purchase_order_approved_by_id_user"), "purchase_order")
    op.drop_column("purchase_order", "note")
    op.drop_column("purchase_order", "approved_by_id")
