"""Sites and models that a machine list names and nobody has on record: described, added, and taken back."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Group
from almanac.services.intake.machines.additions import form_told
from almanac.services.intake.machines.sentence import positions_said
from almanac.services.intake.settled import NEW, Asks, Settled
from almanac.services.outlook.summary import read_outlook
from tests.services.ugly import LIST_ON, as_csv

ROWS = [
    ["TW-1", "Tangle", "Wisp 13 Notebook", "Farhaven", "03.05.2022", "", ""],
    ["TW-2", "Tangle", "Wisp 13 Notebook", "Farhaven", "04.05.2022", "", ""],
    ["TW-3", "Tangle", "Block 2", "Gullskerry", "04.05.2022", "", ""],
]
NAMES = {"model": {"tangle wisp 13 notebook": NEW, "tangle block 2": NEW}, "site": {"farhaven": NEW}}
ALL = {**NAMES, "log_began": {"farhaven": "2026-09-01"}, "form": {"tangle block 2": "mini_pc"}}


def request(names: dict[str, dict[str, str]]) -> ListRequest:
    return ListRequest("Register", "Geräte.csv", as_csv(ROWS), LIST_ON, Settled(names=names, gone="leave"))


def look(session: Session, clock: Clock, names: dict[str, dict[str, str]]) -> Looked:
    return look_at(session, request(names), clock=clock)


def asked(looked: Looked) -> set[tuple[str, str]]:
    return {(one.field, one.text) for one in looked.understood.questions if not one.optional}


def test_new_ones_are_asked_then_described_then_added_and_taken_back(session: Session, clock: Clock) -> None:
    looked = look(session, clock, {})
    assert asked(looked) == {("model", "Tangle Wisp 13 Notebook"), ("model", "Tangle Block 2"), ("site", "Farhaven")}
    assert all(one.may_be_new for one in looked.understood.questions)
    looked = look(session, clock, NAMES)
    assert asked(looked) == {("log_began", "Farhaven"), ("form", "Tangle Block 2")}
    began = next(one for one in looked.understood.questions if one.field == "log_began")
    assert (began.asks, began.proposal, began.rows) == (Asks.DAY, LIST_ON.isoformat(), 2)
    assert {change.subject for change in looked.difference.changes if change.group is Group.WAITS} == {"TW-1", "TW-2", "TW-3"}
    with pytest.raises(Refused, match="answer every question"):
        apply_list(session, request(NAMES), looked.digest, clock=clock, author_id=1)
    said = {**ALL, "holds": {"tangle wisp 13 notebook": "1 battery, 1 fan, SSD M.2 2280, 2 memory slots"}}
    looked = look(session, clock, said)
    assert looked.open == 0
    assert [change.words for change in looked.difference.done if change.words.startswith(("site ", "model, "))] == [
        "site Farhaven, repairs written down since 1 Sep 2026", "model, notebook; 5 positions", "model, mini PC; what it holds is not said",
    ]  # fmt: skip
    number = apply_list(session, request(said), looked.digest, clock=clock, author_id=1)
    site = session.execute(text("SELECT code, log_began_on, is_depot, environment FROM site WHERE name = 'Farhaven'")).one()
    assert tuple(site) == ("FAR", date(2026, 9, 1), False, "office")
    keys = text("SELECT p.key FROM position p JOIN device_model m ON m.id = p.model_id WHERE m.name = 'Wisp 13 Notebook' ORDER BY p.key")
    assert list(session.execute(keys).scalars()) == ["battery", "fan", "memory_1", "memory_2", "ssd"]
    stands = text("""SELECT a.tag, m.form, s.code FROM asset a JOIN device_model m ON m.id = a.model_id
                     JOIN asset_stay y ON y.asset_id = a.id JOIN site s ON s.id = y.site_id WHERE a.tag LIKE 'TW-%' ORDER BY a.tag""")
    assert [tuple(row) for row in session.execute(stands)] == [
        ("TW-1", "notebook", "FAR"), ("TW-2", "notebook", "FAR"), ("TW-3", "mini_pc", "GUL"),
    ]  # fmt: skip
    # Machines of which nothing is on record yet are told, and keep nobody from the outlook.
    assert read_outlook(session).unrecorded >= 2
    assert look_at(session, request({}), clock=clock).difference.done == []
    changes, stays = undo_list(session, number, clock=clock, author_id=1)
    assert changes == 6
    assert sorted(stays) == ["Tangle Block 2", "Tangle Wisp 13 Notebook"]
    assert session.execute(text("SELECT count(*) FROM site WHERE name = 'Farhaven'")).scalar() == 0


def test_a_sentence_that_names_no_part_is_asked_again(session: Session, clock: Clock) -> None:
    looked = look(session, clock, {**ALL, "holds": {"tangle block 2": "1 wombat"}})
    (question,) = [one for one in looked.understood.questions if one.field == "holds" and not one.optional]
    assert "“1 wombat” names no kind of part" in question.about
    assert looked.open == 1


def test_a_first_site_of_several_is_the_depot_once_somebody_says_which(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE site SET is_depot = false"))
    assert ("depot", "") not in asked(look(session, clock, ALL))
    rows = [*ROWS, ["TW-4", "Tangle", "Block 2", "Nearhaven", "04.05.2022", "", ""]]
    names = {**ALL, "site": {"farhaven": NEW, "nearhaven": NEW}, "log_began": {"farhaven": "2026-09-01", "nearhaven": "2026-09-01"}}
    both = ListRequest("Register", "Geräte.csv", as_csv(rows), LIST_ON, Settled(names=names, gone="leave"))
    assert asked(look_at(session, both, clock=clock)) == {("depot", "")}
    said = ListRequest("Register", "Geräte.csv", as_csv(rows), LIST_ON, Settled(names={**names, "depot": {"": "NEA"}}, gone="leave"))
    looked = look_at(session, said, clock=clock)
    assert looked.open == 0
    assert [change.subject for change in looked.difference.done if "delivered there" in change.words] == ["NEA"]


@pytest.mark.parametrize(
    ("text_", "keys"),
    [
        ("1 battery, 1 fan", ["battery", "fan"]), ("2 x memory and SSD", ["memory_1", "memory_2", "ssd"]), ("", []),
        ("Akku; 2 Lüfter", ["battery", "fan_1", "fan_2"]), ("fan, fan", ["fan_1", "fan_2"]),
        ("8 GB DDR4 memory, battery 52 Wh, 4 cell battery", ["memory", "battery_1", "battery_2"]), ("2 x 8 GB memory", ["memory_1", "memory_2"]),
        ("14 inch display; 16 GB memory", ["display", "memory"]),
    ],
)  # fmt: skip
def test_sentences_become_positions(text_: str, keys: list[str]) -> None:
    assert [position["key"] for position in positions_said(text_).positions] == keys


def test_a_sentence_with_too_many_is_wrong() -> None:
    assert "1 to 8" in positions_said("12 fans").wrong


@pytest.mark.parametrize(
    ("words", "form"),
    [("All-in-One 24", "all_in_one"), ("Mini-PC", "mini_pc"), ("Laptop", "notebook"), ("Block 2", None), ("Tower", "workstation"), ("2-in-1", "convertible")],
)  # fmt: skip
def test_forms_are_told_by_words_alone(words: str, form: str | None) -> None:
    assert form_told(words) == form
