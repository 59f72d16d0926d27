"""The second file form: half the typing, read back as it was, every fault at its line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.calculator.inputs import InputFaults
from almanac.calculator.pages import upgrade
from almanac.core.parts.inheritance import whole_page
from almanac.core.parts.page_forms import current_form
from almanac.core.teardown.written import teardown_of
from almanac.exchange.pages.nested import lines
from almanac.exchange.pages.nested.fold import arranged, fold
from almanac.exchange.pages.nested.statements import evidence_of, statement_line, statement_of
from almanac.exchange.pages.nested.unfold import unfold
from almanac.exchange.pages.read import check_page, read_page, validate_page
from almanac.exchange.pages.write import write_page
from tests.core.teardown.pages import pages

DEMO = sorted((Path(__file__).parents[4] / "almanac" / "demo" / "pages").glob("*.yaml"))
HEAD = """page_format: 2
maker: Ostrel
name: Test
family: Test
form: notebook
evidence: measured; bench; 2026-01-02
"""
WRITTEN = (
    HEAD
    + """parts:
  - chip: On-board memory; memory; soldered
    part_of: board
steps:
  - cover: Undo the screws and lift the cover
    layer: base cover
    screws: 3x PH1 M2.5x8 loose @10,8 312,8 161,206; >=2x PH1 M2.5x4 mostly captive under the label; ~8x clip
    minutes: 2 3 6
    back: Close the clips first; 4 min
    shows: chip, board
    under:
      - unplug: Slide the plug out
        isolates: true
        tool: hands
        plugs: 'battery lead: slide to front @170,112; odd thing'
        under:
          - pack: Battery; battery; screwed
            place: 62 120 198x66
            takes: {voltage_v: 15.2 (label), energy_wh: '60 (document: sheet; 2024-02-03)', plug: ['9-pin (label)', '10-pin (told: desk)']}
            attached: screws, lead
            out: Lift the pack out
            screws: 3x PH0 captive
      - slot: Memory slot; memory; socketed
        out: Draw the module out
        needs: cover, pack_out | unplug
        tool: hands
        minutes: 0.5
