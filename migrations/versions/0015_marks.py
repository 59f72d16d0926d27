"""What was written, by table and by the parts whose lives it bears on; replies that are kept; the queue of long work.

A mark is the number of writers seen and their places in order added up: a reader that sees the same mark sees the same rows.
The queue is procrastinate's own schema, as its pinned version ships it.
"""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager

revision = "0015"
down_revision = "0014"

LIVES = ("site", "asset", "asset_stay", "tenure", "incident", "event_revision", "event_line", "reading")
TABLES = (
    "asset",
    "asset_stay",
    "backorder",
    "cancellation",
    "custody_line",
    "device_model",
    "event_line",
    "event_revision",
    "fits",
    "fleet_plan",
    "incident",
    "interchange",
    "job",
    "job_entry",
    "lane",
    "model_revision",
    "part",
    "photo",
    "position",
    "purchase_line",
    "purchase_order",
    "reading",
    "receipt",
    "reservation",
    "scenario",
    "setting",
    "shelf",
    "shelf_balance",
    "site",
    "stock_move",
    "supplier",
    "tenure",
    "unit",
    "user",
)
LINES = "JOIN event_line l ON l.revision_id = r.id JOIN tenure t ON t.id = l.removed_tenure_id"
PARTS_OF = {
    "tenure": "SELECT DISTINCT part_id FROM changed",
    "event_line": "SELECT DISTINCT t.part_id FROM changed c JOIN tenure t ON t.id = c.removed_tenure_id",
    "event_revision": f"SELECT DISTINCT t.part_id FROM changed r {LINES}",
    "incident": f"SELECT DISTINCT t.part_id FROM changed c JOIN event_revision r ON r.incident_id = c.id {LINES}",
    "asset": "SELECT DISTINCT t.part_id FROM changed c JOIN tenure t ON t.asset_id = c.id",
    "asset_stay": "SELECT DISTINCT t.part_id FROM changed c JOIN tenure t ON t.asset_id = c.asset_id",
    "reading": "SELECT DISTINCT t.part_id FROM changed c JOIN tenure t ON t.id = c.tenure_id",
}
EVENTS = (("insert", "INSERT", "NEW"), ("update", "UPDATE", "NEW"), ("update_of", "UPDATE", "OLD"), ("delete", "DELETE", "OLD"))
MARK = """
    INSERT INTO written (topic, writer, writers, at)
    {topics}
    ON CONFLICT (topic, writer) DO UPDATE SET at = EXCLUDED.at;
    RETURN NULL;
"""


def upgrade() -> None:
    _drop_lives_mark()
    op.execute(sa.schema.CreateSequence(sa.Sequence("written_at")))
    op.create_table(
        "written",
        sa.Column("topic", sa.String(), nullable=False),
        sa.Column("writer", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("writers", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("topic", "writer", name=op.f("pk_written")),
    )
    _function("mark_written", "SELECT TG_TABLE_NAME, pg_current_xact_id()::text::bigint, 1, nextval('written_at')")
    for table in TABLES:
        op.execute(
            f'CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON "{table}" '
            "FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
        )
    for table, parts in PARTS_OF.items():
        _function(
            f"mark_lives_of_{table}",
            f"SELECT 'lives/' || part_id, pg_current_xact_id()::text::bigint, 1, nextval('written_at') FROM ({parts}) of_parts",
        )
        for name, event, side in EVENTS:
            op.execute(
                f"CREATE TRIGGER marks_lives_{name} AFTER {event} ON {table} REFERENCING {side} TABLE AS changed "
                f"FOR EACH STATEMENT EXECUTE FUNCTION mark_lives_of_{table}()"
            )
    op.create_table(
        "reply",
        sa.Column("asked", sa.String(), nullable=False),
        sa.Column("view", sa.String(), nullable=False),
        sa.Column("arguments", sa.dialects.postgresql.JSONB(), nullable=False),
        sa.Column("reads", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("good_until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("asked", name=op.f("pk_reply")),
    )
    op.create_index("ix_reply_asked_at", "reply", ["asked_at"])
    op.create_table(
        "pin",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("view", sa.String(), nullable=False),
        sa.Column("arguments", sa.dialects.postgresql.JSONB(), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("as_of", sa.Date(), nullable=False),
        sa.Column("pinned_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("act IN ('order', 'export')", name=op.f("ck_pin_act_known")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_pin_author_id_user")),
        sa.ForeignKeyConstraint(["key"], ["answer.key"], name=op.f("fk_pin_key_answer")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pin")),
    )
    op.create_table(
        "work_progress",
        sa.Column("job_id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("of", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("job_id", name=op.f("pk_work_progress")),
    )
    op.create_index("ix_pin_key", "pin", ["key"])
    op.create_index("ix_pin_subject", "pin", ["act", "subject"])
    op.execute(
        "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON pin FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )
    op.get_bind().connection.driver_connection.execute(SchemaManager.get_schema())


def _function(name: str, topics: str) -> None:
    op.execute(f"CREATE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN {MARK.format(topics=topics)} END $$")


def _drop_lives_mark() -> None:
    for table in LIVES:
        op.execute(f"DROP TRIGGER marks_lives ON {table}")
    op.execute("DROP FUNCTION mark_lives()")
    op.drop_table("lives_mark")
    op.execute(sa.schema.DropSequence(sa.Sequence("lives_mark_at")))


def downgrade() -> None:
    raise NotImplementedError("marks and the queue are not taken away again: restore a backup of before")
