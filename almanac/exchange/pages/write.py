"""From a stored page to a file: evidence that is the page's own is not repeated."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import yaml

EVIDENCE = ("grade", "source", "date")
ORDER = (
    "page_format", "maker", "name", "family", "form", "unverified", "inherits", "removed", "evidence", "identity", "options", "facts",
    "plan", "opening", "positions", "operations", "claims", "notes", "photos",
)  # fmt: skip


class Dumper(yaml.SafeDumper):
    """Small lists and points stay on one line."""

    def increase_indent(self, flow: bool = False, indentless: bool = False) -> None:  # noqa: ARG002
        super().increase_indent(flow, False)

    def ignore_aliases(self, data: Any) -> bool:  # noqa: ARG002
        return True


def _sequence(dumper: yaml.SafeDumper, data: list[Any]) -> yaml.Node:
    flat = all(not isinstance(item, dict | list) for item in data) or all(isinstance(item, list) for item in data)
    return dumper.represent_sequence("tag:yaml.org,2002:seq", data, flow_style=flat)


def _mapping(dumper: yaml.SafeDumper, data: dict[str, Any]) -> yaml.Node:
    short = bool(data) and len(data) <= 4 and all(isinstance(item, int | float) for item in data.values())
    return dumper.represent_mapping("tag:yaml.org,2002:map", data, flow_style=short)


def _text(dumper: yaml.SafeDumper, data: str) -> yaml.Node:
    """Text that a plain scalar would turn into something else is quoted by the library's rules."""
    return dumper.represent_scalar("tag:yaml.org,2002:str", data)


Dumper.add_representer(list, _sequence)
Dumper.add_representer(dict, _mapping)
Dumper.add_representer(str, _text)


def write_page(page: Mapping[str, Any]) -> bytes:
    """A page file in UTF-8; reading it again gives an equal page.

    Parameters
    ----------
    page : a page document in its stored form
    """
    default = page.get("evidence") or {}
    ordered = {key: _short(page[key], default) for key in ORDER if key in page}
    text = yaml.dump(ordered, Dumper=Dumper, sort_keys=False, allow_unicode=True, width=120)
    return text.encode()


def _short(value: Any, default: Mapping[str, Any]) -> Any:
    if _is_statements(value):
        items = [_statement(item, default) for item in value]
        return items[0] if len(items) == 1 else [item if isinstance(item, dict) and "value" in item else {"value": item} for item in items]
    if isinstance(value, dict):
        return {key: _short(item, default) for key, item in value.items()}
    return [_short(item, default) for item in value] if isinstance(value, list) else value


def _is_statements(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(item, dict) and {"value", *EVIDENCE} <= item.keys() for item in value)


def _statement(item: Mapping[str, Any], default: Mapping[str, Any]) -> Any:
    """The bare value where the page's evidence holds; a value that would read as statements keeps its frame."""
    left = {key: value for key, value in item.items() if key not in EVIDENCE or value != default.get(key)}
    bare = set(left) == {"value"} and not isinstance(left["value"], dict)
    return left["value"] if bare else left
