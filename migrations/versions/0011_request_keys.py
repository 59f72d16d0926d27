"""Requests that came with a key of their own, and their answers: the same one sent twice is carried out once."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "request_key",
        sa.Column("user_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("fingerprint", sa.String(), nullable=False),
        sa.Column("status", sa.Integer(), nullable=True),
        sa.Column("body", sa.Text(), nullable=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["user_id"], ["user.id"], name=op.f("fk_request_key_user_id_user")),
        sa.PrimaryKeyConstraint("user_id", "key", name=op.f("pk_request_key")),
    )
    op.create_index("ix_request_key_made_at", "request_key", ["made_at"])


def downgrade() -> None:
    op.drop_index("ix_request_key_made_at", table_name="request_key")
    op.drop_table("request_key")
