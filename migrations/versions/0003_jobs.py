"""Jobs with their journals, custody of drives, tests of recovered units, and where a unit came from and went."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
BUCKETS = "('on_hand', 'harvested', 'quarantine', 'scrapped', 'returned')"
MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("asset_id", sa.Integer(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.Column("page_revision_id", sa.Integer(), nullable=False),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("symptom", sa.String(), nullable=False),
        sa.Column("events", postgresql.JSONB(), nullable=False),
        sa.Column("plan", postgresql.JSONB(), nullable=False),
        sa.Column("planned_minutes", sa.Float(), nullable=False),
        sa.Column("opened_on", sa.Date(), nullable=False),
        sa.Column("opened_at", MOMENT, nullable=False),
        sa.Column("opened_by", sa.Integer(), nullable=True),
        sa.Column("lease_user_id", sa.Integer(), nullable=True),
        sa.Column("lease_device", sa.Uuid(), nullable=True),
        sa.Column("lease_until", MOMENT, nullable=True),
        sa.Column("reopens_id", sa.Integer(), nullable=True),
        sa.Column("incident_id", sa.Integer(), nullable=True),
        sa.Column("watch_from", sa.Date(), nullable=True),
        sa.Column("taken_minutes", sa.Float(), nullable=True),
        sa.Column("ended_at", MOMENT, nullable=True),
        sa.CheckConstraint("purpose IN ('repair', 'upgrade', 'preventive', 'survey')", name=op.f("ck_job_purpose_known")),
        sa.CheckConstraint(
            "state IN ('open', 'waiting', 'running', 'parked', 'stopped', 'watching', 'closed', 'abandoned')",
            name=op.f("ck_job_state_known"),
        ),
        sa.CheckConstraint("(state IN ('closed', 'abandoned')) = (ended_at IS NOT NULL)", name=op.f("ck_job_ended_when_closed")),
        sa.CheckConstraint("(lease_device IS NULL) = (lease_until IS NULL)", name=op.f("ck_job_lease_whole")),
        sa.CheckConstraint("taken_minutes >= 0", name=op.f("ck_job_taken_not_negative")),
        sa.ForeignKeyConstraint(["asset_id", "model_id"], ["asset.id", "asset.model_id"], name="fk_job_asset_model"),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_job_model_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_job_site_id")),
        sa.ForeignKeyConstraint(["page_revision_id"], ["model_revision.id"], name=op.f("fk_job_page_revision_id")),
        sa.ForeignKeyConstraint(["opened_by"], ["user.id"], name=op.f("fk_job_opened_by")),
        sa.ForeignKeyConstraint(["lease_user_id"], ["user.id"], name=op.f("fk_job_lease_user_id")),
        sa.ForeignKeyConstraint(["reopens_id"], ["job.id"], name=op.f("fk_job_reopens_id")),
        sa.ForeignKeyConstraint(["incident_id"], ["incident.id"], name=op.f("fk_job_incident_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
    )
    op.create_index("ix_job_asset_id", "job", ["asset_id"])
    op.create_index("ix_job_model_id", "job", ["model_id"], postgresql_where=sa.text("state = 'closed'"))
    op.create_index("ix_job_state", "job", ["state"], postgresql_where=sa.text("state NOT IN ('closed', 'abandoned')"))
    op.create_table(
        "job_entry",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("entry_key", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("data", postgresql.JSONB(), nullable=False),
        sa.Column("done_at", MOMENT, nullable=False),
        sa.Column("recorded_at", MOMENT, nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("number >= 1", name=op.f("ck_job_entry_number_positive")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_job_entry_job_id")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_job_entry_author_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job_entry")),
        sa.UniqueConstraint("job_id", "number", name=op.f("uq_job_entry_job_id_number")),
        sa.UniqueConstraint("entry_key", name=op.f("uq_job_entry_entry_key")),
    )
    op.create_table(
        "custody_line",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("recorded_at", MOMENT, nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_custody_line_unit_id")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_custody_line_job_id")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_custody_line_author_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_custody_line")),
    )
    op.create_index("ix_custody_line_unit_id", "custody_line", ["unit_id"])
    for table in ("job_entry", "custody_line"):
        op.execute(f"CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.add_column("unit", sa.Column("tested_on", sa.Date(), nullable=True))
    op.add_column("unit", sa.Column("tested_as", sa.String(), nullable=True))
    op.create_check_constraint(op.f("ck_unit_tested_as_known"), "unit", "tested_as IN ('good', 'worn')")
    op.create_check_constraint(op.f("ck_unit_test_whole"), "unit", "(tested_on IS NULL) = (tested_as IS NULL)")
    for column in ("fitted_from", "removed_to"):
        op.add_column("event_line", sa.Column(column, sa.String(), nullable=True))
        op.create_check_constraint(op.f(f"ck_event_line_{column}_known"), "event_line", f"{column} IN {BUCKETS}")


def downgrade() -> None:
    for column in ("removed_to", "fitted_from"):
        op.drop_column("event_line", column)
    op.drop_column("unit", "tested_as")
    op.drop_column("unit", "tested_on")
    op.drop_table("custody_line")
    op.drop_table("job_entry")
    op.drop_table("job")
