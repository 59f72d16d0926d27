"""Diagnosis: symptoms, the table of hypotheses, the next test, and repair or replace."""

from __future__ import annotations

from pydantic import Field

from almanac.web.schemas.base import Schema


class SymptomView(Schema):
    id: str
    words: str


class SymptomList(Schema):
    symptoms: list[SymptomView]


class HypothesisView(Schema):
    """A hypothesis with its prior and posterior share, and what its prior rests on."""

    id: str
    words: str
    kind: str | None
    trivial: bool
    prior: float
    posterior: float
    weight: float
    basis: str


class TestView(Schema):
    """A test with what it is worth now."""

    id: str
    words: str
    minutes: float
    outcomes: list[str]
    caution: str | None
    opens: bool
    bits: float
    per_minute: float
    reason: str


class ResultView(Schema):
    test: str
    words: str
    outcome: str
    told: bool


class DiagnosisView(Schema):
    symptom: SymptomView
    hypotheses: list[HypothesisView]
    tests: list[TestView]
    results: list[ResultView]
    events: list[str]
    old: bool


class KnowledgeView(Schema):
    """The knowledge as a file, and the number of the entry it comes from; 0 where it is what the application ships with."""

    text: str
    number: int


class KnowledgeIn(Schema):
    text: str = Field(max_length=1_000_000)


class KnowledgeKept(Schema):
    number: int


class CostLine(Schema):
    words: str
    amount: float


class ChoiceView(Schema):
    name: str
    total: float
    lines: list[CostLine]


class OptionsView(Schema):
    """Repair, replace and harvest side by side; `ratio` is null where nothing remains of the machine's value."""

    choices: list[ChoiceView]
    remaining_value: float
    ratio: float | None
    talk: bool
    talk_ratio: float
