"""Fasteners, sides, shorthand, mat, lifting, checks: the rules around a teardown."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Verdict
from almanac.core.teardown.bits import bit_advice, bit_drives, bit_of
from almanac.core.teardown.cautions import cautions_before
from almanac.core.teardown.checks import page_faults
from almanac.core.teardown.counts import UNKNOWN, Count
from almanac.core.teardown.fasteners import (
    closing_order,
    gap_expected,
    leads_back,
    may_close,
    refit_complete,
    total_agrees,
    tray_groups,
)
from almanac.core.teardown.lift import (
    ClipSide,
    Look,
    clip_sides,
    lift_foot,
    powered_driver,
    pry_tool,
    stands_flat,
    start_edge,
    will_not_lift,
)
from almanac.core.teardown.mat import MARGIN_MM, OVERLAP_MM, PAPER_MM, lay_out
from almanac.core.teardown.operations import Fasteners
from almanac.core.teardown.shorthand import read_shorthand, write_shorthand
from almanac.core.teardown.sides import on_plan, recorded_from_below, seen_from_below, side
from almanac.core.teardown.tools import Tools
from almanac.core.teardown.written import teardown_of
from tests.core.teardown.pages import part, step


def test_captive_screws_are_never_expected_in_the_tray() -> None:
    steps = teardown_of(
        {
            "operations": [
                step("a", fasteners=[{"group": "long", "count": 3, "captive": False}, {"group": "rim", "count": 5, "captive": True}]),
                step("b", fasteners=[{"group": "long", "count": 1, "captive": False}, {"group": "odd", "count": 2}]),
            ]
        }
    ).operations.values()
    assert [(item.group, item.loose, item.captive, item.unknown) for item in tray_groups(steps)] == [
        ("long", 4, 0, 0), ("rim", 0, 5, 0), ("odd", 0, 0, 2),
    ]  # fmt: skip


def test_totals_tray_and_leads_are_reconciled_by_name() -> None:
    groups = [Fasteners("a", Count(3)), Fasteners("b", Count(5))]
    assert total_agrees(groups, 8).verdict == Verdict.YES
    assert total_agrees(groups, 9).verdict == Verdict.UNKNOWN
    assert total_agrees(groups, None).verdict == Verdict.UNKNOWN
    assert refit_complete({"a": 3, "b": 5}, {"a": 3, "b": 4}).reason == "b: 5 out, 4 back"
    assert refit_complete({"a": 3}, {"a": 3}).verdict == Verdict.YES
    assert leads_back(["fan", "display"], ["display"]).reason == "still off: fan"
    assert leads_back(["fan"], ["fan", "camera"]).reason == "never taken off: camera"


@given(st.sets(st.text("abc", min_size=1)), st.sets(st.text("abc", min_size=1)))
def test_leads_close_only_as_equal_sets(out: set[str], back: set[str]) -> None:
    assert (leads_back(out, back).verdict == Verdict.YES) == (out == back)


def test_bits_are_never_converted() -> None:
    assert bit_of("PH00") == ("PH", "00")
    assert bit_of("2.0 mm") == ("mm", "2.0")
    assert bit_of("T5") == ("T", "5")
    assert bit_drives("JIS0", "PH0").verdict == Verdict.YES
    assert bit_drives("PH0", "JIS0").verdict == Verdict.NO
    assert bit_drives("PH0", "PH1").verdict == Verdict.NO
    assert bit_drives("T5", "PH1").verdict == Verdict.NO
    with pytest.raises(ContractError, match="bit"):
        bit_of("flat")


def test_bits_said_in_words_are_read_by_their_names() -> None:
    read = read_shorthand("4x six-lobe 6 M2x4, 2 three-winged 00 loose, 1 slotted 4")
    assert [(item.bit, item.thread) for item in read.groups] == [("T6", "M2x4"), ("Y00", None), ("SL4", None)]
    assert read.unread == ()


def test_what_is_worth_knowing_of_the_bits_of_a_way() -> None:
    found = bit_advice([Tools(("PH1",)), Tools(("JIS0", "PH1")), Tools(("tweezers",)), Tools(("T6",), sure=False)])
    assert [item.bit for item in found] == ["PH1", "JIS0", "T6"]
    assert "a PH bit of its size climbs out" in found[1].words
    assert found[2].words.endswith("not sure: try it before it is turned")


def test_a_tool_that_does_not_drive_the_screws_is_asked() -> None:
    def asked(tool: str, bit: str) -> bool:
        entry = step("a", tool=tool, fasteners=[{"group": "g", "count": 1, "bit": bit, "captive": False}], outside=True)
        return any("does not drive" in fault.message for fault in page_faults({"page_format": 2, "operations": [entry]}))

    assert asked("PH0", "JIS0")
    assert asked("PH1", "T5")
    assert not asked("JIS0", "PH0")
    assert not asked("PH1 + T5", "T5")
    assert not asked("plastic pry", "T5")


def test_jack_screws_lift_until_driven_and_clips_close_first() -> None:
    jack, screw, clip = Fasteners("j", Count(2), kind="jack"), Fasteners("s", Count(4)), Fasteners("c", Count(3), kind="clip")
    assert gap_expected(jack, driven=False).verdict == Verdict.YES
    assert gap_expected(jack, driven=True).verdict == Verdict.NO
    assert gap_expected(screw, driven=False).verdict == Verdict.NO
    assert [item.group for item in closing_order([screw, jack, clip])] == ["c", "j", "s"]
    assert may_close({"cam": "engaged"}).verdict == Verdict.NO
    assert may_close({"cam": "unknown"}).verdict == Verdict.UNKNOWN
    assert may_close({"cam": "retracted"}).verdict == Verdict.YES


def test_sides_are_the_users_and_mirror_from_below() -> None:
    assert side(" Left ") == "left"
    assert seen_from_below("left", hinge_away=True) == "right"
    assert seen_from_below("left", hinge_away=False) == "left"
    assert seen_from_below("hinge", hinge_away=True) == "away"
    for refused in ("towards me", "up", "middle"):
        with pytest.raises(ContractError, match="side"):
            side(refused)


@given(st.sampled_from(["left", "right"]), st.booleans())
def test_recording_from_below_undoes_the_mirror(word: str, away: bool) -> None:
    assert recorded_from_below(seen_from_below(word, hinge_away=away), hinge_away=away) == word


def test_shorthand_is_read_and_what_is_not_understood_is_named() -> None:
    read = read_shorthand("6x PH1 M2.5x4 captive, 1 hidden under label")
    assert [(item.count.written, item.bit, item.thread, item.captive, item.hidden) for item in read.groups] == [
        (5, "PH1", "M2.5x4", True, None), (1, "PH1", "M2.5x4", True, "label"),
    ]  # fmt: skip
    assert read.total == Count(6)
    spoken = read_shorthand("3 long at the hinge, 5 short round the rim, one under a label")
    assert [(item.count.written, item.group, item.hidden) for item in spoken.groups] == [
        (3, "long", None),
        (4, "short", None),
        (1, "short", "label"),
    ]
    assert spoken.places == ("hinge", "rim", "rim")
    assert read_shorthand("4 T5 flurb").unread == ("flurb",)
    assert read_shorthand("some screws").unread == ("some screws",)


@given(
    st.lists(
        st.builds(
            lambda count, bit, thread, captive, kind: Fasteners(
                group=f"{bit} {thread}", count=count, bit=bit, thread=thread, captive=True if kind == "jack" else captive, kind=kind
            ),
            st.builds(Count, st.integers(1, 40), least=st.booleans())
            | st.builds(Count, st.integers(1, 40), about=st.booleans())
            | st.just(UNKNOWN),
            st.sampled_from(["PH0", "PH1", "T5", "JIS0"]),
            st.sampled_from(["M2x3", "M2.5x4", "M3x6"]),
            st.sampled_from([True, False, None]),
            st.sampled_from(["screw", "jack"]),
        ),
        min_size=1,
        max_size=5,
    )
)
def test_written_shorthand_reads_back_as_it_was(groups: list[Fasteners]) -> None:
    assert read_shorthand(write_shorthand(groups)).groups == tuple(groups)


@given(st.text(max_size=80))
def test_no_text_breaks_the_shorthand(text: str) -> None:
    read_shorthand(text)


@given(st.floats(60, 900), st.floats(60, 900), st.sampled_from(sorted(PAPER_MM)))
def test_tiles_cover_the_machine_and_overlap(width: float, depth: float, paper: str) -> None:
    mat = lay_out(width, depth, [], paper=paper)
    assert max(tile.x_mm + tile.width_mm for tile in mat.tiles) == pytest.approx(width)
    assert max(tile.y_mm + tile.depth_mm for tile in mat.tiles) == pytest.approx(depth)
    for tile in mat.tiles:
        assert tile.width_mm <= mat.sheet_width_mm - 2 * MARGIN_MM + 1e-9
        right = [other for other in mat.tiles if (other.row, other.column) == (tile.row, tile.column + 1)]
        assert all(tile.x_mm + tile.width_mm - other.x_mm == pytest.approx(OVERLAP_MM) for other in right)


def test_a_mat_places_what_has_a_place_and_boxes_the_rest() -> None:
    page = {"operations": [step("a", fasteners=[{"group": "g", "count": 2, "at": [[1, 2], [3, 4]]}, {"group": "h", "count": 5}])]}
    mat = lay_out(180, 178, teardown_of(page).operations.values(), paper="A4")
    assert len(mat.tiles) == 1
    assert [(spot.x_mm, spot.step) for spot in mat.spots] == [(1, 1), (3, 1)]
    assert mat.unplaced == ((1, "h", "5"),)
    with pytest.raises(ContractError, match="paper"):
        lay_out(1, 1, [], paper="napkin")


def test_a_cover_that_will_not_lift_is_looked_at_and_never_forced() -> None:
    cover = teardown_of(
        {
            "operations": [
                step(
                    "cover", fasteners=[{"group": "g", "count": 1, "hidden": "the label"}], plugs=[{"name": "camera lead", "kind": "slide"}]
                )
            ]
        }
    ).operations["cover"]
    opening = {"clip_rows": [{"side": "centre", "clips": 2}, {"side": "left", "clips": 3}], "hooks": "front", "start_edge": "hinge"}
    order: list[Look] = []
    looked: list[str] = []
    while (look := will_not_lift(cover, opening, looked)).id != "stop":
        order.append(look)
        looked.append(look.id)
    assert [look.id for look in order] == ["screw", "foot", "centre", "edge", "hook", "lead"]
    assert "1 under the label" in order[0].why
    assert "camera lead" in order[-1].why
    bare: dict[str, Any] = {}
    assert "none is recorded" in will_not_lift(cover, bare, ["screw"]).why
    assert (
        start_edge({"start_edge": "front", "start_reason": "a lip", "depth_limit_mm": 3}).reason
        == "start at the front: a lip, no deeper than 3 mm"
    )
    assert start_edge(bare).verdict == Verdict.UNKNOWN
    assert start_edge({"start_edge": "front left corner"}).reason.startswith("start at the front left corner: nobody said why")
    assert "start through the open bay" in start_edge({"start_edge": "bay", "start_reason": "a lip"}).reason


def test_sides_are_pried_in_the_order_that_is_recorded_and_what_it_leaves_out_is_named() -> None:
    rows = [{"side": side, "clips": 2} for side in ("front", "left", "hinge")]
    opening = {"start_edge": "front", "start_reason": "a lip", "pry_order": ["front", "left"], "clip_rows": rows}
    assert start_edge(opening).reason.endswith("; then left; when hinge follows is not recorded")
    assert start_edge({**opening, "pry_order": ["left", "hinge"]}).reason.endswith("; then left, hinge")
    assert "then" not in start_edge({**opening, "pry_order": []}).reason


def test_tools_and_feet() -> None:
    assert pry_tool(metal=True, at_marked_point=False).verdict == Verdict.NO
    assert pry_tool(metal=False, at_marked_point=False).verdict == Verdict.YES
    assert powered_driver(place="outer", low_mode=True, last_turn=False).verdict == Verdict.YES
    for wrong in ({"place": "heat sink"}, {"last_turn": True}, {"low_mode": False}):
        given_ = {"place": "outer", "low_mode": True, "last_turn": False, **wrong}
        assert powered_driver(**given_).verdict == Verdict.NO  # type: ignore[arg-type]
    assert lift_foot({"corners_only": True, "verified": True}).verdict == Verdict.YES
    assert lift_foot({"corners_only": True}).verdict == Verdict.NO
    assert lift_foot({}).verdict == Verdict.NO
    assert [stands_flat(rocks=rocks).verdict for rocks in (None, True, False)] == [Verdict.UNKNOWN, Verdict.NO, Verdict.YES]


def test_cautions_stand_before_the_step_that_can_hurt() -> None:
    one = step(
        "a",
        plugs=[{"name": "ribbon", "kind": "flip_latch"}, {"name": "antenna", "kind": "antenna"}],
        seal=None,
        live=True,
        lift_points=[[1, 1]],
        cautions=["glass"],
        fasteners=[{"group": "g", "count": 4, "captive": True, "numbered": True}],
    )
    words = [caution.text for caution in cautions_before(teardown_of({"operations": [one]}).operations["a"])]
    assert words[0] == "glass"
    for wanted in ("no spare", "straight", "seal may be", "still connected", "never by the ports", "numbered"):
        assert any(wanted in text for text in words), wanted


def faults(**page: Any) -> list[str]:
    return [fault.message for fault in page_faults({"positions": [part("x")], **page})]


def test_a_sound_page_has_no_faults() -> None:
    assert (
        faults(operations=[step("unplug", live=True, isolates=True, tool="hands"), step("out", ["unplug"], frees=["x"], tool="hands")])
        == []
    )


@pytest.mark.parametrize(
    ("operations", "message"),
    [
        ([step("a"), step("a")], "'a' is used twice"),
        ([step("a", ["b"])], "no operation is called 'b'"),
        ([step("a", frees=["y"])], "no position is called 'y'"),
        ([step("a", ["a"])], "a needs itself"),
        ([step("a", back={"before": ["z"]})], "no operation is called 'z'"),
        ([step("a", ["b"], frees=["x"]), step("b", ["a"])], "needs steps that need it in turn"),
        ([step("cover"), step("unplug", ["cover"], isolates=True)], "cuts the power but needs cover"),
        ([step("a", frees=["x"], minutes=0)], "no operation cuts the power"),
        ([step("a", exposes=["x"])], "no operation takes out x"),
        ([step("a", isolates=True)], "no operation exposes x"),
        ([step("a", frees=["x"], when={"size": "big"})], "no option is called 'size'"),
        ([{**step("a"), "minutes": {"low": 3, "likely": 2, "high": 1}}], "not in order"),
        ([step("a", back={"before": ["b"], "after": ["b"]}), step("b")], "both before and after"),
    ],
)
def test_faults_of_a_page_are_plain_sentences(operations: list[dict[str, Any]], message: str) -> None:
    assert any(message in found for found in faults(operations=operations)), faults(operations=operations)


def test_positions_and_options_are_checked_too() -> None:
    looped = [part("x", part_of="y"), part("y", part_of="x")]
    assert any("contains itself" in found for found in faults(positions=looped, operations=[]))
    assert any("no position is called 'z'" in found for found in faults(positions=[part("x", part_of="z")], operations=[]))
    page = {"options": {"size": {"values": ["small"]}}, "positions": [part("x", when={"size": "big"})]}
    assert any("'big' is no value of size" in fault.message for fault in page_faults(page))
    open_ = page_faults({"positions": [part("x")], "operations": [step("a", fasteners=[{"group": "g", "count": 2, "at": [[1, 1]]}])]})
    assert any("2 fasteners, 1 places" in fault.message and fault.open for fault in open_)


def test_clips_lie_where_the_plan_shows_their_side() -> None:
    rows = [{"side": "front", "clips": 5}, {"side": "left", "clips": ">=3"}, {"side": "centre", "clips": "?"}]
    opening = {"start_edge": "hinge", "pry_order": ["left", "front"], "clip_rows": rows}
    assert clip_sides(opening) == (
        ClipSide("front", "third, 5 clips"), ClipSide("left", "second, at least 3 clips"), ClipSide("centre", "clips, nobody counted them"),
        ClipSide("hinge", "start here"),
    )  # fmt: skip
    assert clip_sides({"start_edge": "bay"}) == ()
    assert clip_sides({**opening, "start_edge": "bay"})[1].words == "first, at least 3 clips"
    below, above = [[on_plan(side, seen) for side in ("hinge", "front", "left", "right")] for seen in ("from below", "from above")]
    assert below == ["top", "bottom", "right", "left"]
    assert above == ["top", "bottom", "left", "right"]
    assert on_plan("centre", "from below") == "centre"
