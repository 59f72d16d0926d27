"""The shipped JSON Schema is the one the format makes, and says what a page may hold."""

from __future__ import annotations

import json
from pathlib import Path

from almanac.exchange.pages.format import page_schema

SHIPPED = Path(__file__).parents[3] / "docs" / "page.schema.json"


def test_the_shipped_schema_is_the_formats() -> None:
    """bin/schema writes it; run it again when this differs."""
    assert json.loads(SHIPPED.read_text()) == page_schema()


def test_the_schema_takes_a_fact_written_short_or_in_full() -> None:
    (takes,) = page_schema()["$defs"]["PositionEntry"]["properties"]["takes"]["patternProperties"].values()
    types = {str(option.get("type")) for option in takes["anyOf"]}
    assert {"['string', 'number', 'boolean', 'null']", "object", "array"} <= types
    assert page_schema()["required"] == ["page_format", "maker", "name", "family", "form"]
