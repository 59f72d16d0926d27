"""Balances of shelves kept by the database and never below zero; cancelled order lines with their reason."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"

KEEP = """
CREATE FUNCTION keep_balance() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO shelf_balance (shelf_id, bucket, quantity)
  SELECT DISTINCT shelf_id, bucket, 0 FROM moved ORDER BY shelf_id, bucket
  ON CONFLICT DO NOTHING;
  UPDATE shelf_balance b SET quantity = b.quantity + m.quantity
  FROM (SELECT shelf_id, bucket, sum(quantity)::integer AS quantity FROM moved GROUP BY shelf_id, bucket) m
  WHERE b.shelf_id = m.shelf_id AND b.bucket = m.bucket;
  RETURN NULL;
END $$
"""
# A shelf that was booked below nothing is counted as empty: the move says so, and nothing on record changes.
SETTLE = """
INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
SELECT shelf_id, bucket, -sum(quantity), 'counted', max(moved_on), now() FROM stock_move GROUP BY 1, 2 HAVING sum(quantity) < 0
"""


def upgrade() -> None:
    op.create_table(
        "cancellation",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("line_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("cancelled_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("quantity > 0", name=op.f("ck_cancellation_quantity_positive")),
        sa.CheckConstraint("reason <> ''", name=op.f("ck_cancellation_reason_given")),
        sa.ForeignKeyConstraint(["line_id"], ["purchase_line.id"], name=op.f("fk_cancellation_line_id_purchase_line")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_cancellation_author_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_cancellation")),
    )
    op.create_index("ix_cancellation_line_id", "cancellation", ["line_id"])
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON cancellation FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.execute(SETTLE)
    op.create_table(
        "shelf_balance",
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("bucket", sa.String(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.CheckConstraint("quantity >= 0", name=op.f("ck_shelf_balance_not_negative")),
        sa.ForeignKeyConstraint(["shelf_id"], ["shelf.id"], name=op.f("fk_shelf_balance_shelf_id_shelf")),
        sa.PrimaryKeyConstraint("shelf_id", "bucket", name=op.f("pk_shelf_balance")),
    )
    op.execute("INSERT INTO shelf_balance SELECT shelf_id, bucket, sum(quantity) FROM stock_move GROUP BY shelf_id, bucket")
    op.execute(KEEP)
    op.execute(
        "CREATE TRIGGER keep_balance AFTER INSERT ON stock_move REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION keep_balance()"
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER keep_balance ON stock_move")
    op.execute("DROP FUNCTION keep_balance")
    op.drop_table("shelf_balance")
    op.execute("DROP TRIGGER append_only ON cancellation")
    op.drop_index("ix_cancellation_line_id", table_name="cancellation")
    op.drop_table("cancellation")
