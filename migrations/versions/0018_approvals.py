"""Approvals at the bench: asked by who works, answered by a second signed-in person."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.create_table(
        "approval",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("asked_by_id", sa.Integer(), nullable=False),
        sa.Column("answered_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("answered_by_id", sa.Integer(), nullable=True),
        sa.Column("granted", sa.Boolean(), nullable=True),
        sa.Column("own", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        sa.Column("details", postgresql.JSONB(), nullable=False),
        sa.CheckConstraint("kind IN ('waive', 'gate', 'left_out', 'release')", name=op.f("ck_approval_kind_known")),
        sa.CheckConstraint("count >= 1", name=op.f("ck_approval_count_positive")),
        sa.CheckConstraint(
            "(answered_at IS NULL) = (answered_by_id IS NULL) AND (answered_at IS NULL) = (granted IS NULL)",
            name=op.f("ck_approval_answer_whole"),
        ),
        sa.CheckConstraint("own OR answered_by_id <> asked_by_id", name=op.f("ck_approval_two_people")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_approval_job_id_job")),
        sa.ForeignKeyConstraint(["asked_by_id"], ["user.id"], name=op.f("fk_approval_asked_by_id_user")),
        sa.ForeignKeyConstraint(["answered_by_id"], ["user.id"], name=op.f("fk_approval_answered_by_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_approval")),
    )
    op.create_index("ix_approval_job_id", "approval", ["job_id"])
    op.create_index(
        "one_open_approval", "approval", ["job_id", "kind", "subject"], unique=True, postgresql_where=sa.text("answered_at IS NULL")
    )
    op.execute(
        "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON approval "
        "FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )


def downgrade() -> None:
    op.drop_table("approval")
