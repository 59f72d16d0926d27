"""Every computed thing: whatever its input holds is part of its key, and its answer is the same in another process.

The classes are found, not listed; the fields are enumerated, and each is changed.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from enum import Enum
from typing import Any

import numpy as np
import pytest
from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named, Question
from almanac.core.demand.unrecorded import Spread
from almanac.core.parts.lineup import Need
from almanac.services.alarms.expected import ChartKey, ExpectedOfKind, Since
from almanac.services.alarms.histories import read_histories
from almanac.services.alarms.watch import LimitOf
from almanac.services.answers.ask import answer_of, ask, keep, keep_pending, look_up
from almanac.services.answers.cache import FRONT
from almanac.services.answers.values import answer_type, decoded, encoded
from almanac.services.calibration.backtest import questions_at
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.demand import DemandOfPart, DemandOfSites
from almanac.services.outlook.fade import FadeOfKind, LearntFade, read_units
from almanac.services.outlook.inputs import DemandInputs, read_inputs, together
from almanac.services.outlook.money import FrontierOfPart, MoneyOfParts
from almanac.services.outlook.order_plans import OutlookOfPart, PartOutlook
from almanac.services.outlook.plate import plate_question
from almanac.services.outlook.projection import PartShelf
from almanac.services.outlook.rehearsal import Asked, Rehearsal, ToPlay
from almanac.services.outlook.since import SinceOfKind, _question
from almanac.services.pages.line_up import LineUpOfKind
from almanac.services.pages.profile import PageProfile
from almanac.services.pages.summary import Summary
from almanac.services.rates.asks import AsksOfKind
from almanac.services.rates.kind import RatesOfKind
from almanac.store import answers as store
from tests.services.looks import builder_of

PART = "OF-P14"


def examples(session: Session) -> list[Question[Any]]:
    """One question of each class, as the application asks it."""
    builder = builder_of(session)
    inputs, part = builder.inputs, builder.inputs.part(PART)
    row = builder.row(part)
    asked = builder.question(part)
    to_play = ToPlay(asked, PartOutlook(row.projection, row.plan), part, "plan", 0.9, 0.02)
    frontier = FrontierOfPart(asked, PartOutlook(row.projection, row.plan), part, 0.02)
    fit, of_kind = inputs.fit_of("fan"), inputs.of_kind("fan")
    numbers = {one.id: one.number for one in inputs.parts if one.kind == "fan"}
    models = {number: model.full_name for number, model in inputs.models.items()}
    alarms = ExpectedOfKind(
        "fan",
        inputs.clock.today,
        fit.group,
        fit.air,
        "auto",
        answer_of(session, fit),
        together(read_histories(session, list(fit.group), as_of=inputs.clock.today, decided={})),
        (Since(ChartKey("lot", part.id, made=9313), 0),),
    )
    pack = inputs.part("OB-H12-38")
    read = read_units(builder.inputs.life[pack.id].fleet.content.followed[:6], inputs.clock.today)
    curves = LearntFade({pack.id: (Named.of(read),)}, {pack.id: 0.7})
    fade = FadeOfKind({pack.id: (Named.of(read),)}, {pack.id: 0.7}, answer_of(session, curves))
    return [
        fit,
        DemandOfPart(asked.inputs, asked.fitted),
        DemandOfSites(asked.inputs, asked.fitted, {2: 20, 3: 25}),
        asked,
        plate_question(builder, part, row, unrecorded=Spread(1.0, 2.0, 3.0)),
        to_play,
        frontier,
        MoneyOfParts((answer_of(session, frontier),), (20.0,), (3.0,)),
        Rehearsal("plan", (Asked(PART, "Fan", "fan", 4.0, 2.0, 0.95),), (answer_of(session, to_play),), 1, 5, 1),
        LimitOf(0.2, 0.1, 2.0, 0.001),
        curves,
        fade,
        alarms,
        AsksOfKind(Named.of(of_kind), fit.log, answer_of(session, fit)),
        RatesOfKind(Named.of(of_kind), fit.log, answer_of(session, fit), numbers, models, 3),
        replace(_question(session, builder, "fan", date(2026, 10, 1)), under=Named("settings of then")),
        questions_at(session, inputs, date(2026, 7, 1), 92)[0],
        LineUpOfKind(
            (Need("1:A", 2.0, ("A", "B")),),
            {"A": 3.0, "B": 4.0},
            {"lead_years": 0.1, "target": 0.9, "holding_share": 0.2, "line_cost": 25.0},
        ),
        PageProfile(Named("page"), (Named("above"),)),
        Summary(Named("page"), (Named("above"),)),
    ]


def every_class(base: type[Question[Any]] = Question) -> Iterator[type[Question[Any]]]:
    for kind in base.__subclasses__():
        if kind.__module__.startswith("almanac."):
            yield kind
        yield from every_class(kind)


def test_every_class_has_an_example_and_a_name_of_its_own(session: Session) -> None:
    classes = list(every_class())
    assert {type(one) for one in examples(session)} == set(classes)
    assert len({kind.NAME for kind in classes}) == len(classes)
    assert all(kind.VERSION >= 1 for kind in classes)


def changed(value: Any) -> Iterator[Any]:
    """The same value with one thing in it another: every field of every dataclass within, an entry of every collection."""
    if isinstance(value, Named):
        yield Named(f"{value.key} and more")
    elif is_dataclass(value) and not isinstance(value, type):
        yield from _with_fields(value, [field.name for field in fields(value)], replace)
    elif isinstance(value, tuple) and hasattr(value, "_fields"):
        yield from _with_fields(value, list(value._fields), lambda whole, **change: whole._replace(**change))
    elif isinstance(value, np.ndarray | Mapping | tuple | list):
        yield from _collections(value)
    else:
        yield single(value)


def _with_fields(value: Any, names: list[str], put: Any) -> Iterator[Any]:
    for name in names:
        for other in changed(getattr(value, name)):
            yield put(value, **{name: other})


def _collections(value: Any) -> Iterator[Any]:
    if isinstance(value, np.ndarray):
        yield value + 1 if value.size else np.ones(1, dtype=value.dtype)
    elif isinstance(value, Mapping):
        yield {**value, next(iter(value), 0): next(changed(next(iter(value.values())))) if value else 1}
    else:
        yield type(value)([*value, None])
        if value:
            yield from (type(value)([other, *value[1:]]) for other in changed(value[0]))


def single(value: Any) -> Any:
    """Another value of the same kind."""
    if value is None:
        return 1
    if isinstance(value, bool):
        return not value
    if isinstance(value, Enum):
        return next(other for other in type(value) if other is not value)
    if isinstance(value, int | float | Decimal):
        return value + 1
    if isinstance(value, date):
        return value + timedelta(days=1)
    return f"{value}x"


def test_every_field_of_every_input_is_part_of_its_key(session: Session) -> None:
    for question in examples(session):
        keys = {question.key}
        for number, other in enumerate(changed(question), 1):
            assert len(keys | {other.key}) == number + 1, (type(question).__name__, number)
            keys.add(other.key)
        assert len(keys) > len(fields(question))  # type: ignore[arg-type]


@pytest.mark.parametrize("of", ["inputs", "shelf"])
def test_what_a_part_rests_on_is_enumerated_down_to_its_last_field(session: Session, of: str) -> None:
    asked = builder_of(session).question(read_inputs(session).part(PART))
    held: Any = asked.inputs.content if of == "inputs" else asked.shelf
    seen = {field.name for field in fields(held)}
    assert seen == {field.name for field in fields(DemandInputs if of == "inputs" else PartShelf)}
    for field in seen:
        others = [replace(held, **{field: other}) for other in changed(getattr(held, field))]
        assert others
        assert key_of(held) not in {key_of(other) for other in others}


def test_another_version_has_another_key(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    for question in examples(session):
        first, again = question.key, replace(question)  # type: ignore[type-var]
        monkeypatch.setattr(type(question), "VERSION", type(question).VERSION + 1)
        assert again.key != first


def test_answers_are_what_they_were_after_they_were_kept(session: Session) -> None:
    for question in examples(session):
        if isinstance(question, PageProfile | Summary | SinceOfKind):
            continue  # their content here is a name alone; pages are tried with the library, what changed with its own tests
        answer = question.compute()
        again = decoded(answer_type(type(question)), encoded(answer))
        assert alike(again, answer), type(question).__name__


def alike(one: Any, other: Any) -> bool:
    """Whether two values hold the same, number for number; a whole number may have become a real one."""
    if isinstance(one, np.ndarray):
        return isinstance(other, np.ndarray) and one.dtype == other.dtype and np.array_equal(one, other, equal_nan=True)
    if is_dataclass(one):
        return type(one) is type(other) and all(alike(getattr(one, field.name), getattr(other, field.name)) for field in fields(one))
    if isinstance(one, Mapping):
        return one.keys() == other.keys() and all(alike(value, other[key]) for key, value in one.items())
    if isinstance(one, list | tuple):
        return len(one) == len(other) and all(alike(a, b) for a, b in zip(one, other, strict=True))
    return bool(one == other)


def test_one_alone_is_answered_as_among_others(session: Session) -> None:
    builder = builder_of(session)
    parts = [part for part in builder.inputs.parts if part.kind == "fan"][:4]
    asked = [builder.question(part) for part in parts]
    demands = [DemandOfPart(one.inputs, one.fitted) for one in asked]
    for one, among in zip(demands, DemandOfPart.compute_many(demands), strict=True):
        alone = one.compute()
        assert (alone.line is None) == (among.line is None)
        if alone.line is not None and among.line is not None:
            size = min(alone.line.pmf.shape[1], among.line.pmf.shape[1])
            np.testing.assert_allclose(alone.line.pmf[:, :size], among.line.pmf[:, :size], atol=2e-6)
    for row, joint in zip(asked, OutlookOfPart.compute_many(asked), strict=True):
        single_row = row.compute()
        assert (single_row.plan is None) == (joint.plan is None)
        if single_row.plan and joint.plan:
            assert single_row.plan == joint.plan


def test_a_merged_plan_counts_twice_only_where_it_was_planned_twice(session: Session) -> None:
    from almanac.services.outlook.inputs import merged

    inputs = read_inputs(session)
    twice = replace(inputs, plans=[*inputs.plans, *inputs.plans])
    parts = [part for part in twice.parts if part.kind == "battery"]
    together = merged([twice.of_part(part) for part in parts])
    assert list(together.plans) == list(twice.of_kind("battery").plans)
    assert together.group == twice.of_kind("battery").group


ANOTHER = """
import sys
from sqlalchemy.orm import Session
from almanac.core.answers.encode import key_of
from almanac.services.answers.ask import ask, keep_pending
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import read_inputs
from almanac.store.engine import connect
engine = connect(sys.argv[1])
with Session(engine) as session, Session(engine) as own:
    builder = OutlookBuilder(session, read_inputs(session))
    question = builder.question(builder.inputs.part(sys.argv[2]))
    print(question.key, key_of(ask(session, question)))
    keep_pending(session, own)
    own.commit()