"""
)


def flat(text: str) -> dict[str, Any]:
    found = read_page(text.encode())
    assert found.page is not None, found.faults
    return found.page


def test_what_follows_from_where_a_step_stands_is_not_written() -> None:
    page = flat(WRITTEN)
    steps = {step["id"]: step for step in page["operations"]}
    assert list(steps) == ["cover", "unplug", "pack_out", "slot_out"]
    assert steps["unplug"]["needs"] == ["cover"]
    assert steps["slot_out"]["needs"] == ["cover", {"any": ["pack_out", "unplug"]}]
    assert steps["cover"]["exposes"] == ["chip", "pack", "slot", "board"]  # as far as the next cover, and what it shows besides
    assert "exposes" not in steps["unplug"]
    assert [name for name, step in steps.items() if step.get("live")] == ["cover", "unplug"]
    assert [name for name, step in steps.items() if step.get("bare_board")] == ["slot_out"]
    assert [entry["key"] for entry in page["positions"]] == ["chip", "pack", "slot"]


def test_one_line_says_what_it_says() -> None:
    page = flat(WRITTEN)
    cover, unplug, pack, slot = page["operations"]
    assert [(item["count"], item.get("captive"), item.get("hidden"), len(item.get("at", []))) for item in cover["fasteners"]] == [
        (3, False, None, 3), (">=2", "mostly", "the label", 0), ("~8", None, None, 0),
    ]  # fmt: skip
    assert cover["minutes"] == {"low": 2, "likely": 3, "high": 6}
    assert cover["back"] == {"text": "Close the clips first", "minutes": 4}
    assert unplug["plugs"] == [
        {"name": "battery lead", "kind": "slide", "release": "front", "at": [170, 112]},
        {"name": "odd thing", "kind": "unknown"},
    ]
    assert pack["fasteners"][0]["captive"] is True
    assert slot["minutes"] == 0.5
    takes = page["positions"][1]["takes"]
    assert takes["voltage_v"] == [{"value": 15.2, "grade": "label", "source": "bench", "date": "2026-01-02"}]
    assert takes["energy_wh"] == [{"value": 60, "grade": "document", "source": "sheet", "date": "2024-02-03"}]
    assert [item["value"] for item in takes["plug"]] == ["9-pin", "10-pin"]
    assert page["positions"][1]["place"] == {"x_mm": 62, "y_mm": 120, "width_mm": 198, "depth_mm": 66}
    assert page["positions"][1]["attached"] == ["screws", "lead"]


@pytest.mark.parametrize("path", DEMO, ids=lambda path: path.stem)
def test_reading_and_writing_a_file_unchanged_gives_the_same_file(path: Path) -> None:
    text = path.read_bytes()
    found = read_page(text)
    assert found.page is not None
    assert found.page["page_format"] == 2
    assert write_page(found.page) == text


@given(pages())
def test_any_page_reads_back_as_it_was_written(drawn: dict[str, Any]) -> None:
    given_page = {"page_format": 1, "maker": "M", "name": "N", "family": "F", "form": "notebook", **drawn}
    page, faults = validate_page(current_form(given_page))
    assert page is not None, faults
    for one in (page, arranged(page)):
        once = write_page(one)
        read = read_page(once).page
        assert read is not None
        assert write_page(read) == once
        assert [step["id"] for step in read["operations"]] == [step["id"] for step in one.get("operations") or []]
        assert [entry["key"] for entry in read["positions"]] == [entry["key"] for entry in one.get("positions") or []]
        for was, now in zip(one["operations"], read["operations"], strict=True):
            same = {key: value for key, value in was.items() if value not in ([], False)}
            assert {key: value for key, value in now.items() if value not in ([], False)} == same


@pytest.mark.parametrize(
    ("wrong", "line", "words"),
    [
        ("steps:\n  - cover: Lift\n    under:\n      - {tool: [hands]}\n", 10, "begins with its name"),
        ("steps:\n  - cover: Lift\n    screws: 3x PH1 flurb\n", 9, "not understood: flurb"),
        ("steps:\n  - cover: Lift\n    minutes: 2 3\n", 9, "low likely high"),
        ("steps:\n  - cover: Lift\n    wings: 2\n", 9, "wings"),
        ("steps:\n  - cover: Lift\n    under:\n      - a: A\n        needs: nobody\n", 11, "no operation is called 'nobody'"),
        ("steps:\n  - cover: Lift\n    plugs: 'lead: twisted'\n", 9, "twisted"),
        ("parts:\n  - slot: Memory slot; toaster; socketed\n", 8, "label; kind; how it is held"),
        ("parts:\n  - slot: Memory slot; memory; socketed\n    place: left\n", 9, "x y widthxdepth"),
        ("steps:\n  - slot: Memory slot; memory; socketed\n    takes: {generation: DDR9 (label)}\n    out: Draw it\n", 9, "DDR9"),
        ("steps:\n  - slot: Memory slot; memory; socketed\n    takes: {generation: DDR4}\n", 8, "how it comes out is missing"),
        ("steps: soon\n", 7, "a list of entries"),
        ("steps:\n  - cover: Lift\n    screws: '>=x PH1'\n", 9, "was wanted"),
    ],
)
def test_a_fault_stands_at_its_line(wrong: str, line: int, words: str) -> None:
    found = [str(fault) for fault in read_page((HEAD + wrong).encode()).faults]
    assert any(message.startswith(f"line {line}:") and words in message for message in found), found


JUNK = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=12),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(
            st.sampled_from(["under", "out", "needs", "screws", "frees", "shows", "minutes", "back", "takes", "step", "x"]),
            inner,
            max_size=4,
        )
    ),
    max_leaves=12,
)


@given(JUNK, JUNK, JUNK)
def test_no_file_breaks_the_reading(steps: Any, parts: Any, operations: Any) -> None:
    given_page = {"page_format": 2, "steps": steps, "parts": parts, "operations": operations, "positions": parts}
    found = unfold(given_page)
    validate_page(found.page)
    unfold({**given_page, "steps": [{"a": "A", "under": [{"b": "B; memory; socketed", **(steps if isinstance(steps, dict) else {})}]}]})


@given(
    st.text(max_size=30) | st.integers() | st.booleans() | st.none() | st.lists(st.sampled_from(["NVMe", "SATA"]), min_size=1, max_size=2)
)
def test_a_fact_on_a_line_reads_back(value: Any) -> None:
    default = {"grade": "measured", "source": "bench", "date": "2026-01-02"}
    for more in (
        {},
        {"grade": "label"},
        {"grade": "told", "source": "the desk"},
        {"source": "a; b (c)"},
        {"date": "2025-01-01"},
        {"date": None},
    ):
        said = {"value": value, **default, **more}
        read = statement_of(statement_line([said], default))
        assert {**default, **(read if isinstance(read, dict) and "value" in read else {"value": read})} == said


def test_evidence_on_a_line() -> None:
    assert evidence_of("label") == {"grade": "label"}
    assert evidence_of("measured; depot bench, R. Pell; 2025-03-14") == {
        "grade": "measured", "source": "depot bench, R. Pell", "date": "2025-03-14",
    }  # fmt: skip
    assert evidence_of("rumour; somebody") == "rumour; somebody"
    assert evidence_of("told; the desk; undated") == {"grade": "told", "source": "the desk", "date": None}


def test_a_page_nobody_knows_the_day_of_stays_undated() -> None:
    text = (
        "page_format: 2\nmaker: A\nname: B\nfamily: C\nform: notebook\nevidence: told; the desk\n"
        "facts: {memory_maximum_gb: 64, memory_tried_gb: 32 (measured; 2026-01-02)}\n"
        "parts:\n  - slot: Memory slot; memory; socketed\n    takes: {generation: DDR4 (label; undated)}\n"
    )
    page = read_page(text.encode()).page
    assert page is not None
    assert page["facts"]["memory_maximum_gb"][0]["date"] is None
    assert page["facts"]["memory_tried_gb"][0]["date"] == "2026-01-02"
    assert page["positions"][0]["takes"]["generation"][0]["date"] is None
    assert read_page(write_page(page)).page == page
    assert not check_page(page) or all(fault.open for fault in check_page(page))


@given(st.lists(st.tuples(st.integers(0, 400), st.integers(0, 400)), min_size=1, max_size=4))
def test_points_read_back(points: list[tuple[int, int]]) -> None:
    assert lines.points_of(lines.points_line(points)) == [list(point) for point in points]


def test_a_page_of_differences_stays_flat() -> None:
    page = {"page_format": 2, "inherits": "A B", "operations": [{"id": "a", "text": "A", "live": False, "exposes": []}]}
    assert "steps" not in fold(page)
    assert fold(page)["operations"][0]["live"] is False


def test_the_example_of_the_docs_is_sound() -> None:
    text = (Path(__file__).parents[4] / "docs" / "page-format.md").read_text()
    example = text.split("```yaml\n")[1].split("```")[0]
    found = read_page(example.encode())
    assert found.page is not None, found.faults
    assert found.sound, [str(fault) for fault in found.faults if not fault.open]
    assert any("clip" in str(fault) for fault in found.faults)
    assert any("at least 3" in str(fault) for fault in found.faults)


def test_a_file_of_the_first_form_is_brought_to_the_present(tmp_path: Path) -> None:
    old = tmp_path / "a-b.yaml"
    old.write_text(
        "page_format: 1\nmaker: A\nname: B\nfamily: C\nform: notebook\nevidence: {grade: measured, source: bench, date: 2026-01-02}\n"
        "positions:\n  - {key: fan, label: Fan, kind: fan, serviceability: screwed}\n"
        "  - {key: lid, label: Lid, kind: other, serviceability: clipped}\n"
        "operations:\n  - {id: cover, text: Lift, layer: cover, live: true, exposes: [fan]}\n"
        "  - {id: cut, text: Unplug, needs: [cover], live: true, isolates: true}\n"
        "  - {id: fan_out, text: Out, needs: [cover], frees: [fan], bare_board: true, tool: PH0,"
        " fasteners: [{group: PH0 M2x3, count: 2, bit: PH0, thread: M2x3}]}\n"
    )
    younger = tmp_path / "a-b-2.yaml"
    younger.write_text(
        "page_format: 1\nmaker: A\nname: B 2\nfamily: C\nform: notebook\ninherits: A B\noperations:\n  - {id: cut, text: Pull}\n"
    )
    before, after = upgrade(str(old))
    assert len(after) < len(before)
    was, now = whole_page(read_page(before).page or {}), whole_page(read_page(after).page or {})
    assert teardown_of(now).operations == teardown_of(was).operations
    old.write_bytes(after)
    assert upgrade(str(old)) == (after, after)
    assert b"tool" not in upgrade(str(younger))[1]  # taken over from its sibling, not by hand
    younger.write_text("page_format: 1\nmaker: A\nname: B 2\nfamily: C\nform: notebook\ninherits: A Z\n")
    with pytest.raises(InputFaults, match="not in the same folder"):
        upgrade(str(younger))


def test_what_is_outside_is_not_done_live() -> None:
    page = flat(
        HEAD
        + "steps:\n  - brick: Draw the plug\n    outside: true\n    isolates: true\n    under:\n      - lid: Lift the lid\n        layer: lid\n"
    )
    assert not any(step.get("live") for step in page["operations"])
    inside = flat(HEAD + "steps:\n  - lid: Lift the lid\n    layer: lid\n    under:\n      - plug: Unplug\n        isolates: true\n")
    assert all(step["live"] for step in inside["operations"])


GRADED = (
    HEAD
    + """parts:
  - keys: Keyboard; keyboard
    serviceability: 'staked (told: supplier)'
    orderable: ['true (told: desk)', 'false (document: sheet; 2024-01-01)']
