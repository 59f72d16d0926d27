"""The JSON Schema of a page file: the flat entries, their one-line forms, and steps beneath their cover."""

from __future__ import annotations

from typing import Any

from almanac.exchange.pages.format import Page

LINES = {
    "PositionEntry": ("place", "attached", "included", "evidence", "serviceability", "orderable", "ordered_unit"),
    "PlugEntry": ("kind", "release"),
    "OperationEntry": (
        "fasteners",
        "plugs",
        "minutes",
        "needs",
        "frees",
        "exposes",
        "aids",
        "consumables",
        "lift_points",
        "back",
        "evidence",
    ),
    "BackEntry": ("minutes", "before", "after"),
    "Page": ("evidence",),
}
"""Entries that may be one line instead, see docs/page-format.md."""
LINE: dict[str, Any] = {"type": "string"}
SHORTER = {"consumables": "uses", "fasteners": "screws"}


def page_schema() -> dict[str, Any]:
    """The JSON Schema of a page file."""
    schema = Page.model_json_schema(mode="validation")
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    definitions = schema["$defs"]
    for entry, names in LINES.items():
        properties = (schema if entry == "Page" else definitions[entry])["properties"]
        for name in names:
            properties[name] = {"anyOf": [properties[name], LINE]}
            if name in SHORTER:
                properties[SHORTER[name]] = properties[name]
    definitions["NestedEntry"] = _nested(definitions)
    listed = {"type": "array", "items": {"$ref": "#/$defs/NestedEntry"}}
    schema["properties"] |= {
        "parts": {**listed, "description": "Parts that stand by themselves: key: label; kind; how it is held."},
        "steps": {**listed, "description": "Steps, each with those beneath it under `under`; a part with its way out is one entry."},
    }
    return schema


def _nested(definitions: dict[str, Any]) -> dict[str, Any]:
    """An entry that begins with its name: any other name holds the words behind it."""
    position = {key: value for key, value in definitions["PositionEntry"]["properties"].items() if key not in ("key", "label", "kind")}
    step = {SHORTER.get(key, key): value for key, value in definitions["OperationEntry"]["properties"].items() if key not in ("id", "text")}
    return {
        "type": "object",
        "minProperties": 1,
        "properties": {
            **position,
            **step,
            "out": LINE,
            "step": LINE,
            "shows": {"anyOf": [{"type": "array", "items": LINE}, LINE]},
            "also_frees": {"anyOf": [{"type": "array", "items": LINE}, LINE]},
            "under": {"type": "array", "items": {"$ref": "#/$defs/NestedEntry"}},
        },
        "additionalProperties": LINE,
    }