"""


def test_equal_inputs_have_equal_answers_in_another_process(session: Session) -> None:
    builder = OutlookBuilder(session, read_inputs(session))
    question = builder.question(builder.inputs.part(PART))
    bound: Any = session.get_bind()
    url = bound.engine.url.render_as_string(hide_password=False)
    said = subprocess.run([sys.executable, "-c", ANOTHER, url, PART], capture_output=True, text=True, check=True).stdout.split()
    FRONT.clear()
    assert said == [question.key, key_of(ask(session, question))]


def test_of_two_who_work_out_the_same_at_a_time_the_first_is_right_for_both(session: Session) -> None:
    bound: Any = session.get_bind()
    question = PageProfile  # any named thing will do: what is kept is told apart by its key alone
    key = key_of("worked out twice")
    with Session(bound.engine) as one, Session(bound.engine) as other:
        keep(one, key, question.NAME, question.VERSION, {"parts": 1.0}, 0.0)
        keep(other, key, question.NAME, question.VERSION, {"parts": 1.000001}, 0.0)
        for worker in (one, other):
            with Session(bound.engine) as own:
                keep_pending(worker, own)
                own.commit()
        assert look_up(other, {key: (question.NAME, dict[str, float])}) == {key: {"parts": 1.0}}
        with Session(bound.engine) as own:
            store.forget(own, [key])
            own.commit()
    FRONT.clear()


def test_what_concerns_one_part_leaves_the_keys_of_others_alone(session: Session) -> None:
    from sqlalchemy import text

    def keys() -> dict[str, str]:
        builder = builder_of(session)
        return {part.number: builder.question(part).key for part in builder.inputs.parts}

    def moved(statement: str) -> set[str]:
        before = keys()
        session.execute(text(statement))
        after = keys()
        return {number for number in after if after[number] != before[number]}

    def of_kind(kind: str) -> set[str]:
        return set(session.scalars(text("SELECT number FROM part WHERE kind = :k"), {"k": kind}))

    line = "UPDATE purchase_line SET expected_on = expected_on + 1 WHERE part_id = (SELECT id FROM part WHERE number = 'OF-P14')"
    assert moved(line) == {PART}
    move = """INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at) SELECT h.id, 'on_hand', 1, 'counted', '2026-10-31', now()
              FROM shelf h JOIN part p ON p.id = h.part_id WHERE p.number = 'OF-P14' LIMIT 1"""
    assert moved(move) == {PART}
    decided = "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('{}', '{}', '{}', 90, '{}', '2026-11-01', now())"
    assert moved(decided.format("part", PART, "target", "0.9")) == {PART}
    assert moved(decided.format("kind", "fan", "school", '"constant"')) == of_kind("fan")
    assert moved(decided.format("company", "", "currency", '"USD"')) == set()
    ended = """UPDATE tenure SET fitted_on = fitted_on - 30, observed_from = observed_from - 30
               WHERE id = (SELECT t.id FROM tenure t JOIN part p ON p.id = t.part_id WHERE p.kind = 'ssd' AND t.removed_on IS NULL
                           AND NOT EXISTS (SELECT 1 FROM tenure o WHERE o.asset_id = t.asset_id AND o.position_id = t.position_id AND o.id <> t.id)
                           AND t.fitted_on = t.observed_from LIMIT 1)"""
    assert moved(ended) == of_kind("ssd")
    assert moved("UPDATE lane SET days = days + 1") == set(keys())
