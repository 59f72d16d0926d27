"""The age of a fitted part may be known to lie in a span only."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    op.add_column("tenure", sa.Column("age_span_days", sa.Integer(), nullable=False, server_default="0"))
    op.alter_column("tenure", "age_span_days", server_default=None)
    op.add_column("tenure", sa.Column("as_delivered", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column("tenure", "as_delivered", server_default=None)
    within = "age_span_days BETWEEN 0 AND age_at_fitting_days + (observed_from - fitted_on)"
    op.create_check_constraint(op.f("ck_tenure_age_span"), "tenure", within)


def downgrade() -> None:
    op.drop_constraint(op.f("ck_tenure_age_span"), "tenure")
    op.drop_column("tenure", "as_delivered")
    op.drop_column("tenure", "age_span_days")
