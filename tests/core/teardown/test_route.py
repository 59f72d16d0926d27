"""Routes: valid orders, least minutes, fewest tool changes, and the way back."""

from __future__ import annotations

from itertools import combinations, pairwise, permutations
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.parts.kinds import Kind
from almanac.core.teardown.carried import carried_over
from almanac.core.teardown.closure import cheapest_closure, weights_of
from almanac.core.teardown.depth import all_depths, depth_chart, depth_of, opening_steps
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.order import order_steps
from almanac.core.teardown.profile import profile_of
from almanac.core.teardown.reassembly import reassemble
from almanac.core.teardown.route import Power, plan_route, saved_minutes, while_open
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.plan import Machine, job_plan
from tests.core.teardown.pages import pages, part, step


def is_valid(teardown: Teardown, steps: tuple[str, ...]) -> bool:
    done: set[str] = set()
    for name in steps:
        if not all(set(group) & done for group in teardown.requirements(teardown.operations[name])):
            return False
        done.add(name)
    return True


def changes(teardown: Teardown, steps: tuple[str, ...]) -> int:
    tools = [teardown.operations[name].tool for name in steps if teardown.operations[name].tool]
    return sum(1 for before, after in pairwise(tools) if before != after)


def closed(teardown: Teardown, chosen: frozenset[str]) -> bool:
    try:
        return is_valid(teardown, order_steps(teardown, chosen).steps)
    except NoEstimate:
        return False


def cheapest_by_trying(teardown: Teardown, wanted: tuple[tuple[str, ...], ...]) -> float:
    """Slow and obvious: every subset of steps that holds what is wanted and all it needs."""
    weights, best = weights_of(teardown), float("inf")
    names = list(teardown.operations)
    for size in range(1, len(names) + 1):
        for chosen in combinations(names, size):
            held = frozenset(chosen)
            if all(set(group) & held for group in wanted) and closed(teardown, held):
                best = min(best, sum(weights[name] for name in held))
    return best


def targets_of(teardown: Teardown) -> list[str]:
    return [key for key in teardown.places if teardown.freeing(key)]


def test_the_tool_left_in_the_hand_before_the_power_is_cut_counts_after_it() -> None:
    def step(name: str, tool: str, *needs: str, **more: Any) -> dict[str, Any]:
        return {"id": name, "text": name, "tool": tool, "needs": list(needs), "minutes": 1, **more}

    before = [step("lid", "PH1", live=True), step("door", "PH0", live=True), step("plug", "hands", "lid", "door", isolates=True)]
    for last in ("PH0", "PH1"):
        page = {"positions": [{"key": "part", "kind": "other"}], "operations": [*before, step("out", last, frees=["part"])]}
        found = order_steps(teardown_of(page), ["lid", "door", "plug", "out"])
        assert found.tool_changes == 1
        assert found.exact


def test_parts_of_a_board_come_off_on_the_way_also_where_another_part_is_reached_as_it() -> None:
    def part(key: str, kind: str, how: str, **more: Any) -> dict[str, Any]:
        return {"key": key, "label": key, "kind": kind, "serviceability": how, **more}

    positions = [
        part("board", "mainboard", "screwed"), part("chip", "memory", "soldered", part_of="board"),
        part("module", "memory", "socketed", part_of="board"), part("radio", "radio", "socketed", part_of="board"),
        part("drive", "ssd", "screwed", part_of="board", state="free"),
    ]  # fmt: skip
    steps = [{"id": f"{key}_out", "text": "out", "frees": [key], "minutes": 1} for key in ("board", "module", "drive")]
    page = {"positions": positions, "operations": steps}
    for target in ("board", "chip"):
        route = plan_route(teardown_of(page), [target])
        assert {step.id for step in route.steps} == {"board_out", "module_out"}
        assert route.moves == ("module",)
        assert carried_over(page, teardown_of(page), "board") == ("module", "radio")
    assert plan_route(teardown_of(page), ["module"]).moves == ()
    both = plan_route(teardown_of(page), ["board", "module"])
    assert both.moves == ()
    boards = [{**entry, "included": ["radio"]} if entry["key"] == "board" else entry for entry in positions]
    assert carried_over({**page, "positions": boards}, teardown_of(page), "board") == ("module",)


