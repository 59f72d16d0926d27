"""Links by which a password is chosen, the sites people work at, and what is audited: append-only."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"


def upgrade() -> None:
    op.create_table(
        "password_link",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("made_by_id", sa.Integer()),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_password_link")),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_password_link_user_id_user")),
        sa.ForeignKeyConstraint(["made_by_id"], ["user.id"], name=op.f("fk_password_link_made_by_id_user")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_password_link_token_hash")),
    )
    op.create_index("one_open_link", "password_link", ["user_id"], unique=True, postgresql_where=sa.text("ended_at IS NULL"))
    op.create_table(
        "user_site",
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("site_id", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("user_id", "site_id", name=op.f("pk_user_site")),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_user_site_user_id_user")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_user_site_site_id_site")),
    )
    op.create_table(
        "audit_entry",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("event", sa.String(), nullable=False),
        sa.Column("user_id", sa.Integer()),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_entry")),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_audit_entry_user_id_user")),
        sa.CheckConstraint("event ~ '^[a-z][a-z_]{1,29}$'", name=op.f("ck_audit_entry_event_word")),
    )
    op.create_index("ix_audit_entry_at", "audit_entry", ["at"])
    op.create_table(
        "backup_run",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("good", sa.Boolean(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_backup_run")),
    )
    op.execute(
        "CREATE TRIGGER marks_written AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON backup_run "
        "FOR EACH STATEMENT EXECUTE FUNCTION mark_written()"
    )
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON audit_entry FOR EACH ROW EXECUTE FUNCTION refuse_change()")
    op.execute("CREATE TRIGGER append_only_whole BEFORE TRUNCATE ON audit_entry FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()")


def downgrade() -> None:
    op.drop_table("backup_run")
    op.drop_table("audit_entry")
    op.drop_table("user_site")
    op.drop_table("password_link")
