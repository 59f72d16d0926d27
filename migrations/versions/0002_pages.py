"""Pages keep every draft, a revision is never changed, and photos have a place."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.drop_index("uq_model_revision_one_draft", table_name="model_revision", postgresql_where=sa.text("draft"))
    op.create_table(
        "photo",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("png", sa.LargeBinary(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("width > 0 AND height > 0", name=op.f("ck_photo_has_a_size")),
        sa.ForeignKeyConstraint(["author_id"], ["user.id"], name=op.f("fk_photo_author_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photo")),
        sa.UniqueConstraint("digest", name=op.f("uq_photo_digest")),
    )
    op.execute("CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON model_revision FOR EACH ROW EXECUTE FUNCTION refuse_change()")


def downgrade() -> None:
    op.execute("DROP TRIGGER append_only ON model_revision")
    op.drop_table("photo")
    op.create_index("uq_model_revision_one_draft", "model_revision", ["model_id"], unique=True, postgresql_where=sa.text("draft"))