@given(pages(), st.data())
@settings(max_examples=60, deadline=None)
def test_every_route_is_a_valid_order_of_least_minutes(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    reachable = targets_of(teardown)
    assume(reachable)
    targets = data.draw(st.lists(st.sampled_from(reachable), min_size=1, max_size=2, unique=True))
    route = plan_route(teardown, targets)
    steps = tuple(item.id for item in route.steps)
    assert is_valid(teardown, steps)
    assert len(set(steps)) == len(steps)
    assert route.tool_changes == changes(teardown, steps)
    wanted = tuple(teardown.freeing(target) for target in targets)
    inside = not all(item.outside for item in route.steps)
    least = cheapest_by_trying(teardown, (*wanted, teardown.isolating) if teardown.isolating and inside else wanted)
    assert route.power is (Power.CUT if teardown.isolating and inside else Power.UNKNOWN)
    assert sum(weights_of(teardown)[name] for name in steps) == pytest.approx(least)


@given(pages(), st.data())
@settings(max_examples=40, deadline=None)
def test_no_valid_order_has_fewer_tool_changes(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    target = data.draw(st.sampled_from(targets_of(teardown)))
    chosen = cheapest_closure(teardown, (teardown.freeing(target),))
    assume(len(chosen) <= 6)
    found = order_steps(teardown, chosen)
    isolation = next((name for name in found.steps if teardown.operations[name].isolates), None)
    orders = [order for order in permutations(sorted(chosen)) if is_valid(teardown, order)]
    if isolation:
        before = set(found.steps[: found.steps.index(isolation)])
        orders = [order for order in orders if set(order[: order.index(isolation)]) == before]
    assert found.exact
    assert found.tool_changes == min(changes(teardown, order) for order in orders)


@given(pages(), st.data())
@settings(max_examples=60, deadline=None)
def test_adding_a_target_never_lowers_the_least_minutes(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    targets = data.draw(st.lists(st.sampled_from(targets_of(teardown)), min_size=2, max_size=4))
    fewer, more = plan_route(teardown, targets[:-1]), plan_route(teardown, targets)
    assert more.minutes >= fewer.minutes - 1e-9
    assert saved_minutes(teardown, targets, more) >= 0


@given(pages(), st.data())
@settings(max_examples=60, deadline=None)
def test_reassembly_covers_the_same_steps_and_reconciles_the_sets(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    route = plan_route(teardown, [data.draw(st.sampled_from(targets_of(teardown)))])
    back = route.reassembly
    assert sorted(item.operation for item in back.steps) == sorted(item.id for item in route.steps)
    assert {lead for item in back.steps for lead in item.leads} == {plug.name for item in route.steps for plug in item.plugs}
    out = {group.group: group.loose for group in route.tray}
    again: dict[str, int] = {}
    for item in back.steps:
        for group in item.screws:
            again[group.group] = again.get(group.group, 0) + group.loose
    assert again == out


PLUG_UNDER_PACK = {
    "positions": [part("pack", "battery"), part("drive", "ssd"), part("board", "mainboard"), part("chip", "memory", "soldered")],
    "operations": [
        step("cover", live=True, tool="T5", layer="cover", exposes=["pack"]),
        step("tilt", ["cover"], live=True, tool="PH0"),
        step("unplug", ["tilt"], live=True, isolates=True, plugs=[{"name": "battery lead", "kind": "slide"}]),
        step("pack_out", ["unplug"], frees=["pack"], tool="PH0"),
        step("board_out", ["cover", "pack_out"], frees=["board"], tool="PH0", layer="board", bare_board=True),
        step("drive_out", ["board_out"], frees=["drive"], tool="PH0"),
    ],
}


def test_a_battery_plug_behind_other_steps_makes_no_circle() -> None:
    route = plan_route(teardown_of(PLUG_UNDER_PACK), ["drive"])
    assert [item.id for item in route.steps] == ["cover", "tilt", "unplug", "pack_out", "board_out", "drive_out"]
    assert route.isolated
    assert route.tool_changes == 1


def test_a_soldered_part_is_reached_as_the_mainboard() -> None:
    route = plan_route(teardown_of(PLUG_UNDER_PACK), ["chip"])
    assert route.steps[-1].id == "board_out"
    assert route.escalations[0].reached == "board"


def test_alternatives_and_circles_between_them_are_solved() -> None:
    page = {
        "positions": [part("x")],
        "operations": [
            step("a", [{"any": ["b", "door"]}], minutes=1),
            step("b", [{"any": ["a", "window"]}], minutes=1),
            step("door", minutes=9),
            step("window", minutes=4),
            step("out", ["a"], frees=["x"]),
        ],
    }
    route = plan_route(teardown_of(page), ["x"])
    assert {item.id for item in route.steps} == {"window", "b", "a", "out"}
    stuck = {"positions": [part("x")], "operations": [step("a", ["b"]), step("b", ["a"], frees=["x"])]}
    with pytest.raises(NoEstimate, match="circle"):
        plan_route(teardown_of(stuck), ["x"])


def test_options_choose_the_steps_and_optional_ones_are_priced() -> None:
    page = {
        "options": {"size": {"values": ["small", "large"]}},
        "positions": [part("small", "battery", when={"size": "small"}), part("large", "battery", when={"size": "large"})],
        "operations": [
            step("cover", live=True),
            step("unplug", ["cover"], live=True, isolates=True),
            step("small_out", ["unplug"], frees=["small"], when={"size": "small"}),
            step("large_out", ["unplug"], frees=["large"], when={"size": "large"}),
            step("clean", ["cover"], optional="the fins are bare", minutes=3),
        ],
    }
    teardown = teardown_of(page, {"size": "small"})
    assert set(teardown.places) == {"small"}
    route = plan_route(teardown, ["small"])
    assert [(item.operation, item.minutes) for item in route.optional] == [("clean", 6.0)]
    assert plan_route(teardown, ["small"], include=["clean"]).minutes == route.minutes + 6
    assert plan_route(teardown_of(page), ["large"]).steps[-1].id == "large_out"


def test_pulling_the_pack_first_is_a_choice() -> None:
    page = {
        "positions": [part("pack", "battery"), part("drive", "ssd")],
        "operations": [
            step("cover", live=True),
            step("unplug", ["cover"], live=True, isolates=True),
            step("pack_out", ["unplug"], frees=["pack"]),
            step("drive_out", ["cover"], frees=["drive"]),
        ],
    }
    teardown = teardown_of(page)
    assert len(plan_route(teardown, ["drive"]).steps) == 3
    assert len(plan_route(teardown, ["drive"], lift_pack_out=True).steps) == 4
    near = while_open(teardown, plan_route(teardown, ["drive"]))
    assert [(item.position, item.more_now) for item in near] == [("pack", 2.0)]


def test_exceptions_on_the_way_back_are_kept_and_contradictions_named() -> None:
    leads = step("leads", ["cover"], back={"after": ["fan"]})
    fan = step("fan", ["leads"])
    opened = [teardown_of({"operations": [step("cover"), leads, fan]}).operations[name] for name in ("cover", "leads", "fan")]
    assert [item.operation for item in reassemble(opened).steps] == ["fan", "leads", "cover"]
    board = [step("cover"), step("leads", ["cover"]), step("board", ["leads"], back={"after": ["leads"]})]
    opened = list(teardown_of({"operations": board}).operations.values())
    assert [item.operation for item in reassemble(opened).steps] == ["leads", "board", "cover"]
    torn = [step("a", back={"before": ["b"]}), step("b", back={"before": ["a"]})]
    with pytest.raises(NoEstimate, match="contradict"):
        reassemble(list(teardown_of({"operations": torn}).operations.values()))


def test_one_way_steps_count_their_risk_and_leave_nothing_to_put_back() -> None:
    page = {
        "positions": [part("keys", "keyboard", "staked", part_of="palm", orderable=True), part("palm", "palm_rest")],
        "operations": [
            step("palm_out", frees=["palm"], minutes=20),
            step("rivets", frees=["keys"], minutes=5, one_way={"reason": "rivets", "destroys": "keyboard", "risk_minutes": 15}),
        ],
    }
    teardown = teardown_of(page)
    default = plan_route(teardown, ["keys"])
    assert [item.id for item in default.steps] == ["palm_out"]
    broken = plan_route(teardown, ["keys"], direct=["keys"])
    assert [item.id for item in broken.one_way] == ["rivets"]
    assert broken.kit.spares == ("keyboard",)
    assert any("no way back" in caution.text for caution in broken.cautions)


def test_depth_and_profile_of_a_page() -> None:
    teardown = teardown_of(PLUG_UNDER_PACK)
    depths = all_depths(teardown)
    assert depths["pack"].layer == "cover"
    assert depths["drive"].layer == "board"
    assert depths["chip"].reached == "board"
    columns = depth_chart(teardown, depths)
    assert [column.name for column in columns] == ["cover", "board"]
    assert columns[0].minutes < columns[1].minutes
    profile = profile_of(teardown, depths)
    assert profile.soldered == ("chip",)
    assert {access.kind.value: access.steps for access in profile.access} == {"memory": None, "ssd": 6, "battery": 4}
    assert [step.id for step in opening_steps(teardown)][-1] == "cover"


def test_wrong_targets_are_refused() -> None:
    teardown = teardown_of(PLUG_UNDER_PACK)
    with pytest.raises(ContractError, match="at least one"):
        plan_route(teardown, [])
    with pytest.raises(ContractError, match="position"):
        plan_route(teardown, ["nothing"])
    with pytest.raises(ContractError, match="group"):
        cheapest_closure(teardown, ((),))
    with pytest.raises(ContractError, match="steps"):
        cheapest_closure(teardown, (("nothing",),))
    bare = teardown_of({"positions": [part("x")], "operations": [step("a")]})
    with pytest.raises(NoEstimate, match="describe how it comes out"):
        plan_route(bare, ["x"])
    assert isinstance(next(iter(teardown.operations.values())), Operation)


FREE_UNDER_DOOR: dict[str, Any] = {
    "positions": [part("slot", "memory", state="free"), part("pack", "battery"), part("bay", "battery", state="free")],
    "operations": [
        step("door", outside=True, exposes=["slot"]),
        step("flap", outside=True, exposes=["bay"]),
        step("latch", outside=True, isolates=True, frees=["pack"], minutes=3),
    ],
}


def test_a_free_place_is_reached_isolated_like_any_other_by_everybody() -> None:
    teardown = teardown_of(FREE_UNDER_DOOR)
    route = plan_route(teardown, ["slot"])
    assert (route.power, {item.id for item in route.steps}) == (Power.CUT, {"door", "latch"})
    depth = depth_of(teardown, "slot")
    assert (depth.steps, depth.minutes) == (2, 4)
    easiest = {access.kind: access for access in profile_of(teardown, all_depths(teardown)).access}
    assert easiest[Kind.MEMORY].minutes == 4
    plan = job_plan(teardown, route, Machine("notebook"))
    swap = plan.step("swap:slot")
    assert plan.cuts_power
    assert swap is not None
    assert swap.shut


def test_what_lies_outside_needs_no_isolation() -> None:
    teardown = teardown_of(FREE_UNDER_DOOR)
    assert plan_route(teardown, ["bay"]).power is Power.OUTSIDE
    without = teardown_of({**FREE_UNDER_DOOR, "operations": FREE_UNDER_DOOR["operations"][:2]})
    assert plan_route(without, ["slot"]).power is Power.UNKNOWN
