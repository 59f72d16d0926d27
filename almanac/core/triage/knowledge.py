"""What is known of symptoms, what may lie behind them, and the tests that tell: as data a company can edit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from almanac.core.errors import ContractError


@dataclass(frozen=True)
class Hypothesis:
    """Something that may be wrong.

    kind : of the part whose failure it is, None for a cause that is no part · per_100 : how often it is behind a complaint,
    per 100 machines a year; None where the fleet's own rate of the kind is used · trivial : checked before anything is opened
    after : event to factor, such as drop: 4 · first : looked at before everything else while it is likely enough
    """

    id: str
    words: str
    kind: str | None = None
    per_100: float | None = None
    trivial: bool = False
    after: Mapping[str, float] = field(default_factory=dict)
    old_age: float = 1.0


@dataclass(frozen=True)
class Test:
    """A test: minutes, what is done, and the chance of each outcome under each hypothesis.

    otherwise : chance of each outcome under every hypothesis that is not named · safety : done before others while `looks_for`
    is possible · caution : said before it
    """

    id: str
    words: str
    minutes: float
    outcomes: tuple[str, ...]
    chances: Mapping[str, tuple[float, ...]]
    otherwise: tuple[float, ...]
    trivial: bool = False
    safety: str | None = None
    caution: str | None = None
    opens: bool = False

    def likelihood(self, outcome: str, hypothesis: str) -> float:
        """Chance of an outcome under a hypothesis."""
        return self.chances.get(hypothesis, self.otherwise)[self.outcomes.index(outcome)]


@dataclass(frozen=True)
class Symptom:
    """A complaint with its hypotheses and tests. said : other words people complain with"""

    id: str
    words: str
    hypotheses: tuple[Hypothesis, ...]
    tests: tuple[Test, ...]
    said: tuple[str, ...] = ()

    def test(self, name: str) -> Test | None:
        """A test by its id."""
        return next((test for test in self.tests if test.id == name), None)


def symptoms_of(document: Mapping[str, Any]) -> tuple[Symptom, ...]:
    """Symptoms of a knowledge document.

    Parameters
    ----------
    document : {"symptoms": [...]} as docs/diagnosis.md explains

    Returns
    -------
    tuple of Symptom

    Raises
    ------
    ContractError : naming the place, what was wanted and what was got
    """
    entries = document.get("symptoms")
    if not isinstance(entries, Sequence) or not entries:
        raise ContractError("symptoms: a list with at least one symptom was wanted")
    found = tuple(_symptom(entry, f"symptoms[{place}]") for place, entry in enumerate(entries))
    _once([symptom.id for symptom in found], "symptoms")
    return found


def _symptom(entry: Any, where: str) -> Symptom:
    _has(entry, ("id", "words", "hypotheses", "tests"), where)
    hypotheses = tuple(_hypothesis(item, f"{where}.hypotheses[{place}]") for place, item in enumerate(entry["hypotheses"]))
    if len(hypotheses) < 2:
        raise ContractError(f"{where}.hypotheses: at least two were wanted, one alone needs no test")
    names = [item.id for item in hypotheses]
    _once(names, f"{where}.hypotheses")
    tests = tuple(_test(item, names, f"{where}.tests[{place}]") for place, item in enumerate(entry["tests"]))
    _once([test.id for test in tests], f"{where}.tests")
    return Symptom(entry["id"], entry["words"], hypotheses, tests, _said(entry.get("said"), f"{where}.said"))


def _said(values: Any, where: str) -> tuple[str, ...]:
    if values is None:
        return ()
    if isinstance(values, str) or not isinstance(values, Sequence) or not all(isinstance(one, str) and one.strip() for one in values):
        raise ContractError(f"{where}: a list of words people say was wanted, such as [no picture, stays black]")
    return tuple(values)


def _hypothesis(entry: Any, where: str) -> Hypothesis:
    _has(entry, ("id", "words"), where)
    per_100 = entry.get("per_100")
    if per_100 is None and entry.get("kind") is None:
        raise ContractError(f"{where}.per_100: how often, per 100 machines a year, or a kind whose own rate is used")
    if per_100 is not None and per_100 <= 0:
        raise ContractError(f"{where}.per_100: a number above 0 was wanted, got {per_100}")
    for event, factor in (entry.get("after") or {}).items():
        if factor <= 0:
            raise ContractError(f"{where}.after.{event}: a factor above 0 was wanted, got {factor}")
    return Hypothesis(
        entry["id"],
        entry["words"],
        entry.get("kind"),
        per_100,
        bool(entry.get("trivial")),
        dict(entry.get("after") or {}),
        float(entry.get("old_age") or 1),
    )


def _test(entry: Any, hypotheses: list[str], where: str) -> Test:
    _has(entry, ("id", "words", "minutes", "outcomes", "otherwise"), where)
    outcomes = tuple(entry["outcomes"])
    if len(outcomes) < 2:
        raise ContractError(f"{where}.outcomes: at least two were wanted")
    if entry["minutes"] <= 0:
        raise ContractError(f"{where}.minutes: a number above 0 was wanted, got {entry['minutes']}")
    rows = {name: _row(row, outcomes, f"{where}.chances.{name}") for name, row in (entry.get("chances") or {}).items()}
    strange = [name for name in (*rows, entry.get("safety")) if name is not None and name not in hypotheses]
    if strange:
        raise ContractError(f"{where}: no hypothesis is called {', '.join(strange)}")
    return Test(
        id=entry["id"],
        words=entry["words"],
        minutes=float(entry["minutes"]),
        outcomes=outcomes,
        chances=rows,
        otherwise=_row(entry["otherwise"], outcomes, f"{where}.otherwise"),
        trivial=bool(entry.get("trivial")),
        safety=entry.get("safety"),
        caution=entry.get("caution"),
        opens=bool(entry.get("opens")),
    )


def _row(values: Any, outcomes: tuple[str, ...], where: str) -> tuple[float, ...]:
    if not isinstance(values, Sequence) or len(values) != len(outcomes):
        raise ContractError(f"{where}: {len(outcomes)} chances were wanted, one for each outcome")
    row = tuple(float(value) for value in values)
    if any(not 0 < value < 1 for value in row) or abs(sum(row) - 1) > 1e-6:
        raise ContractError(f"{where}: chances above 0 and below 1 that add up to 1 were wanted: nothing is ever certain")
    return row


def _has(entry: Any, keys: Sequence[str], where: str) -> None:
    if not isinstance(entry, Mapping):
        raise ContractError(f"{where}: an entry with {', '.join(keys)} was wanted")
    missing = [key for key in keys if key not in entry]
    if missing:
        raise ContractError(f"{where}: {', '.join(missing)} missing")


def _once(names: Sequence[str], where: str) -> None:
    twice = sorted({name for name in names if names.count(name) > 1})
    if twice:
        raise ContractError(f"{where}: {', '.join(twice)} used twice")
