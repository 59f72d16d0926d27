"""The shipped JSON Schema is the one the format makes, and says what a page may hold."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest

from almanac.exchange.pages.schema import page_schema
from almanac.exchange.pages.yaml_tree import read_yaml

SHIPPED = Path(__file__).parents[3] / "docs" / "page.schema.json"


def test_the_shipped_schema_is_the_formats() -> None:
    """bin/schema writes it; run it again when this differs."""
    assert json.loads(SHIPPED.read_text()) == page_schema()


def test_the_schema_takes_a_fact_written_short_or_in_full() -> None:
    (takes,) = page_schema()["$defs"]["PositionEntry"]["properties"]["takes"]["patternProperties"].values()
    types = {str(option.get("type")) for option in takes["anyOf"]}
    assert {"['string', 'number', 'boolean', 'null']", "object", "array"} <= types
    assert page_schema()["required"] == ["page_format", "maker", "name", "family", "form"]


@pytest.mark.parametrize("path", sorted((SHIPPED.parents[1] / "almanac" / "demo" / "pages").glob("*.yaml")), ids=lambda path: path.stem)
def test_the_demo_pages_follow_the_schema(path: Path) -> None:
    jsonschema_rs.validate(page_schema(), read_yaml(path.read_bytes()).value)


def test_an_entry_of_the_wrong_kind_does_not() -> None:
    page = {"page_format": 2, "maker": "A", "name": "B", "family": "C", "form": "notebook"}
    entries: list[dict[str, Any]] = [
        {"steps": "soon"},
        {"steps": [{"a": "A", "minutes": []}]},
        {"parts": [{}]},
        {"steps": [{"a": "A", "under": {}}]},
    ]
    for wrong in entries:
        with pytest.raises(jsonschema_rs.ValidationError):
            jsonschema_rs.validate(page_schema(), {**page, **wrong})
