"""Jobs whose last power test was bad: they end as not cured, in lists too."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("job", sa.Column("failed_test", sa.Boolean(), nullable=False, server_default=sa.text("false")))
    op.execute(
        """
        UPDATE job SET failed_test = true WHERE 'bad' = (
          SELECT e.data->>'result' FROM job_entry e
          WHERE e.job_id = job.id AND e.kind = 'step' AND e.data->>'step' = 'test' ORDER BY e.number DESC LIMIT 1)
        """
    )


def downgrade() -> None:
    op.drop_column("job", "failed_test")
