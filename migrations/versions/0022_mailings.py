"""Orders that were sent by mail."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    op.create_table(
        "order_mailing",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("sender", sa.String(), nullable=False),
        sa.Column("way", sa.String(), nullable=False),
        sa.Column("mailed_on", sa.Date(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["order_id"], ["purchase_order.id"], name=op.f("fk_order_mailing_order_id_purchase_order")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_order_mailing_author_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_order_mailing")),
    )
    op.create_index("ix_order_mailing_order_id", "order_mailing", ["order_id"])
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON order_mailing FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.execute(
        "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON order_mailing "
        "FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )


def downgrade() -> None:
    op.drop_table("order_mailing")
