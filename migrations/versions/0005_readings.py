"""Readings of what is in service: full over design capacity of a pack, life left of a drive."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "reading",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("tenure_id", sa.Integer(), nullable=False),
        sa.Column("read_on", sa.Date(), nullable=False),
        sa.Column("full", sa.Float(), nullable=False),
        sa.Column("design", sa.Float(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("design > 0", name=op.f("ck_reading_design_above_zero")),
        sa.CheckConstraint('"full" >= 0 AND "full" <= 2 * design', name=op.f("ck_reading_full_in_range")),
        sa.ForeignKeyConstraint(["tenure_id"], ["tenure.id"], name=op.f("fk_reading_tenure_id")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_reading_author_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reading")),
    )
    op.create_index("ix_reading_tenure_id", "reading", ["tenure_id", "read_on"])
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON reading FOR EACH ROW EXECUTE FUNCTION refuse_change()")


def downgrade() -> None:
    op.drop_table("reading")
