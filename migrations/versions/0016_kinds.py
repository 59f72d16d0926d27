"""Kinds are declared in one place; the database asks for a plain word. Settings cells, told by their key so far, get their kind."""

from __future__ import annotations

from alembic import op

revision = "0016"
down_revision = "0015"

KINDS = "'memory', 'ssd', 'battery', 'fan', 'mainboard', 'keyboard', 'palm_rest', 'display', 'radio', 'other'"
IS_CELL = "entry ->> 'key' LIKE 'settings_cell%' AND entry ->> 'kind' = 'other'"


def upgrade() -> None:
    for table in ("position", "part"):
        op.drop_constraint(op.f(f"ck_{table}_kind_known"), table)
        op.create_check_constraint(op.f(f"ck_{table}_kind_word"), table, "kind ~ '^[a-z][a-z_]{1,29}$'")
    _rewrite("settings_cell", IS_CELL)
    op.execute("UPDATE position SET kind = 'settings_cell' WHERE key LIKE 'settings_cell%' AND kind = 'other'")


def downgrade() -> None:
    _rewrite("other", f"entry ->> 'kind' NOT IN ({KINDS})")
    for table in ("position", "part"):
        op.execute(f"UPDATE {table} SET kind = 'other' WHERE kind NOT IN ({KINDS})")
        op.drop_constraint(op.f(f"ck_{table}_kind_word"), table)
        op.create_check_constraint(op.f(f"ck_{table}_kind_known"), table, f"kind IN ({KINDS})")


def _rewrite(kind: str, where: str) -> None:
    """Give some positions of every page another kind: a gate hangs on it."""
    op.execute(
        f"""
        UPDATE model_revision SET page = jsonb_set(page, '{{positions}}', (
            SELECT jsonb_agg(CASE WHEN {where} THEN jsonb_set(entry, '{{kind}}', '"{kind}"') ELSE entry END ORDER BY place)
            FROM jsonb_array_elements(page -> 'positions') WITH ORDINALITY AS listed(entry, place)))
        WHERE EXISTS (SELECT 1 FROM jsonb_array_elements(page -> 'positions') AS entry WHERE {where})
        """
    )
