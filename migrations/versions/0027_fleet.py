"""Machines that report, keys for programs, and looks at the register that are kept."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0027"
down_revision = "0026"
MARKS = "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {} FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"


def upgrade() -> None:
    op.create_table(
        "access_token",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("scope", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("last_used_at", sa.DateTime(timezone=True)),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
        sa.Column("ended_by_id", sa.Integer()),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_access_token")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_access_token_token_hash")),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_access_token_user_id_user")),
        sa.ForeignKeyConstraint(["ended_by_id"], ["user.id"], name=op.f("fk_access_token_ended_by_id_user")),
        sa.CheckConstraint("scope IN ('read', 'report', 'calendar')", name=op.f("ck_access_token_scope_known")),
        sa.CheckConstraint("expires_at > made_at", name=op.f("ck_access_token_expires_later")),
    )
    op.create_table(
        "machine_report",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("asset_id", sa.Integer()),
        sa.Column("calls_itself", sa.String()),
        sa.Column("reported_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("received_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("said", postgresql.JSONB(), nullable=False),
        sa.Column("missed", postgresql.JSONB(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_machine_report")),
        sa.UniqueConstraint("asset_id", name=op.f("uq_machine_report_asset_id")),
        sa.UniqueConstraint("calls_itself", name=op.f("uq_machine_report_calls_itself")),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_machine_report_asset_id_asset")),
        sa.CheckConstraint("(asset_id IS NULL) <> (calls_itself IS NULL)", name=op.f("ck_machine_report_of_one_machine")),
    )
    op.create_index("ix_machine_report_reported_at", "machine_report", ["reported_at"])
    op.create_table(
        "report_question",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("raised_on", sa.Date(), nullable=False),
        sa.Column("said_last_on", sa.Date(), nullable=False),
        sa.Column("settled_at", sa.DateTime(timezone=True)),
        sa.Column("settled_by_id", sa.Integer()),
        sa.Column("answer", sa.String()),
        sa.Column("reason", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_report_question")),
        sa.ForeignKeyConstraint(["asset_id"], ["asset.id"], name=op.f("fk_report_question_asset_id_asset")),
        sa.ForeignKeyConstraint(["settled_by_id"], ["user.id"], name=op.f("fk_report_question_settled_by_id_user")),
        sa.CheckConstraint("answer IN ('as_on_record', 'recorded', 'no_longer')", name=op.f("ck_report_question_answer_known")),
        sa.CheckConstraint("(settled_at IS NULL) = (answer IS NULL)", name=op.f("ck_report_question_settled_with_answer")),
    )
    op.create_index(
        "uq_report_question_open", "report_question", ["asset_id", "words"], unique=True, postgresql_where=sa.text("settled_at IS NULL")
    )
    op.create_index("ix_report_question_asset_id", "report_question", ["asset_id"])
    op.create_table(
        "fleet_view",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("query", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_fleet_view")),
        sa.UniqueConstraint("user_id", "name", name=op.f("uq_fleet_view_user_id_name")),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_fleet_view_user_id_user")),
    )
    op.create_index("ix_asset_upper_tag", "asset", [sa.text("upper(tag)")])
    op.create_index("ix_asset_upper_serial", "asset", [sa.text("upper(serial)")])
    op.add_column("asset", sa.Column("disposed_on", sa.Date()))
    op.add_column("asset", sa.Column("disposal", sa.String()))
    op.create_check_constraint(op.f("ck_asset_disposed_after_retired"), "asset", "disposed_on >= retired_on")
    op.create_check_constraint(op.f("ck_asset_disposal_whole"), "asset", "(disposed_on IS NULL) = (disposal IS NULL)")
    op.create_check_constraint(op.f("ck_asset_disposed_is_retired"), "asset", "disposed_on IS NULL OR retired_on IS NOT NULL")
    op.add_column("reading", sa.Column("cycles", sa.Integer()))
    op.create_check_constraint(op.f("ck_reading_cycles_not_negative"), "reading", "cycles >= 0")
    for table in ("machine_report", "report_question", "fleet_view"):
        op.execute(MARKS.format(table))


def downgrade() -> None:
    op.drop_column("reading", "cycles")
    op.drop_index("ix_asset_upper_serial", "asset")
    op.drop_index("ix_asset_upper_tag", "asset")
    op.drop_column("asset", "disposal")
    op.drop_column("asset", "disposed_on")
    for table in ("fleet_view", "report_question", "machine_report", "access_token"):
        op.drop_table(table)
