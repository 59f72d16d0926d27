"""Lives summed up: whatever they are, the columns add up to what counting them one by one gives."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.life.life_data import BIN_DAYS, CONFIRMED, DUTIES, FINDINGS, NOT_KNOWN, OPEN, Lives, life_data
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS

Life = dict[str, int]
COLUMNS = tuple(Lives.__dataclass_fields__)


@st.composite
def one_life(draw: st.DrawFn) -> Life:
    entry = draw(st.integers(0, 60) | st.integers(0, 2000))
    lasted = draw(st.integers(0, 40) | st.integers(0, 2000))
    serving = draw(st.booleans())
    return {
        "part": 7,
        "model": draw(st.integers(1, 3)),
        "site": draw(st.integers(1, 2)),
        "duty": draw(st.integers(0, len(DUTIES) - 1)),
        "finding": 0 if serving else draw(st.integers(0, len(FINDINGS) - 1)),
        "fresh": draw(st.integers(0, 1)),
        "entry_age": entry,
        "exit_age": entry + lasted,
        "age_days": draw(st.integers(0, 2000)),
        "good_age": draw(st.just(NOT_KNOWN) | st.integers(0, entry + lasted)),
        "in_service": int(serving),
        "retire_day": draw(st.just(NOT_KNOWN) | st.integers(1, 900)) if serving else NOT_KNOWN,
        "age_span": draw(st.just(0) | st.integers(1, entry)) if entry else 0,
        "with_machine": draw(st.integers(0, 1)),
        "last_day": draw(st.integers(0, 9000)),
        "made": draw(st.just(NOT_KNOWN) | st.integers(0, 9000)),
        "lot": draw(st.integers(0, 1)),
    }


def columns(lives: list[Life]) -> Lives:
    return Lives(*(np.array([life[name] for life in lives], dtype=np.int64) for name in COLUMNS))


def begins(life: Life) -> int:
    return max(life["entry_age"], DEAD_ON_ARRIVAL_DAYS)


def is_found(life: Life) -> bool:
    """Failed between a look and the day it was noticed, more than a day apart, and was not dead on arrival."""
    if (
        life["age_span"]
        or life["good_age"] == NOT_KNOWN
        or life["finding"] not in (CONFIRMED, OPEN)
        or life["age_days"] <= DEAD_ON_ARRIVAL_DAYS
    ):
        return False
    return life["exit_age"] - max(begins(life), life["good_age"]) > 1


@settings(max_examples=150, deadline=None)
@given(st.lists(one_life(), max_size=25))
def test_what_is_summed_up_is_what_is_counted_one_by_one(lives: list[Life]) -> None:
    found = life_data(columns(lives))
    spared = {id(life): (life["exit_age"] - max(begins(life), life["good_age"])) // 2 for life in lives if is_found(life)}
    assert found.outcomes.tenures.sum() == len(lives)
    assert found.outcomes.exposure_days.sum() == sum(max(life["exit_age"] - begins(life), 0) - spared.get(id(life), 0) for life in lives)
    kinds = Counter((life["finding"], life["age_days"] <= DEAD_ON_ARRIVAL_DAYS) for life in lives)
    for (finding, early), number in kinds.items():
        own = (found.outcomes.finding == finding) & (found.outcomes.early == early)
        assert found.outcomes.tenures[own].sum() == number
    risk = [life for life in lives if life["exit_age"] > begins(life) and not life["age_span"]]
    assert (found.at_risk.entered.sum(), found.at_risk.gone.sum()) == (len(risk), len(risk))
    assert ((found.at_risk.gone - found.at_risk.entered) * found.at_risk.day).sum() == sum(life["exit_age"] - begins(life) for life in risk)
    clear = [life for life in risk if life["age_days"] > DEAD_ON_ARRIVAL_DAYS and not is_found(life)]
    assert found.at_risk.confirmed.sum() == sum(life["finding"] == CONFIRMED for life in clear)
    assert found.at_risk.open.sum() == sum(life["finding"] == OPEN for life in clear)
    assert found.found.confirmed.sum() + found.found.open.sum() == len(spared)
    spans = [life for life in lives if life["age_span"] and life["exit_age"] > life["entry_age"]]
    rows = found.spanned
    assert (rows.still + rows.confirmed + rows.open).sum() == len(spans)
    assert ((rows.still + rows.confirmed + rows.open) * rows.watched).sum() == sum(life["exit_age"] - life["entry_age"] for life in spans)
    assert rows.confirmed.sum() == sum(life["finding"] == CONFIRMED and life["age_days"] > DEAD_ON_ARRIVAL_DAYS for life in spans)
    ages = {(max(life["entry_age"] - life["age_span"], DEAD_ON_ARRIVAL_DAYS), life["with_machine"]) for life in spans}
    assert set(zip(rows.low.tolist(), rows.first.tolist(), strict=True)) == ages
    assert (rows.high >= rows.low).all()


@settings(max_examples=100, deadline=None)
@given(st.lists(one_life(), min_size=1, max_size=25))
def test_units_in_service_keep_their_mean_age_and_end(lives: list[Life]) -> None:
    found = life_data(columns(lives))
    everyone = [life for life in lives if life["in_service"]]
    serving = [life for life in everyone if not life["age_span"]]
    assert found.serving.units.sum() == len(everyone)
    assert (found.served.units.sum(), found.served_spans.units.sum()) == (len(serving), len(everyone) - len(serving))
    assert (found.served.units * found.served.age_days).sum() == pytest.approx(sum(life["exit_age"] for life in serving))
    planned = [life["retire_day"] for life in serving if life["retire_day"] != NOT_KNOWN]
    known = ~np.isnan(found.served.retire_day)
    assert found.served.units[known].sum() == len(planned)
    assert (found.served.units[known] * found.served.retire_day[known]).sum() == pytest.approx(sum(planned))
    groups = {(life["model"], life["duty"], life["site"], life["lot"], life["exit_age"] // BIN_DAYS) for life in serving}
    assert found.served.units.size >= len(groups)


@settings(max_examples=50, deadline=None)
@given(st.lists(one_life(), min_size=1, max_size=12), st.randoms(use_true_random=False))
def test_the_order_of_lives_does_not_matter(lives: list[Life], chance: object) -> None:
    mixed = list(lives)
    chance.shuffle(mixed)  # type: ignore[attr-defined]
    one, other = life_data(columns(lives)), life_data(columns(mixed))
    for name in ("outcomes", "serving", "at_risk", "served", "found", "spanned", "served_spans"):
        for field in vars(getattr(one, name)):
            assert np.array_equal(getattr(getattr(one, name), field), getattr(getattr(other, name), field), equal_nan=True), (name, field)


def test_lives_of_two_parts_are_refused() -> None:
    life = {name: 1 for name in COLUMNS}
    with pytest.raises(ContractError, match="one part"):
        life_data(columns([life, {**life, "part": 2}]))
