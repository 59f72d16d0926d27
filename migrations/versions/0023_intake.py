"""Lists the company keeps elsewhere: what their columns and names mean, and what was applied of them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0023"
down_revision = "0022"
MARKS = "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {} FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"


def upgrade() -> None:
    op.create_table(
        "list_source",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("settled", postgresql.JSONB(), nullable=False),
        sa.Column("last_list_on", sa.Date(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_list_source")),
        sa.UniqueConstraint("name", name=op.f("uq_list_source_name")),
    )
    op.create_table(
        "intake",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("source_id", sa.Integer(), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("list_on", sa.Date(), nullable=False),
        sa.Column("counts", postgresql.JSONB(), nullable=False),
        sa.Column("changes", postgresql.JSONB(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("undone_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("undone_by_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["source_id"], ["list_source.id"], name=op.f("fk_intake_source_id_list_source")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_intake_author_id_user")),
        sa.ForeignKeyConstraint(["undone_by_id"], ["user.id"], name=op.f("fk_intake_undone_by_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_intake")),
    )
    op.create_index("ix_intake_source_id", "intake", ["source_id"])
    for table in ("list_source", "intake"):
        op.execute(MARKS.format(table))


def downgrade() -> None:
    op.drop_table("intake")
    op.drop_table("list_source")
