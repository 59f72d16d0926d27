"""Sign-ins that the server can end, and failed ones counted by account, by known browser and by address."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "web_session",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("began_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_web_session_user_id_user")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_web_session")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_web_session_token_hash")),
    )
    op.create_index("ix_web_session_user_id", "web_session", ["user_id"])
    op.execute("DELETE FROM sign_in_attempt")  # minutes old at most, and counted by another clock
    op.drop_index("ix_sign_in_attempt_login", table_name="sign_in_attempt")
    op.alter_column("sign_in_attempt", "login", new_column_name="counter")
    op.create_index("ix_sign_in_attempt_counter", "sign_in_attempt", ["counter", "attempted_at"])
    op.create_index("ix_sign_in_attempt_address", "sign_in_attempt", ["address", "attempted_at"])


def downgrade() -> None:
    op.drop_index("ix_sign_in_attempt_address", table_name="sign_in_attempt")
    op.drop_index("ix_sign_in_attempt_counter", table_name="sign_in_attempt")
    op.alter_column("sign_in_attempt", "counter", new_column_name="login")
    op.create_index("ix_sign_in_attempt_login", "sign_in_attempt", ["login", "attempted_at"])
    op.drop_index("ix_web_session_user_id", table_name="web_session")
    op.drop_table("web_session")
