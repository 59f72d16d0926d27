"""Counts of a page file: a number, at least so many, about so many, or not known (rule U1)."""

from __future__ import annotations

from functools import partial
from typing import Annotated, Any

from pydantic import BeforeValidator, WithJsonSchema
from pydantic_core import PydanticCustomError

from almanac.core.errors import ContractError
from almanac.core.teardown.counts import read_count


def _count(given: Any, *, low: int, high: int) -> int | str:
    """A count as it is kept: 5, ">=3", "~8", "?"."""
    try:
        count = read_count(given if isinstance(given, int | str) else str(given))
    except ContractError as error:
        raise PydanticCustomError("count", "{fault}", {"fault": str(error).split(": ", 1)[1].split(", got")[0]}) from error
    if not (count.unknown or low <= count.number <= high):
        raise PydanticCustomError("count", "{low} to {high} was wanted", {"low": low, "high": high})
    return count.written


def _schema(low: int, high: int) -> WithJsonSchema:
    return WithJsonSchema(
        {
            "description": "A number, at least so many (>=3), about so many (~8), or not known (?).",
            "anyOf": [{"type": "integer", "minimum": low, "maximum": high}, {"type": "string", "pattern": r"^((>=|~)\d{1,3}|\?)$"}],
        }
    )


FastenerCount = Annotated[int | str, BeforeValidator(partial(_count, low=1, high=200)), _schema(1, 200)]
DecoyCount = Annotated[int | str, BeforeValidator(partial(_count, low=0, high=50)), _schema(0, 50)]
ClipCount = Annotated[int | str, BeforeValidator(partial(_count, low=1, high=60)), _schema(1, 60)]
HiddenCount = Annotated[int | str, BeforeValidator(partial(_count, low=0, high=20)), _schema(0, 20)]
