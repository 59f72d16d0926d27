"""Diagnosis: symptoms, the table of hypotheses, the next test, and repair or replace."""

from __future__ import annotations

from pydantic import Field

from almanac.web.schemas.base import Schema


class SymptomView(Schema):
    """A symptom. `share` : how much of the words that were asked with it explains; 0 where it is none of them."""

    id: str
    words: str
    share: float = 0


class Complaint(Schema):
    words: str = Field("", max_length=400)


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
    tells: str


class ResultView(Schema):
    """A result; `job` is an earlier job that the machine came back from."""

    test: str
    words: str
    outcome: str
    told: bool
    job: int | None


class DiagnosisView(Schema):
    symptom: SymptomView
    hypotheses: list[HypothesisView]
    tests: list[TestView]
    results: list[ResultView]
    against: list[str]
    returns: list[int]
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
    amount: float | None


class ChoiceView(Schema):
    name: str
    total: float | None
    least: float
    lines: list[CostLine]


class OptionsView(Schema):
    """Repair, replace and harvest side by side.

    `ratio` is null where nothing remains of the machine's value or a price is missing (`unpriced`), `talk` where nobody can say yet;
    `assumed` names figures the company has not said.
    """

    choices: list[ChoiceView]
    remaining_value: float
    ratio: float | None
    talk: bool | None
    talk_ratio: float
    unpriced: list[str]
    assumed: list[str]
