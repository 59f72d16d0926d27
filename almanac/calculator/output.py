"""Printing an answer: one JSON document, or tables to read."""

from __future__ import annotations

import json
from typing import Any

import numpy as np


def as_json(answer: dict[str, Any]) -> str:
    """One JSON document; numbers keep all their digits."""
    return json.dumps(answer, default=_plain, allow_nan=False)


def _plain(value: object) -> object:
    if isinstance(value, np.generic):
        return value.item()
    raise TypeError(f"{type(value)} is not part of an answer")


def as_table(answer: dict[str, Any]) -> str:
    """The answer as indented tables: lists of objects become rows, the rest name and value."""
    return "\n".join(_lines(answer, ""))


def _lines(value: dict[str, Any], indent: str) -> list[str]:
    lines: list[str] = []
    for name, item in value.items():
        if isinstance(item, dict):
            lines += [f"{indent}{name}", *_lines(item, indent + "  ")]
        elif isinstance(item, list) and item and isinstance(item[0], dict):
            lines += [f"{indent}{name}", *_rows(item, indent + "  ")]
        elif isinstance(item, list) and any(isinstance(entry, str) and " " in entry for entry in item):
            lines += [f"{indent}{name}", *(f"{indent}  {entry}" for entry in item)]
        elif isinstance(item, list):
            lines.append(f"{indent}{name}: {' '.join(_cell(entry) for entry in item)}")
        else:
            lines.append(f"{indent}{name}: {_cell(item)}")
    return lines


def _rows(items: list[dict[str, Any]], indent: str) -> list[str]:
    flat = [_flatten(item) for item in items]
    names = list(flat[0])
    cells = [names, *([_cell(row.get(name)) for name in names] for row in flat)]
    widths = [max(len(row[i]) for row in cells) for i in range(len(names))]
    return [indent + "  ".join(cell.rjust(width) for cell, width in zip(row, widths, strict=True)) for row in cells]


def _flatten(item: dict[str, Any], prefix: str = "") -> dict[str, Any]:
    flat: dict[str, Any] = {}
    for name, value in item.items():
        flat |= _flatten(value, f"{prefix}{name}.") if isinstance(value, dict) else {f"{prefix}{name}": value}
    return flat


def _cell(value: object) -> str:
    if value is None:
        return "-"
    if isinstance(value, float | np.floating):
        return f"{float(value):.6g}"
    return str(value)
