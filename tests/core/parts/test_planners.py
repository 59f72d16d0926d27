"""Planners, escalation, look-alikes, line-up, claims: what the catalog concludes from facts."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.claims import claim_state, option_counts, orderable_code
from almanac.core.parts.escalation import Held, carry_over, moved_demand, ordered_unit
from almanac.core.parts.facts import fact
from almanac.core.parts.kinds import Grade, Kind, Serviceability, Verdict
from almanac.core.parts.lineup import Need, choose_line_up, level_for, no_worse
from almanac.core.parts.lookalikes import Question, information_gain, next_question
from almanac.core.parts.planners.drive import advise_fresh_install, plan_copy, same_stock_line
from almanac.core.parts.planners.memory import MemoryOffer, MemorySlot, freed_by_pair, plan_memory, reachable_totals

DDR4 = (4, 8, 16, 32)
OFFERS = [MemoryOffer("small", 8, 28.0), MemoryOffer("large", 16, 46.0), MemoryOffer("huge", 32, 120.0)]


def test_sixteen_soldered_and_one_slot_to_thirty_two() -> None:
    """The example of rule M5."""
    totals = reachable_totals([MemorySlot("a", 32)], DDR4, soldered_gb=16, maximum_gb=None)
    assert totals == (16, 20, 24, 32, 48)
    plan = plan_memory([MemorySlot("a", 32, 8)], OFFERS, soldered_gb=16, maximum_gb=48, sizes_gb=DDR4, target_gb=64)
    assert plan.verdict == Verdict.NO
    assert plan.nearest_below == 48
    assert plan.nearest_above is None
    assert plan.reached_gb is None


def test_the_cheapest_purchase_names_what_is_freed() -> None:
    slots = [MemorySlot("a", 32, 8), MemorySlot("b", 32, 8)]
    plan = plan_memory(slots, OFFERS, soldered_gb=0, maximum_gb=64, sizes_gb=DDR4, target_gb=32)
    assert plan.cost == 92.0
    assert plan.freed == (8, 8)
    half = plan_memory(slots, OFFERS, soldered_gb=0, maximum_gb=64, sizes_gb=DDR4, target_gb=24)
    assert half.cost == 46.0
    assert half.freed == (8,)
    assert any("16 GB run on two channels" in risk for risk in half.practice)
    stay = plan_memory(slots, OFFERS, soldered_gb=0, maximum_gb=64, sizes_gb=DDR4, target_gb=16)
    assert (stay.cost, stay.freed) == (0, ())


def test_without_a_document_a_total_is_untested_not_refused() -> None:
    plan = plan_memory([MemorySlot("a", None, 8)], OFFERS, soldered_gb=0, maximum_gb=None, sizes_gb=DDR4, target_gb=32)
    assert plan.verdict == Verdict.UNKNOWN
    assert plan.reached_gb == 32
    with pytest.raises(ContractError):
        plan_memory([], [], soldered_gb=0, maximum_gb=None, sizes_gb=DDR4, target_gb=0)


@given(
    st.lists(st.tuples(st.sampled_from([8, 16, 32, None]), st.sampled_from([0, 4, 8])), min_size=1, max_size=3),
    st.sampled_from([0, 8, 16]),
    st.sampled_from([8, 16, 24, 32, 40, 48, 64]),
)
@settings(max_examples=60)
def test_no_purchase_is_cheaper_than_the_plan(slots: list[tuple[int | None, int]], soldered: int, target: int) -> None:
    places = [MemorySlot(str(i), most, fitted) for i, (most, fitted) in enumerate(slots)]
    plan = plan_memory(places, OFFERS, soldered_gb=soldered, maximum_gb=None, sizes_gb=DDR4, target_gb=target)
    best = None
    for choice in product([None, "empty", *OFFERS], repeat=len(places)):
        size, cost, allowed = soldered, 0.0, True
        for place, item in zip(places, choice, strict=True):
            if isinstance(item, MemoryOffer):
                allowed &= place.maximum_gb is None or item.capacity_gb <= place.maximum_gb
                size, cost = size + item.capacity_gb, cost + item.price
            elif item is None:
                size += place.fitted_gb
        if allowed and size == target:
            best = cost if best is None else min(best, cost)
    if plan.reached_gb is not None:
        assert best == pytest.approx(plan.cost)
    elif target in plan.totals:
        assert best is None


def test_copying_a_drive() -> None:
    assert plan_copy(source_gb=256, used_gb=100, target_gb=512, slowest_gb_s=0.5).minutes == pytest.approx(100 / 0.5 / 60)
    assert plan_copy(source_gb=512, used_gb=200, target_gb=256, slowest_gb_s=0.5).how == "shrink"
    assert plan_copy(source_gb=512, used_gb=230, target_gb=256, slowest_gb_s=0.5).how == "refuse"
    failing = plan_copy(source_gb=256, used_gb=100, target_gb=512, slowest_gb_s=0.5, failing=True)
    assert failing.first == ("a failing source is imaged first",)
    assert advise_fresh_install(copy=failing, encrypted=False, failing=True).verdict == Verdict.YES
    assert advise_fresh_install(copy=failing, encrypted=None, failing=False).verdict == Verdict.UNKNOWN
    with pytest.raises(ContractError):
        plan_copy(source_gb=100, used_gb=200, target_gb=300, slowest_gb_s=1)
    one = {"bus": fact("NVMe", Grade.LABEL, "", "2026-01-01"), "capacity_gb": fact(512, Grade.LABEL, "", "2026-01-01")}
    assert same_stock_line(one, one).verdict == Verdict.YES
    assert same_stock_line(one, {**one, "capacity_gb": fact(256, Grade.LABEL, "", "2026-01-01")}).verdict == Verdict.NO
    assert same_stock_line(one, {"bus": one["bus"]}).verdict == Verdict.UNKNOWN
    assert [freed_by_pair(upgrade=upgrade) for upgrade in (False, True)] == [1, 2]


BOARD = Held("mainboard", Kind.MAINBOARD, Serviceability.SCREWED)
PALM = Held("palm_rest", Kind.PALM_REST, Serviceability.SCREWED)


def place(held: Serviceability, *, part_of: str | None = "palm_rest", orderable: bool | None = None) -> dict[str, Held]:
    part = Held("part", Kind.KEYBOARD, held, part_of, orderable)
    button = Held("button", Kind.OTHER, Serviceability.IN_ASSEMBLY, "palm_rest", False)
    return {item.key: item for item in (BOARD, PALM, part, button)}


@pytest.mark.parametrize(
    ("held", "orderable", "units"),
    [
        (Serviceability.SCREWED, None, ("part",)),
        (Serviceability.CLIPPED, False, ("palm_rest",)),
        (Serviceability.STAKED, True, ("palm_rest",)),
        (Serviceability.GLUED, True, ("part",)),
        (Serviceability.GLUED, False, ("palm_rest",)),
        (Serviceability.SOLDERED, None, ("mainboard",)),
        (Serviceability.IN_ASSEMBLY, False, ("palm_rest",)),
        (Serviceability.UNKNOWN, None, ("part", "palm_rest")),
    ],
)
def test_what_is_ordered(held: Serviceability, orderable: bool | None, units: tuple[str, ...]) -> None:
    unit = ordered_unit("part", place(held, orderable=orderable))
    assert unit.units == units
    if units == ("palm_rest",):
        assert unit.takes_along == ("button",)


def test_escalation_moves_demand_and_loses_none() -> None:
    positions = place(Serviceability.UNKNOWN)
    failures = {"part": 3.0, "button": 2.0, "palm_rest": 1.0}
    units = {key: ordered_unit(key, positions).units for key in failures}
    moved = moved_demand(failures, units)
    assert moved_demand({"fan": 2.0}, {}) == {"fan": 2.0}
    assert sum(moved.values()) == pytest.approx(sum(failures.values()))
    assert moved["palm_rest"] == pytest.approx(4.5)
    with pytest.raises(ContractError, match="position"):
        ordered_unit("nothing", positions)
    looped = {"a": Held("a", Kind.OTHER, Serviceability.STAKED, "b", None), "b": Held("b", Kind.OTHER, Serviceability.SCREWED, "a", False)}
    with pytest.raises(ContractError, match="contains itself"):
        ordered_unit("a", looped)
    assert carry_over(["bracket", "screws", "lead"], ["lead"]) == ("bracket", "screws")


MEMORY = Question("memory", "Which generation?", False, {"a": "DDR4", "b": "DDR5", "c": "DDR4"})
SCREWS = Question("screws", "How many screws?", True, {"a": "2", "b": "3", "c": "4"})


def test_a_question_that_needs_no_opening_comes_first() -> None:
    weights = {"a": 400.0, "b": 200.0, "c": 50.0}
    first = next_question([SCREWS, MEMORY], weights, {})
    assert first.question == MEMORY
    second = next_question([SCREWS, MEMORY], weights, {"memory": "DDR4"})
    assert second.question == SCREWS
    assert second.candidates == ("a", "c")
    done = next_question([SCREWS, MEMORY], weights, {"memory": "DDR5"})
    assert (done.question, done.candidates) == (None, ("b",))


def test_information_gain_is_bounded_by_what_is_not_known() -> None:
    assert information_gain(MEMORY, {"a": 1.0, "b": 1.0}) == pytest.approx(1.0)
    assert information_gain(MEMORY, {"a": 1.0, "c": 1.0}) == 0.0
    partly = Question("x", "?", False, {"a": "1", "b": "2"})
    assert 0 < information_gain(partly, {"a": 1.0, "b": 1.0, "c": 1.0}) < 1.585
    with pytest.raises(ContractError):
        information_gain(MEMORY, {})


def test_a_line_up_keeps_one_part_where_it_pays() -> None:
    needs = [Need("a", 3, ("p", "q")), Need("b", 2, ("r", "q"))]
    found = choose_line_up(needs, {"p": 10, "q": 11, "r": 12}, lead_years=0.1, target=0.95, holding_share=0.2, line_cost=5)
    assert found.kept == ("q",)
    assert found.saved > 0


@given(
    st.lists(st.tuples(st.floats(0.1, 20), st.lists(st.sampled_from("pqrs"), min_size=1, max_size=3, unique=True)), min_size=1, max_size=4),
    st.tuples(*[st.floats(5, 100)] * 4),
    st.floats(0, 40),
)
@settings(max_examples=40, deadline=None)
def test_no_assignment_is_cheaper_than_the_line_up(
    needs: list[tuple[float, list[str]]], prices: tuple[float, ...], line_cost: float
) -> None:
    price = dict(zip("pqrs", prices, strict=True))
    places = [Need(str(i), yearly, tuple(parts)) for i, (yearly, parts) in enumerate(needs)]
    found = choose_line_up(places, price, lead_years=0.2, target=0.9, holding_share=0.25, line_cost=line_cost)
    best = float("inf")
    for choice in product(*(need.candidates for need in places)):
        total = 0.0
        for part in set(choice):
            demand = sum(need.yearly for need, chosen in zip(places, choice, strict=True) if chosen == part)
            total += demand * price[part] + 0.25 * price[part] * level_for(demand * 0.2, 0.9) + line_cost
        best = min(best, total)
    assert found.cost == pytest.approx(best, rel=1e-6)
    assert found.cost <= found.cost_today + 1e-9


def test_a_part_in_place_of_another_is_no_worse() -> None:
    small, large = {"capacity_gb": fact(8, Grade.LABEL, "", "2026-01-01")}, {"capacity_gb": fact(16, Grade.LABEL, "", "2026-01-01")}
    assert no_worse(large, small)
    assert not no_worse(small, large)
    with pytest.raises(ContractError, match="candidates"):
        choose_line_up([Need("a", 1, ())], {}, lead_years=1, target=0.9, holding_share=0, line_cost=0)


def test_claims_counts_and_codes() -> None:
    assert claim_state(["1", "2"], ["1"]).words == "claimed: 1 of 2 variants seen"
    assert claim_state(["1", "2"], ["2", "1"]).state == "verified"
    assert option_counts({"small": 60, "large": 30}, 100).verdict == Verdict.NO
    assert option_counts({"small": 60, "large": 30}, 100, unknown_count=10).verdict == Verdict.UNKNOWN
    assert option_counts({"small": 60, "large": 40}, 100).verdict == Verdict.YES
    assert orderable_code({"AB-1": "spare_code", "XX": "drawing"}).reason == "order AB-1"
    assert orderable_code({"AB-1": "spare_code", "AB-2": "spare_code"}).verdict == Verdict.UNKNOWN
    assert orderable_code({"XX": "drawing"}).verdict == Verdict.NO
