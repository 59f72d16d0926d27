"""Long lists that a worker looks at or applies."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    op.create_table(
        "list_work",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("content", sa.LargeBinary()),
        sa.Column("said", JSONB(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
        sa.Column("answer", JSONB()),
        sa.Column("problem", JSONB()),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_list_work")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_list_work_author_id_user")),
        sa.CheckConstraint("what IN ('look', 'apply', 'undo')", name=op.f("ck_list_work_what_known")),
        sa.CheckConstraint("ended_at IS NULL OR (answer IS NULL) <> (problem IS NULL)", name=op.f("ck_list_work_ended_with_one")),
    )


def downgrade() -> None:
    op.drop_table("list_work")
