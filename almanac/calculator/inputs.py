"""Reading the calculator's files: every fault is collected and named by file, line and column."""

from __future__ import annotations

import json
import math
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from almanac.core.checks import Floats
from almanac.exchange.tables import Row, TableFault, read_csv


class InputFaults(Exception):
    """The input is wrong; one line for each fault."""

    def __init__(self, faults: Sequence[str]) -> None:
        self.faults = list(faults)
        super().__init__("\n".join(self.faults))


def read_bytes(path: str) -> bytes:
    """A file, or standard input for `-`."""
    if path == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise InputFaults([f"{path}: cannot be read: {error.strerror}"]) from error


class NumberTable:
    """A CSV file whose cells are numbers or names; faults are gathered until `finish`."""

    def __init__(self, path: str, *, required: Sequence[str]) -> None:
        self.path = path
        self.faults: list[str] = []
        try:
            self.rows: list[Row] = read_csv(read_bytes(path), required=required)
        except TableFault as fault:
            raise InputFaults([f"{path}: {fault}"]) from fault
        if not self.rows:
            raise InputFaults([f"{path}: line 2: at least one row was wanted"])

    def fault(self, row: Row, column: str, message: str) -> None:
        self.faults.append(f"{self.path}: line {row.line}, column {column}: {message}")

    def names(self, column: str, default: str) -> list[str]:
        return [row.cells.get(column) or default for row in self.rows]

    def numbers(self, column: str, *, default: float | None = None, low: float = -math.inf, high: float = math.inf) -> Floats:
        """A column of finite numbers within [low, high]; an empty cell takes the default, or is a fault without one."""
        return np.array([self._number(row, column, default, low, high) for row in self.rows])

    def _number(self, row: Row, column: str, default: float | None, low: float, high: float) -> float:
        cell = row.cells.get(column, "")
        if not cell and default is not None:
            return default
        try:
            value = float(cell)
        except ValueError:
            self.fault(row, column, f"a number was wanted, got {cell!r}")
            return math.nan
        if not math.isfinite(value) or not low <= value <= high:
            self.fault(row, column, f"a number {_range(low, high)} was wanted, got {cell}")
            return math.nan
        return value

    def finish(self) -> None:
        """Raise what was gathered."""
        if self.faults:
            raise InputFaults(self.faults)


def _range(low: float, high: float) -> str:
    if math.isinf(high):
        return f"of at least {low:g}" if not math.isinf(low) else "that is finite"
    return f"from {low:g} to {high:g}"


def read_text(path: str) -> str:
    """A file's text, or standard input for `-`."""
    try:
        return read_bytes(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputFaults([f"{path}: not UTF-8 text"]) from error


def read_json(text: str, path: str, *, line: int | None = None) -> dict[str, Any]:
    """A JSON object. line : where it stands among lines of objects"""
    try:
        found = json.loads(text)
    except json.JSONDecodeError as error:
        at = line if line is not None else error.lineno
        raise InputFaults([f"{path}: line {at}, column {error.colno}: {error.msg}; check quotes, commas and brackets"]) from error
    if not isinstance(found, dict):
        where = f": line {line}" if line is not None else ""
        raise InputFaults([f"{path}{where}: an object with keys was wanted at the top"])
    return found


class JsonInput:
    """A JSON object read by key; faults are gathered until `finish`."""

    def __init__(self, path: str, values: dict[str, Any] | None = None) -> None:
        """Read a file; or take `values` that were read, `path` naming where."""
        self.path = path
        self.faults: list[str] = []
        self.values: dict[str, Any] = read_json(read_text(path), path) if values is None else values

    def fault(self, place: str, message: str) -> None:
        self.faults.append(f"{self.path}: {place}: {message}")

    def has(self, key: str) -> bool:
        return self.values.get(key) is not None

    def number(
        self, key: str, *, inside: Any = None, at: str = "", default: float | None = None, low: float = -math.inf, high: float = math.inf
    ) -> float:
        """A finite number within [low, high] of the document or of an object inside it."""
        holder = self.values if inside is None else inside
        value = holder.get(key) if isinstance(holder, dict) else None
        place = f"{at}.{key}" if at else key
        if value is None and default is not None:
            return default
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or not low <= value <= high:
            self.fault(place, f"a number {_range(low, high)} was wanted, got {json.dumps(value)}")
            return math.nan
        return float(value)

    def whole(self, key: str, *, inside: Any = None, at: str = "", default: int | None = None, low: int = 0, high: int = 10**9) -> int:
        """A whole number within [low, high]; a fraction where a count is wanted is a fault."""
        value = self.number(key, inside=inside, at=at, default=default, low=low, high=high)
        if math.isfinite(value) and value != int(value):
            self.fault(f"{at}.{key}" if at else key, f"a whole number was wanted, got {value:g}")
        return int(value) if math.isfinite(value) else 0

    def objects(self, key: str, *, inside: Any = None, at: str = "") -> list[dict[str, Any]]:
        """A list of objects, at least one."""
        holder = self.values if inside is None else inside
        value = holder.get(key)
        place = f"{at}.{key}" if at else key
        if not isinstance(value, list) or not value or not all(isinstance(item, dict) for item in value):
            self.fault(place, "a list of at least one object was wanted")
            return []
        return list(value)

    def numbers(self, value: Any, place: str, *, low: float = -math.inf, high: float = math.inf) -> list[float]:
        """A list of finite numbers within [low, high]."""
        if not isinstance(value, list) or not value:
            self.fault(place, "a list of numbers was wanted")
            return []
        return [self.number("value", inside={"value": item}, at=f"{place}[{i}]", low=low, high=high) for i, item in enumerate(value)]

    def finish(self) -> None:
        """Raise what was gathered."""
        if self.faults:
            raise InputFaults(self.faults)


def read_documents(path: str) -> Iterator[JsonInput]:
    """One document, or one on each line, each as soon as it is wanted."""
    text = read_text(path)
    lines = [(number, line) for number, line in enumerate(text.splitlines(), 1) if line.strip()]
    if not lines:
        raise InputFaults([f"{path}: line 1: an object with keys was wanted"])
    try:
        whole = read_json(text, path)
    except InputFaults:
        if len(lines) < 2 or not lines[0][1].rstrip().endswith("}"):
            raise
        for number, line in lines:
            yield JsonInput(f"{path}: line {number}", read_json(line, path, line=number))
        return
    yield JsonInput(path, whole)
