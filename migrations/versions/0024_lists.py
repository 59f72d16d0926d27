"""A source of lists says what its lists are of; a reading can be withdrawn."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    op.add_column("list_source", sa.Column("kind", sa.String(), nullable=False, server_default="machines"))
    op.alter_column("list_source", "kind", server_default=None)
    op.drop_constraint("uq_list_source_name", "list_source")
    op.create_unique_constraint("uq_list_source_kind", "list_source", ["kind", "name"])
    op.add_column("reading", sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default=sa.false()))


def downgrade() -> None:
    op.execute("DELETE FROM intake WHERE source_id IN (SELECT id FROM list_source WHERE kind <> 'machines')")
    op.execute("DELETE FROM list_source WHERE kind <> 'machines'")
    op.drop_constraint("uq_list_source_kind", "list_source")
    op.create_unique_constraint("uq_list_source_name", "list_source", ["name"])
    op.drop_column("list_source", "kind")
    op.execute("ALTER TABLE reading DISABLE TRIGGER append_only")
    op.execute(
        "DELETE FROM reading r USING reading w WHERE w.withdrawn AND w.tenure_id = r.tenure_id AND w.read_on = r.read_on AND r.id <= w.id"
    )
    op.execute("ALTER TABLE reading ENABLE TRIGGER append_only")
    op.drop_column("reading", "withdrawn")
