"""People who sign in through the company's identity provider, and their way there and back."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"


def upgrade() -> None:
    op.add_column("user", sa.Column("provider_subject", sa.String()))
    op.add_column("user", sa.Column("provider_awaited", sa.Boolean(), server_default=sa.false(), nullable=False))
    op.create_unique_constraint(op.f("uq_user_provider_subject"), "user", ["provider_subject"])
    op.create_table(
        "provider_attempt",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("state_hash", sa.String(), nullable=False),
        sa.Column("browser_hash", sa.String(), nullable=False),
        sa.Column("nonce", sa.String(), nullable=False),
        sa.Column("verifier", sa.String(), nullable=False),
        sa.Column("goes_to", sa.String(), nullable=False),
        sa.Column("began_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True)),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_provider_attempt")),
        sa.UniqueConstraint("state_hash", name=op.f("uq_provider_attempt_state_hash")),
    )
    op.create_index("ix_provider_attempt_began_at", "provider_attempt", ["began_at"])
    op.create_index("ix_incident_occurred_on", "incident", ["occurred_on", "asset_id"])


def downgrade() -> None:
    op.drop_index("ix_incident_occurred_on", "incident")
    op.drop_table("provider_attempt")
    op.drop_constraint(op.f("uq_user_provider_subject"), "user")
    op.drop_column("user", "provider_awaited")
    op.drop_column("user", "provider_subject")
