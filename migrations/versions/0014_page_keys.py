"""A key of every page's content, made by the database when it is written: answers are named by it without reading the page."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.add_column("model_revision", sa.Column("page_key", sa.String(), sa.Computed("md5(page::text)", persisted=True), nullable=False))


def downgrade() -> None:
    op.drop_column("model_revision", "page_key")
