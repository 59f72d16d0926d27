"""Pages half known: what nobody counted, timed or said is neither nothing nor by hand, and no way wins by it (rules U1, U2, U4)."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.parts.inheritance import whole_page
from almanac.core.parts.kinds import Verdict
from almanac.core.teardown.checks import page_faults
from almanac.core.teardown.counts import NONE, UNKNOWN, Count, read_count, total
from almanac.core.teardown.depth import all_depths
from almanac.core.teardown.fasteners import total_agrees, tray_groups
from almanac.core.teardown.order import order_steps
from almanac.core.teardown.profile import profile_of
from almanac.core.teardown.route import plan_route
from almanac.core.teardown.shorthand import read_shorthand
from almanac.core.teardown.standing import standing_of
from almanac.core.teardown.tools import BY_HAND, NOT_SAID, read_tools
from almanac.core.teardown.wayback import way_back
from almanac.core.teardown.written import teardown_of

COUNTS = st.builds(Count, st.integers(0, 300), least=st.booleans(), about=st.booleans()).filter(
    lambda count: not (count.least and count.about)
)


def position(key: str, kind: str = "other", **more: Any) -> dict[str, Any]:
    return {"key": key, "label": key.title(), "kind": kind, "serviceability": "screwed", **more}


def step(name: str, needs: list[Any] | None = None, **more: Any) -> dict[str, Any]:
    return {"id": name, "text": f"Do {name}", "needs": needs or [], "tool": "hands", "minutes": 1, **more}


def page(operations: list[dict[str, Any]], positions: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    return {"page_format": 2, "form": "notebook", "positions": positions, "operations": operations, **more}


@given(COUNTS)
def test_a_count_is_read_as_it_was_written(count: Count) -> None:
    assert read_count(count.written) == count


@given(st.lists(COUNTS, max_size=6))
def test_a_sum_is_exact_only_if_every_part_is(counts: list[Count]) -> None:
    found = total(counts)
    assert found.number == sum(count.number for count in counts)
    assert found.exact == all(count.exact for count in counts)
    assert found.least == any(count.least for count in counts)


def test_counts_as_people_write_them() -> None:
    assert [read_count(value).words for value in (5, ">=3", "at least 3", "~8", "?", None)] == [
        "5", "at least 3", "at least 3", "about 8", "an unknown number", "an unknown number",
    ]  # fmt: skip
    assert UNKNOWN != NONE
    for refused in ("many", "3.5", "-1", True, "3-5"):
        with pytest.raises(ContractError, match="count"):
            read_count(refused)


def test_what_was_counted_agrees_or_is_a_question() -> None:
    assert Count(3, least=True).agrees(7)
    assert not Count(3, least=True).agrees(2)
    assert Count(8, about=True).agrees(10)
    assert not Count(8, about=True).agrees(11)
    assert not Count(8).agrees(9)
    assert UNKNOWN.agrees(0)


def test_shorthand_says_what_is_not_known() -> None:
    read = read_shorthand(">=3 PH1 M2.5x4, ~8 clips, ? T5 mostly captive, 4+ long")
    assert [(item.count.written, item.kind, item.mostly) for item in read.groups] == [
        (">=3", "screw", False), ("~8", "clip", False), ("?", "screw", True), (">=4", "screw", False),
    ]  # fmt: skip
    assert read.unread == ()
    assert read.total.words == "at least about 15"


def test_a_tool_nobody_named_is_not_by_hand() -> None:
    assert read_tools(None) == NOT_SAID
    assert read_tools("hands") == BY_HAND
    assert read_tools(None, ["PH1", "PH0", "PH1"]).names == ("PH1", "PH0")
    assert read_tools("JIS0 + JIS1").names == ("JIS0", "JIS1")
    assert read_tools("PH0?").words == "PH0 (not sure)"
    assert not read_tools("PH0?").sure


def test_in_the_first_form_no_tool_was_by_hand_and_of_fasteners_nobody_knows() -> None:
    old = {
        "page_format": 1,
        "operations": [{"id": "a", "text": "A"}, {"id": "b", "text": "B", "fasteners": [{"group": "g", "count": 1}]}],
    }
    steps = teardown_of(whole_page(old)).operations
    assert steps["a"].tools == BY_HAND
    assert steps["b"].tools == NOT_SAID
    sibling = whole_page(page([step("a", tool="PH1")], [], maker="M", name="N"))
    younger = {"page_format": 1, "inherits": "M N", "operations": [{"id": "a", "text": "other words"}, {"id": "c", "text": "C"}]}
    whole = teardown_of(whole_page(younger, sibling)).operations
    assert whole["a"].tools.names == ("PH1",)  # taken over, not by hand because the difference leaves it out
    assert whole["c"].tools == BY_HAND


def test_the_tray_says_at_least() -> None:
    steps = teardown_of(
        page(
            [
                step(
                    "a",
                    fasteners=[{"group": "g", "count": 5, "captive": False}, {"group": "g", "count": ">=2"}, {"group": "h", "count": "?"}],
                )
            ],
            [],
        )
    ).operations.values()
    found = {group.group: group for group in tray_groups(steps)}
    assert found["g"].expected().words == "at least 7"
    assert found["g"].expected(stays=True).words == "at least 5"
    assert found["h"].expected().words == "an unknown number"
    assert not found["h"].counted
    fasteners = [item for one in steps for item in one.fasteners]
    assert total_agrees(fasteners, 9).verdict == Verdict.UNKNOWN
    assert "at least 7" in total_agrees(fasteners, None).reason


def untimed() -> dict[str, Any]:
    """Two ways to a keyboard: screws somebody timed, and rivets to break, which nobody did."""
    rivets = {"one_way": {"reason": "rivets do not go back", "destroys": "keyboard"}}
    return page(
        [
            step("cover", layer="cover", minutes=2, exposes=["keyboard"], outside=True),
            step("screws", ["cover"], frees=["keyboard"], minutes=30),
            step("rivets", ["cover"], frees=["keyboard"], minutes=None, **rivets),
        ],
        [position("keyboard", "keyboard")],
    )


def test_no_way_wins_because_nobody_timed_it_and_none_that_destroys() -> None:
    route = plan_route(teardown_of(untimed()), ["keyboard"])
    assert [one.id for one in route.steps] == ["cover", "screws"]
    assert route.estimated == 0
    destroying = untimed()
    destroying["operations"][1]["minutes"] = 300  # dearer by hours, and still the default
    assert "rivets" not in [one.id for one in plan_route(teardown_of(destroying), ["keyboard"]).steps]
    del destroying["operations"][1]
    only = plan_route(teardown_of(destroying), ["keyboard"])
    assert [one.id for one in only.steps] == ["cover", "rivets"]
    assert only.estimated > 0


@given(st.sampled_from(["screw", "clip"]), st.sampled_from([1, 6, ">=6", "?"]), st.sampled_from(["screwed", "glued"]))
def test_minutes_nobody_gave_are_estimated_marked_and_wide(kind: str, count: Any, held: str) -> None:
    entry = step("a", minutes=None, frees=["x"], fasteners=[{"group": "g", "count": count, "kind": kind}], outside=True)
    route = plan_route(teardown_of(page([entry], [position("x", serviceability=held)])), ["x"])
    found = route.minutes_open
    assert found.estimated == found.likely > 0
    assert found.high > 5 * found.low
    timed = plan_route(teardown_of(page([{**entry, "minutes": 4}], [position("x")])), ["x"]).minutes_open
    assert (timed.likely, timed.estimated) == (4, 0)
    assert timed.low < 4 < timed.high


def seen_only() -> dict[str, Any]:
    return page(
        [
            step("cover", layer="cover", exposes=["board", "fan"], live=True),
            step("unplug", ["cover"], isolates=True),
            step("fan_out", ["cover"], frees=["fan"]),
        ],
        [
            position("board", "mainboard"),
            position("fan", "fan"),
            position("memory", "memory", serviceability="soldered", part_of="board"),
            position("deep"),
        ],
    )


def test_a_part_merely_seen_is_reached_as_far_as_it_is_known() -> None:
    teardown = teardown_of(seen_only())
    with pytest.raises(NoEstimate, match="describe how it comes out"):
        plan_route(teardown, ["board"])
    route = plan_route(teardown, ["board"], as_far=True)
    assert [one.id for one in route.steps] == ["cover", "unplug"]
    assert dict(route.ends) == {"board": "Board: to here known, from here nobody has looked"}
    soldered = plan_route(teardown, ["memory"], as_far=True)
    assert "board is ordered in its place, and how that comes out is not on the page" in soldered.ends[0][1]
    with pytest.raises(NoEstimate):
        plan_route(teardown, ["deep"], as_far=True)
    depths = all_depths(teardown)
    assert depths["board"].least
    assert not depths["fan"].least
    assert depths["deep"].minutes is None


def test_a_way_nobody_described_is_not_no_way() -> None:
    teardown = teardown_of(seen_only())
    access = {item.kind.value: item.words for item in profile_of(teardown, all_depths(teardown)).access}
    assert access["memory"] == "way not known"  # soldered, and how the board comes out nobody wrote
    assert access["fan"].endswith("min, 3 steps")
    known = seen_only()
    known["operations"].append(step("board_out", ["unplug"], frees=["board"], minutes=None))
    teardown = teardown_of(known)
    access = {item.kind.value: item.words for item in profile_of(teardown, all_depths(teardown)).access}
    assert access["memory"] == "not alone"
    known["operations"].append(step("spare_fan", ["cover"], frees=["fan_2"], minutes=None))
    known["positions"] = [entry for entry in known["positions"] if entry["key"] != "fan"] + [position("fan_2", "fan")]
    teardown = teardown_of(known)
    assert profile_of(teardown, all_depths(teardown)).access[-1].words.startswith("about ")


def test_how_good_a_page_is_in_a_sentence() -> None:
    teardown = teardown_of(seen_only())
    found = standing_of(teardown, all_depths(teardown), 0.4)
    assert found.words == "Half known: the way to 1 of 4 parts is described to its end, every step timed, 40% of its facts our own."
    empty = standing_of(teardown_of(page([], [position("x")])), {}, None)
    assert empty.words == "Half known: 1 part named, no way in described."
    well = teardown_of(page([step("a", frees=["x"], outside=True)], [position("x")]))
    assert standing_of(well, all_depths(well), 0.9).level == "Well known"
    assert standing_of(well, all_depths(well), 0.2).level == "Mostly known"
    assert standing_of(well, all_depths(well), 0.1).level == "Half known"  # nobody here has seen it
    assert standing_of(well, all_depths(well), None).level == "Half known"


def dear(form: str) -> dict[str, Any]:
    """The plug lies under another cover: cutting the power takes ten minutes that the memory does not ask for."""
    return page(
        [
            step("door", layer="door", minutes=1, exposes=["memory"], live=True),
            step("cover", layer="cover", minutes=4, live=True),
            step("unplug", ["cover"], isolates=True, minutes=1),
            step("memory_out", ["door"], frees=["memory"]),
        ],
        [position("memory", "memory")],
        form=form,
    )


def test_where_isolating_is_dear_the_short_way_stands_beside_and_never_on_mains() -> None:
    route = plan_route(teardown_of(dear("notebook")), ["memory"])
    assert "unplug" in [one.id for one in route.steps]
    assert route.short is not None
    assert route.short.steps == ("door", "memory_out")
    assert route.short.leaves_out == ("cover", "unplug")
    assert route.short.saves == pytest.approx(10, rel=0.1)
    assert plan_route(teardown_of(dear("all_in_one")), ["memory"]).short is None
    cheap = dear("notebook")
    cheap["operations"][1]["minutes"] = cheap["operations"][2]["minutes"] = 0.1
    assert plan_route(teardown_of(cheap), ["memory"]).short is None


def test_turning_the_machine_counts_and_so_does_every_tool() -> None:
    teardown = teardown_of(
        page(
            [
                step("a", tool="PH1", face="base"),
                step("b", tool="PH1", face="lid"),
                step("c", tool="JIS0 + PH1", face="base"),
                step("d", tool="PH1"),
            ],
            [],
        )
    )
    order = order_steps(teardown, ["a", "b", "c", "d"])
    assert order.turns == 1
    assert order.tool_changes == 1
    assert order.exact
    assert order.steps.index("b") in (0, 3) or {order.steps[0], order.steps[1]} & {"b"}


def test_what_depends_on_an_option_nobody_knows_is_said() -> None:
    both = page(
        [
            step("a", frees=["x"], outside=True, when={"fixing": "screws"}),
            step("b", frees=["x"], outside=True, minutes=9, when={"fixing": "glue"}),
        ],
        [position("x")],
        options={"fixing": {"values": ["screws", "glue"]}},
    )
    assert plan_route(teardown_of(both), ["x"]).depends == ("fixing",)
    known = plan_route(teardown_of(both, {"fixing": "glue"}), ["x"])
    assert known.depends == ()
    assert [one.id for one in known.steps] == ["b"]


def test_the_way_back_has_words_of_its_own() -> None:
    steps = teardown_of(
        page(
            [
                step(
                    "cover",
                    layer="base cover",
                    fasteners=[
                        {"group": "PH1 M2.5x8", "count": 3, "captive": False},
                        {"group": "PH1 M2.5x4", "count": 5, "captive": False},
                        {"group": "clips", "count": "~8", "kind": "clip"},
                    ],
                ),
                step("fan", frees=["fan"], plugs=[{"name": "fan", "kind": "press_fit"}], fasteners=[{"group": "PH0 M2x5", "count": "?"}]),
                step("keys", frees=["keys"], one_way={"reason": "rivets break", "destroys": "keys"}),
                step("odd"),
                step("seal", back={"left_out": True}),
                step("said", back={"text": "As the page says"}),
            ],
            [position("fan", "fan"), position("keys", "keyboard")],
        )
    ).operations
    labels = {"fan": "Fan", "keys": "Keyboard"}
    assert way_back(steps["cover"], labels) == (
        "Set the base cover back on, close all clips that came out (about 8), then drive 3 x PH1 M2.5x8 and 5 x PH1 M2.5x4"
    )
    assert way_back(steps["fan"], labels) == (
        "Set the fan in, drive all PH0 M2x5 that came out (an unknown number), then push the fan lead in, straight, by its body"
    )
    assert way_back(steps["keys"], labels) == "Fit the new keyboard: what was destroyed does not go back"
    assert way_back(steps["odd"], labels).startswith("How this goes back is not described")
    assert way_back(steps["seal"], labels).startswith("Not put back")
    assert way_back(steps["said"], labels) == "As the page says"


def test_a_name_no_rule_knows_is_a_fault_with_the_nearest() -> None:
    steps = [step("cover", layer="cover", exposes=["fan_lft"]), step("out", ["covr"], frees=["fan_left"])]
    said = [f"{fault.message}: {fault.cure}" for fault in page_faults(page(steps, [position("fan_left", "fan")]))]
    assert "no position is called 'fan_lft': fan_left is meant?" in said
    assert "no operation is called 'covr': cover is meant?" in said


def test_a_cause_is_named_once() -> None:
    """Of fourteen steps behind an isolation that waits for itself, one is in fault."""
    steps = [step("cover", layer="cover"), step("unplug", ["cover"], isolates=True), *(step(f"out_{n}", ["cover"]) for n in range(14))]
    wrong = [fault for fault in page_faults(page(steps, [])) if not fault.open]
    assert [fault.message for fault in wrong] == ["unplug cuts the power but needs cover, which waits for the power to be cut"]
    circle = [step("a", ["b"]), step("b", ["a"]), step("c", ["b"]), step("d", ["c"])]
    assert len([fault for fault in page_faults(page(circle, [])) if not fault.open]) == 1
    two = [step("a", ["b"]), step("b", ["a"]), step("c", ["d"]), step("d", ["c"])]
    assert len([fault for fault in page_faults(page(two, [])) if not fault.open]) == 2
