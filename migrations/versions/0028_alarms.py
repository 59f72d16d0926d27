"""Decisions on alarms; which lot a fitted part came from, as far as anybody knows."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"
MARKS = "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {} FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
FUNCTION = """
CREATE FUNCTION mark_lives_of_unit() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
  INSERT INTO written (topic, writer, writers, at)
  SELECT 'lives/' || part_id, pg_current_xact_id()::text::bigint, 1, nextval('written_at') FROM (
    SELECT DISTINCT t.part_id FROM changed c JOIN was w ON w.id = c.id AND w.made_on IS DISTINCT FROM c.made_on
    JOIN tenure t ON t.unit_id = c.id) of_parts
  ON CONFLICT (topic, writer) DO UPDATE SET at = EXCLUDED.at;
  RETURN NULL;
END $$
"""
OF_UNIT = """
CREATE TRIGGER marks_lives_update AFTER UPDATE ON unit REFERENCING OLD TABLE AS was NEW TABLE AS changed
FOR EACH STATEMENT EXECUTE FUNCTION mark_lives_of_unit()
"""


def upgrade() -> None:
    op.create_table(
        "alarm_decision",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("scope", sa.String(), nullable=False),
        sa.Column("part_id", sa.Integer()),
        sa.Column("model_id", sa.Integer()),
        sa.Column("duty", sa.String()),
        sa.Column("environment", sa.String()),
        sa.Column("site_id", sa.Integer()),
        sa.Column("made_on", sa.Date()),
        sa.Column("since", sa.Date(), nullable=False),
        sa.Column("spoke_on", sa.Date(), nullable=False),
        sa.Column("observed", sa.Float(), nullable=False),
        sa.Column("expected", sa.Float(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("decided_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer()),
        sa.Column("withdrawn_at", sa.DateTime(timezone=True)),
        sa.Column("withdrawn_by_id", sa.Integer()),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_alarm_decision")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_alarm_decision_part_id_part")),
        sa.ForeignKeyConstraint(["model_id"], ["device_model.id"], name=op.f("fk_alarm_decision_model_id_device_model")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_alarm_decision_site_id_site")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_alarm_decision_author_id_user")),
        sa.ForeignKeyConstraint(["withdrawn_by_id"], ["user.id"], name=op.f("fk_alarm_decision_withdrawn_by_id_user")),
        sa.CheckConstraint("kind ~ '^[a-z][a-z_]{1,29}$'", name=op.f("ck_alarm_decision_kind_word")),
        sa.CheckConstraint("scope IN ('pool', 'part', 'site', 'lot')", name=op.f("ck_alarm_decision_scope_known")),
        sa.CheckConstraint("verdict IN ('accepted', 'aside')", name=op.f("ck_alarm_decision_verdict_known")),
        sa.CheckConstraint("(scope = 'site') = (part_id IS NULL)", name=op.f("ck_alarm_decision_part_named")),
        sa.CheckConstraint("(scope = 'site') = (site_id IS NOT NULL)", name=op.f("ck_alarm_decision_site_named")),
        sa.CheckConstraint("(scope = 'lot') = (made_on IS NOT NULL)", name=op.f("ck_alarm_decision_lot_named")),
        sa.CheckConstraint(
            "(scope = 'pool') = (model_id IS NOT NULL AND duty IS NOT NULL AND environment IS NOT NULL)",
            name=op.f("ck_alarm_decision_pool_named"),
        ),
        sa.CheckConstraint("since <= spoke_on", name=op.f("ck_alarm_decision_since_before")),
        sa.CheckConstraint("reason <> ''", name=op.f("ck_alarm_decision_reason_given")),
    )
    op.create_index("ix_alarm_decision_holds", "alarm_decision", ["kind"], postgresql_where=sa.text("withdrawn_at IS NULL"))
    op.execute(MARKS.format("alarm_decision"))
    op.add_column("unit", sa.Column("lot_known_by", sa.String()))
    op.create_check_constraint(op.f("ck_unit_lot_known_by_known"), "unit", "lot_known_by IN ('serial', 'only_lot', 'first_out')")
    op.create_check_constraint(op.f("ck_unit_lot_whole"), "unit", "lot_known_by IS NULL OR made_on IS NOT NULL")
    # A position without a condition has none: the word "null" for it, which lists wrote, is an object to nobody.
    op.execute("UPDATE position SET option_condition = NULL WHERE option_condition = 'null'::jsonb")
    # Where a machine is asked for by itself: the indexes of the rules that forbid overlaps find it, but slowly.
    op.create_index("ix_tenure_asset_id", "tenure", ["asset_id"])
    op.create_index("ix_asset_stay_asset_id", "asset_stay", ["asset_id"])
    op.execute(FUNCTION)
    op.execute(OF_UNIT)


def downgrade() -> None:
    op.execute("DROP TRIGGER marks_lives_update ON unit")
    op.execute("DROP FUNCTION mark_lives_of_unit()")
    op.drop_index("ix_asset_stay_asset_id", "asset_stay")
    op.drop_index("ix_tenure_asset_id", "tenure")
    op.drop_column("unit", "lot_known_by")
    op.drop_table("alarm_decision")
