"""Settings near those in force are worked out before anybody chooses them, and give the same answers as if they had not been."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from sqlalchemy.orm import Session

from almanac.core.demand import counts
from almanac.services.outlook import aged, laws
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.lines import REMEMBERED, STANDING, Line, OutlookBuilder
from almanac.services.outlook.near_settings import draw_near_settings


def under(inputs: Inputs, key: str, value: Any, scope: tuple[str, str] = ("company", "")) -> Inputs:
    """The same inputs with one setting changed."""
    entries = inputs.settings.entries | {(*scope, key): (value, 99)}
    return replace(inputs, settings=replace(inputs.settings, entries=entries))


def forget() -> None:
    for remembered in (REMEMBERED, STANDING, aged.REMEMBERED, laws.KEPT):
        remembered.clear()


def plans(lines: list[Line]) -> list[Any]:
    return [(line.part.number, line.plan, line.sites_short) for line in lines]


@pytest.fixture
def worked_out(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """How many windows were worked out, call by call."""
    calls: list[int] = []
    real = counts.probabilities

    def counted(pieces: Any, *rest: Any) -> Any:
        calls.append(pieces.exposure.shape[0])
        return real(pieces, *rest)

    monkeypatch.setattr(counts, "probabilities", counted)
    return calls


def test_another_target_or_review_finds_its_laws_worked_out(session: Session, worked_out: list[int]) -> None:
    inputs = read_inputs(session)
    draw_near_settings(inputs)
    worked_out.clear()
    for key, value in (("target", 0.907), ("target", 0.9777), ("review_days", 21)):
        OutlookBuilder(under(inputs, key, value)).lines()
    assert worked_out == []


def test_it_gives_way_to_what_is_newer(session: Session, worked_out: list[int]) -> None:
    inputs = read_inputs(session)
    OutlookBuilder(inputs).lines()
    forget()
    answers = iter([True, False])
    draw_near_settings(inputs, wanted=lambda: next(answers))
    done = sum(worked_out)
    draw_near_settings(inputs, wanted=lambda: False)
    assert sum(worked_out) == done > 0
    draw_near_settings(inputs)
    assert sum(worked_out) > done


def test_doing_it_again_works_nothing_out(session: Session, worked_out: list[int]) -> None:
    inputs = read_inputs(session)
    draw_near_settings(inputs)
    worked_out.clear()
    draw_near_settings(inputs)
    assert worked_out == []


def test_answers_are_the_same_without_it(session: Session) -> None:
    inputs = under(read_inputs(session), "target", 0.913)
    forget()
    cold = plans(OutlookBuilder(inputs).lines())
    forget()
    draw_near_settings(read_inputs(session))
    assert plans(OutlookBuilder(inputs).lines()) == cold


def test_a_target_of_one_kind_leaves_the_lines_of_the_others(session: Session) -> None:
    inputs = read_inputs(session)
    before = {line.part.number: line for line in OutlookBuilder(inputs).lines()}
    for line in OutlookBuilder(under(inputs, "target", 0.8, ("kind", "fan"))).lines():
        known = before[line.part.number]
        assert line.law is known.law
        assert line.path is known.path
        assert (line.policy.target == 0.8) == (line.part.kind == "fan")
        if line.part.kind != "fan":
            assert line.plan is known.plan


def test_an_empty_company_has_nothing_to_work_out(empty_session: Session, worked_out: list[int]) -> None:
    draw_near_settings(read_inputs(empty_session))
    assert worked_out == []


def test_one_part_that_changes_often_does_not_push_out_the_others(session: Session) -> None:
    inputs = read_inputs(session)
    before = {line.part.number: line for line in OutlookBuilder(inputs).lines()}
    for step in range(30):
        OutlookBuilder(under(inputs, "target", 0.80 + step / 200, ("part", "OF-P14"))).lines()
    after = {line.part.number: line for line in OutlookBuilder(inputs).lines()}
    assert all(after[number].plan is line.plan for number, line in before.items() if number != "OF-P14")
    assert after["OF-P14"].plan == before["OF-P14"].plan
