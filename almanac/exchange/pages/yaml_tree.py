"""Reading YAML that strangers wrote: no aliases, no tags, no surprises, and the line of every entry."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

import yaml

from almanac.core.parts.faults import Where
from almanac.core.text import control_character

MOST_BYTES = 1_000_000
MOST_DEPTH = 20


class YamlFault(Exception):
    """The text is no page file; line and column count from 1."""

    def __init__(self, message: str, line: int = 1, column: int = 1) -> None:
        self.message, self.line, self.column = message, line, column
        super().__init__(message)


@dataclass(frozen=True)
class Tree:
    """Plain values, and the line of each by its path."""

    value: Any
    lines: dict[Where, int]

    def line(self, where: Where) -> int:
        """The line of an entry, or of the nearest entry around it."""
        for end in range(len(where), -1, -1):
            if where[:end] in self.lines:
                return self.lines[where[:end]]
        return 1


class Loader(yaml.CSafeLoader):
    """Plain scalars are numbers, true, false, null or text: `no`, `on` and dates stay text."""


Loader.yaml_implicit_resolvers = {}
for tag, pattern, first in (
    ("bool", r"^(?:true|false)$", "tf"),
    ("null", r"^(?:null|~|)$", ["n", "~", ""]),
    ("int", r"^-?(?:0|[1-9][0-9]*)$", "-0123456789"),
    ("float", r"^-?(?:0|[1-9][0-9]*)\.[0-9]+$", "-0123456789"),
):
    Loader.add_implicit_resolver(f"tag:yaml.org,2002:{tag}", re.compile(pattern), list(first))


def read_yaml(data: bytes) -> Tree:
    """Plain values of one YAML document.

    Raises
    ------
    YamlFault : not UTF-8, too large or deep, an alias, anchor or tag, a key used twice, or no YAML at all
    """
    if len(data) > MOST_BYTES:
        raise YamlFault(f"the file has {len(data):,} bytes; a page has {MOST_BYTES:,} at most")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise YamlFault("not UTF-8 text: save it as UTF-8", data[: error.start].count(b"\n") + 1) from error
    try:
        _refuse_early(text)
        node = yaml.compose(text, Loader)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        raise YamlFault(error.problem or "no YAML", (mark.line if mark else 0) + 1, (mark.column if mark else 0) + 1) from error
    except yaml.YAMLError as error:
        raise YamlFault(f"no YAML: {str(error).splitlines()[0]}") from error
    if node is None:
        raise YamlFault("the file is empty")
    lines: dict[Where, int] = {}
    return Tree(_plain(node, (), lines), lines)


def _refuse_early(text: str) -> None:
    """Walk the events first, so that nothing is built of a hostile file."""
    depth = 0
    for event in yaml.parse(text, Loader):
        mark = event.start_mark
        line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
        if isinstance(event, yaml.AliasEvent) or getattr(event, "anchor", None):
            raise YamlFault("aliases and anchors are refused: write the entry out", line, column)
        tag = getattr(event, "tag", None)
        if tag not in (None, "!"):
            raise YamlFault(f"tags such as {tag} are refused: write the plain value", line, column)
        if isinstance(event, yaml.CollectionStartEvent):
            depth += 1
            if depth > MOST_DEPTH:
                raise YamlFault(f"nested deeper than {MOST_DEPTH} levels", line, column)
        elif isinstance(event, yaml.CollectionEndEvent):
            depth -= 1


def _plain(node: yaml.Node, where: Where, lines: dict[Where, int]) -> Any:
    lines[where] = node.start_mark.line + 1
    if isinstance(node, yaml.SequenceNode):
        return [_plain(item, (*where, place), lines) for place, item in enumerate(node.value)]
    if isinstance(node, yaml.MappingNode):
        return _mapping(node, where, lines)
    return _scalar(node)


def _mapping(node: yaml.MappingNode, where: Where, lines: dict[Where, int]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key_node, value_node in node.value:
        line, column = key_node.start_mark.line + 1, key_node.start_mark.column + 1
        if not isinstance(key_node, yaml.ScalarNode):
            raise YamlFault("a key must be a plain word", line, column)
        key = str(_scalar(key_node) if control_character(key_node.value) else key_node.value)
        if key in found:
            raise YamlFault(f"{key!r} is written twice in one entry", line, column)
        found[key] = _plain(value_node, (*where, key), lines)
        lines[(*where, key)] = line
    return found


def _scalar(node: yaml.Node) -> Any:
    kind, text = node.tag.rsplit(":", 1)[-1], node.value
    if fault := control_character(text):
        raise YamlFault(fault, node.start_mark.line + 1, node.start_mark.column + 1)
    if kind == "int":
        return int(text)
    if kind == "float":
        return float(text)
    if kind == "bool":
        return text == "true"
    return None if kind == "null" else text
