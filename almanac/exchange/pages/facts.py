"""Facts of a page file: written short where the page's own evidence holds, stored in full."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Discriminator,
    Field,
    GetCoreSchemaHandler,
    Tag,
    TypeAdapter,
    ValidationError,
    ValidationInfo,
    WithJsonSchema,
)
from pydantic_core import CoreSchema, PydanticCustomError

from almanac.core.days import beyond_reason
from almanac.core.parts.kinds import Grade

When = dict[str, str | list[str]]
Scalar = bool | int | float | str
FactValue = Scalar | list[Scalar] | dict[str, Scalar] | None


def _meant(day: datetime.date) -> datetime.date:
    if fault := beyond_reason(day):
        raise PydanticCustomError("day", "{fault}", {"fault": fault})
    return day


UNDATED = "undated"


def _undated(given: Any) -> Any:
    """A day nobody knows is written so, or as a question mark."""
    return None if given in (UNDATED, "?", "unknown") else given


Day = Annotated[datetime.date, AfterValidator(_meant)]
DayOrNone = Annotated[Day | None, BeforeValidator(_undated)]


class Strict(BaseModel):
    """Nothing but what the format names."""

    model_config = ConfigDict(extra="forbid", use_enum_values=True, str_max_length=2000)


class Evidence(Strict):
    """What a statement rests on."""

    grade: Grade = Field(description="How it is known, strongest first: measured, label, reported, document, inferred, told, assumed.")
    source: str = Field(description="Who or what says so.")
    date: DayOrNone = Field(None, description="The day it was seen or said, as 2026-03-14; left out where nobody knows.")


class PageFact(Strict):
    """One statement with its evidence; photos by the name of their file, inherited_from the sibling it was taken over from.

    when : options of a machine it is so with alone
    """

    value: FactValue
    grade: Grade
    source: str
    date: DayOrNone = None
    photos: list[str] = []
    inherited_from: str | None = None
    when: When | None = None


def expand(given: Any, info: ValidationInfo) -> Any:
    """A bare value, one statement or a list of conflicting statements, as a list of full statements."""
    statements = given if _is_statements(given) else [given]
    return [_full(item, info) for item in statements]


def _is_statements(given: Any) -> bool:
    return isinstance(given, list) and bool(given) and all(isinstance(item, dict) and "value" in item for item in given)


def _full(item: Any, info: ValidationInfo) -> Any:
    if isinstance(item, PageFact):
        return item
    statement = dict(item) if isinstance(item, dict) and "value" in item else {"value": item}
    default = (info.context or {}).get("evidence") or {}
    for key in ("grade", "source", "date"):
        if key not in statement:
            if key == "date" and key not in default:
                statement[key] = None
            elif key not in default:
                raise PydanticCustomError(
                    "evidence", "no {key} is given, and the page has no evidence of its own that would hold", {"key": key}
                )
            else:
                statement[key] = default[key]
    return statement


VALUE_SCHEMA: dict[str, Any] = {
    "anyOf": [
        {"type": ["string", "number", "boolean", "null"]},
        {"type": "array", "items": {"type": ["string", "number", "boolean"]}},
        {"type": "object", "additionalProperties": {"type": ["string", "number", "boolean"]}},
    ]
}
STATEMENT_SCHEMA: dict[str, Any] = {
    "type": "object",
    "required": ["value"],
    "additionalProperties": False,
    "properties": {
        "value": VALUE_SCHEMA,
        "grade": {"enum": [grade.value for grade in Grade]},
        "source": {"type": "string"},
        "date": {"anyOf": [{"type": "string", "format": "date"}, {"enum": [UNDATED]}, {"type": "null"}]},
        "photos": {"type": "array", "items": {"type": "string"}},
        "inherited_from": {"type": ["string", "null"]},
        "when": {
            "description": "The options a machine must have for this to be so.",
            "type": ["object", "null"],
            "additionalProperties": {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]},
        },
    },
}
SAID_SCHEMA: dict[str, Any] = {
    "description": "A statement {value, grade, source, date}, or a list of conflicting ones.",
    "anyOf": [STATEMENT_SCHEMA, {"type": "array", "minItems": 1, "items": STATEMENT_SCHEMA}],
}
SHORT_SCHEMA: dict[str, Any] = {
    "description": "A bare value under the page's evidence, a statement {value, grade, source, date}, or a list of conflicting ones.",
    "anyOf": [*VALUE_SCHEMA["anyOf"], STATEMENT_SCHEMA, {"type": "array", "minItems": 1, "items": STATEMENT_SCHEMA}],
}
Statements = Annotated[list[PageFact], BeforeValidator(expand), Field(min_length=1), WithJsonSchema(SHORT_SCHEMA, mode="validation")]


PLAIN, SAID = "~plain", "~said"
"""The forms of a stated entry; no name of a file begins so."""


@dataclass(frozen=True)
class Stated:
    """An entry that is plain where the page's own evidence holds, and one statement or several where it is graded or sources differ."""

    plain: Any

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Either form, told apart by its shape."""
        return handler.generate_schema(_either(self.plain))


def _either(plain: Any) -> Any:
    values: TypeAdapter[Any] = TypeAdapter(plain)

    def understood(statements: list[PageFact]) -> list[PageFact]:
        for statement in statements:
            if statement.value is not None:
                statement.value = _value(values, statement.value)
        return statements

    def form(given: Any) -> str:
        return SAID if isinstance(given, list | dict) else PLAIN

    told = Annotated[list[PageFact], BeforeValidator(expand), AfterValidator(understood), Field(min_length=1), WithJsonSchema(SAID_SCHEMA)]
    return Annotated[Annotated[plain, Tag(PLAIN)] | Annotated[told, Tag(SAID)], Discriminator(form)]


def _value(values: TypeAdapter[Any], value: Any) -> Any:
    try:
        return values.dump_python(values.validate_python(value), mode="json")
    except ValidationError as error:
        wanted = str(error.errors()[0].get("ctx", {}).get("expected", "")).replace("'", "").replace(" or ", ", ")
        said = {"wanted": f"one of {wanted} was wanted" if wanted else "another value was wanted", "value": repr(value)}
        raise PydanticCustomError("stated", "{wanted}, got {value}", said) from error
