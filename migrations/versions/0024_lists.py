"""A source of lists says what its lists are of; a reading can be withdrawn."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"
TAKEN_BACK = """
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  -- What a list wrote by mistake, and nobody touched since, goes with the list; its own row keeps that it was there.
  IF TG_OP = 'DELETE' AND current_setting('almanac.taken_back', true) = 'list' THEN
    RETURN OLD;
  END IF;
  RAISE EXCEPTION '% is append-only: add a row instead', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$
"""
REFUSE = """
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is append-only: add a row instead', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$
"""


def upgrade() -> None:
    op.add_column("list_source", sa.Column("kind", sa.String(), nullable=False, server_default="machines"))
    op.alter_column("list_source", "kind", server_default=None)
    op.drop_constraint("uq_list_source_name", "list_source")
    op.create_unique_constraint("uq_list_source_kind_name", "list_source", ["kind", "name"])
    op.execute(TAKEN_BACK)
    op.add_column("reading", sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default=sa.false()))


def downgrade() -> None:
    op.execute(REFUSE)
    op.execute("DELETE FROM intake WHERE source_id IN (SELECT id FROM list_source WHERE kind <> 'machines')")
    op.execute("DELETE FROM list_source WHERE kind <> 'machines'")
    op.drop_constraint("uq_list_source_kind_name", "list_source")
    op.create_unique_constraint("uq_list_source_name", "list_source", ["name"])
    op.drop_column("list_source", "kind")
    op.execute("ALTER TABLE reading DISABLE TRIGGER append_only")
    op.execute(
        "DELETE FROM reading r USING reading w WHERE w.withdrawn AND w.tenure_id = r.tenure_id AND w.read_on = r.read_on AND r.id <= w.id"
    )
    op.execute("ALTER TABLE reading ENABLE TRIGGER append_only")
    op.drop_column("reading", "withdrawn")
