"""A mark that moves with everything lives of parts are read from, so that what did not change is not read again."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"

TABLES = ("site", "asset", "asset_stay", "tenure", "incident", "event_revision", "event_line", "reading")


def upgrade() -> None:
    op.execute(sa.schema.CreateSequence(sa.Sequence("lives_mark_at")))
    op.create_table(
        "lives_mark",
        sa.Column("writer", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("at", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("writer", name=op.f("pk_lives_mark")),
    )
    op.execute("""
        CREATE FUNCTION mark_lives() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            INSERT INTO lives_mark (writer, at) VALUES (pg_current_xact_id()::text::bigint, nextval('lives_mark_at'))
            ON CONFLICT (writer) DO UPDATE SET at = EXCLUDED.at;
            RETURN NULL;
        END $$""")
    for table in TABLES:
        op.execute(
            f"CREATE TRIGGER marks_lives AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {table} "
            "FOR EACH STATEMENT EXECUTE FUNCTION mark_lives()"
        )


def downgrade() -> None:
    for table in TABLES:
        op.execute(f"DROP TRIGGER marks_lives ON {table}")
    op.execute("DROP FUNCTION mark_lives()")
    op.drop_table("lives_mark")
    op.execute(sa.schema.DropSequence(sa.Sequence("lives_mark_at")))
