"""From a stored page to a file: evidence that is the page's own is not repeated."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import yaml

from almanac.core.parts.inheritance import own_page
from almanac.core.parts.page_forms import PRESENT
from almanac.exchange.pages.nested.fold import arranged, fold, tool_of
from almanac.exchange.pages.nested.unfold import unfold
from almanac.exchange.pages.read import validate_page

MOST_ON_A_LINE = 160
NESTED = ("parts", "steps")
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


class Short(Dumper):
    """Entries that fit on a line stay on one, and whole figures are written whole."""


def _short_mapping(dumper: yaml.SafeDumper, data: dict[str, Any]) -> yaml.Node:
    return dumper.represent_mapping("tag:yaml.org,2002:map", data, flow_style=_fits(data))


def _short_sequence(dumper: yaml.SafeDumper, data: list[Any]) -> yaml.Node:
    return dumper.represent_sequence("tag:yaml.org,2002:seq", data, flow_style=_fits(data))


def _fits(data: Any) -> bool:
    """Whether an entry is short and holds nothing that is deep."""
    return bool(data) and _depth(data) <= 2 and len(str(data)) <= MOST_ON_A_LINE


def _depth(data: Any) -> int:
    inner = data.values() if isinstance(data, dict) else data if isinstance(data, list) else ()
    return 1 + max(map(_depth, inner), default=0) if isinstance(data, dict | list) else 0


def _figure(dumper: yaml.SafeDumper, data: float) -> yaml.Node:
    return dumper.represent_int(int(data)) if data == int(data) else dumper.represent_float(data)


Short.add_representer(dict, _short_mapping)
Short.add_representer(list, _short_sequence)
Short.add_representer(float, _figure)


def upgraded(page: Mapping[str, Any], sibling: Mapping[str, Any] | None = None) -> bytes:
    """A page file in the present form, its positions in the order they come out; it says what it said.

    Parameters
    ----------
    page : as read, in any form · sibling : the whole page it inherits from, where it does
    """
    return write_page(arranged(own_page(page, sibling)))


def write_page(page: Mapping[str, Any]) -> bytes:
    """A page file in UTF-8; reading it again gives an equal page.

    Parameters
    ----------
    page : a page document in its stored form
    """
    nested = fold(page) if page.get("page_format") == PRESENT else None
    if nested is not None and _reads_back(nested, page):
        return _dumped({key: nested[key] for key in (*ORDER, *NESTED) if key in nested and nested[key] not in ({}, [])}, Short)
    default = page.get("evidence") or {}
    return _dumped({key: _short(page[key], default) for key in ORDER if key in page})


def _dumped(ordered: Mapping[str, Any], dumper: type[yaml.SafeDumper] = Dumper) -> bytes:
    text = yaml.dump(ordered, Dumper=dumper, sort_keys=False, allow_unicode=True, width=120)
    return text.encode()


def _reads_back(nested: Mapping[str, Any], page: Mapping[str, Any]) -> bool:
    """Whether the short form says the whole page: a flag that is off and a list that is empty are as good as left out."""
    flat = unfold(nested)
    read, _ = validate_page(flat.page) if not flat.faults else (None, [])
    return read is not None and _said(read) == _said(page)


def _said(value: Any) -> Any:
    if isinstance(value, Mapping):
        tool = tool_of(value) if value.get("fasteners") else ""
        return {
            key: _said(item)
            for key, item in value.items()
            if item is not False and item not in ([], {}) and not (key == "tool" and item == tool)
        }
    return [_said(item) for item in value] if isinstance(value, list) else value


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
