"""The demo's parts rehearsed: the plan keeps its promise, rules of thumb do not, and all that is told comes from one game."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import Refused
from almanac.services.outlook import rehearsal
from almanac.services.outlook.rehearsal import Rehearsed, aim_name, question_of, rehearsed
from almanac.services.outlook.summary import read_builder
from almanac.services.stores import transfers
from almanac.services.stores.acts import Recorded
from almanac.store.settings import last_number

PART = "OB-P14-60"


@pytest.fixture(scope="module", autouse=True)
def _few_runs(request: pytest.FixtureRequest) -> None:
    patch = pytest.MonkeyPatch()
    patch.setattr(rehearsal, "RUNS", 60)
    request.addfinalizer(patch.undo)


def played(session: Session, rule: str) -> Rehearsed:
    return rehearsed(read_builder(session), rule)


def fill(found: Rehearsed) -> float:
    assert found.whole.fill is not None
    return found.whole.fill.value


def test_the_plan_keeps_its_promise_where_rules_of_thumb_do_not(session: Session) -> None:
    plan, thumb, share = (played(session, rule) for rule in ("plan", "one-left", "fixed-share"))
    assert plan.whole.fill is not None
    assert plan.whole.fill.value > 0.95 - 2 * plan.whole.fill.error
    assert fill(thumb) < 0.8
    assert fill(share) < 0.8
    assert plan.whole.expected_waiting.value < thumb.whole.expected_waiting.value / 2


def test_a_higher_aim_serves_better_and_costs_more(session: Session) -> None:
    low, high = (played(session, aim_name(aim)) for aim in (0.90, 0.99))
    assert fill(low) + 0.02 < fill(high)
    assert low.stock_value.value < high.stock_value.value
    assert low.whole.expected_waiting.value > high.whole.expected_waiting.value


def test_the_aim_everywhere_is_the_plan(session: Session) -> None:
    plan, aim = played(session, "plan"), played(session, aim_name(0.95))
    assert plan.whole == aim.whole
    assert plan.money == aim.money


def test_kinds_places_and_quarters_are_told_of_the_same_game(session: Session) -> None:
    found = played(session, "plan")
    assert sum(one.orders_a_year.value for one in found.kinds.values()) == pytest.approx(found.whole.orders_a_year.value)
    assert sum(one.expected_waiting.value for one in found.kinds.values()) == pytest.approx(found.whole.expected_waiting.value)
    fills = [one.value for one in found.sites if one]
    assert len(fills) == 6
    assert min(fills) < fill(found) < max(fills)
    medians = sum(spread.median for quarters in found.quarters.values() for spread in quarters)
    assert medians == pytest.approx(found.money.median, rel=0.05)
    assert found.money.low < found.money.median < found.money.high
    assert found.parts + found.left_out == len(read_builder(session).inputs.parts)


def test_the_worst_parts_say_why(session: Session) -> None:
    worst = played(session, "plan").worst
    lost = [part.figures.expected_waiting.value + part.before for part in worst]
    assert lost == sorted(lost, reverse=True)
    assert len(worst) == 10
    words = {part.number: part.why for part in worst}
    assert words["OF-P15-S"] == "its supplier stops selling it"
    assert all(part.why for part in worst)
    assert len(set(words.values())) > 2


def test_boats_under_way_sail_in_the_game(session: Session, technician: Recorded) -> None:
    question = question_of(read_builder(session), "plan")
    place = next(row for row, one in enumerate(question.asked) if one.number == PART)
    before = question.parts[place].content.part
    transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), technician)
    after = question_of(read_builder(session), "plan").parts[place].content.part
    assert (after.depot, after.sites) == (before.depot - 1, before.sites)
    assert sum(boat[2] for boat in after.boats) == sum(boat[2] for boat in before.boats) + 1
    assert after.arrivals == before.arrivals


def test_a_change_of_what_is_promised_is_another_question(session: Session, clock: Clock) -> None:
    before = question_of(read_builder(session), "plan")
    number = last_number(session, "company", "", "target")
    change_setting(session, SettingRequest("company", "", "target", 0.9, number), clock=clock, author_id=1)
    after = question_of(read_builder(session), "plan")
    assert before.key != after.key
    assert {one.target for one in after.asked} == {0.9}
    shown = [question.parts[0].content for question in (before, after)]
    assert shown[0].part == shown[1].part


def test_a_rule_that_is_none_is_refused(session: Session) -> None:
    with pytest.raises(Refused, match="one of plan, aim"):
        played(session, "hope")