steps:
  - cover: Lift the cover
    layer: base cover
    plugs:
      - {name: lead, kind: 'slide (told: supplier)', release: left}
    under:
      - out: Lift it out
        needs: cover, tape?
        frees: keys
      - tape: Peel the tape off
"""
)


def test_what_is_graded_or_in_doubt_reads_back_as_it_was_written() -> None:
    page = flat(GRADED)
    (keys,) = page["positions"]
    assert [(fact["value"], fact["grade"], fact["source"]) for fact in keys["serviceability"]] == [("staked", "told", "supplier")]
    assert [fact["value"] for fact in keys["orderable"]] == [True, False]
    cover, out, _ = page["operations"]
    assert cover["plugs"][0]["kind"][0]["value"] == "slide"
    assert cover["plugs"][0]["release"] == "left"
    assert out["needs"] == ["cover", {"done": "tape"}]
    written = write_page(page)
    assert read_page(written).page == page
    assert "needs: cover, tape?" in written.decode()


@pytest.mark.parametrize(
    ("line", "fault"),
    [
        ("serviceability: 'nailed (told: desk)'", "serviceability: one of socketed, screwed, clipped"),
        ("serviceability: nailed", "serviceability: one of socketed, screwed, clipped"),
        ("orderable: 'perhaps (told: desk)'", "orderable: another value was wanted, got 'perhaps'"),
        ("orderable: perhaps", "orderable: yes or no (true or false) was wanted"),
    ],
)
def test_a_value_that_cannot_be_is_named_however_it_is_graded(line: str, fault: str) -> None:
    found = read_page((HEAD + f"parts:\n  - keys: Keyboard; keyboard\n    {line}\n").encode())
    assert found.page is None
    assert [str(one) for one in found.faults if fault in str(one)], found.faults
