"""Labels of whole machines, and strings on parts: read as far as they say, and asked where they do not."""

from __future__ import annotations

import pytest

from almanac.core.parts.labels.machine import read_machine
from almanac.core.parts.labels.strings import proposed_role

KNOWN = {"Brindwell": ["Tiller", "Counter"], "Ostrel": ["Packet", "Halyard"], "Quillfin": ["Bollard", "Drydock"]}


def test_a_label_says_who_made_what_of_which_size() -> None:
    read = read_machine("BRINDWELL TILLER 16  TL16  20V", KNOWN, "notebook")
    assert (read.maker, read.family, read.model, read.size_inches, read.code) == ("Brindwell", "Tiller", "Tiller 16", 16.0, "TL16")
    assert (read.series, read.generation, read.asked) == (None, None, [])
    assert read_machine("Ostrel Packet 14  PK14-2b 19V 3.42A", KNOWN, "notebook").code == "PK14-2b"
    assert read_machine("BRINDWELL COUNTER 24 CT24 100-240V", KNOWN, "all_in_one").size_inches == 24


def test_a_figure_that_is_no_size_of_the_form_is_none() -> None:
    assert read_machine("QUILLFIN BOLLARD 12V", KNOWN, "mini_pc").size_inches is None
    assert read_machine("BRINDWELL COUNTER 14", KNOWN, "all_in_one").size_inches is None
    asked = read_machine("OSTREL PACKET 14 15", KNOWN, "notebook")
    assert asked.size_inches is None
    assert "14 and 15: which of them is the size?" in asked.asked[0]


def test_a_lone_digit_is_a_series_until_a_second_source_says_generation() -> None:
    alone = read_machine("OSTREL PACKET 14 2 PK14-2", KNOWN, "notebook")
    assert (alone.series, alone.generation) == (2, None)
    assert "only a second source" in alone.asked[0]
    told = read_machine("OSTREL PACKET 14 2 PK14-2", KNOWN, "notebook", generations=[2])
    assert (told.series, told.generation, told.asked) == (None, 2, [])
    assert read_machine("OSTREL PACKET 14 2", KNOWN, "notebook", generations=[3]).series == 2
    for words in ("OSTREL PACKET 14 Gen 3", "OSTREL PACKET 14 3rd gen"):
        assert read_machine(words, KNOWN, "notebook").generation == 3
    assert "2 and 3: which of them is the series?" in read_machine("OSTREL PACKET 14 2 3", KNOWN, "notebook").asked[0]


def test_a_maker_nobody_knows_is_asked_for() -> None:
    read = read_machine("NARWHAL SLOOP 14 NS14 NS14-A", KNOWN, "notebook")
    assert (read.maker, read.family, read.code) == (None, None, None)
    assert any("no maker" in question for question in read.asked)
    assert any("NS14 and NS14-A: which of them is the model's code?" in question for question in read.asked)
    assert "a new one?" in read_machine("OSTREL SLOOP 14", KNOWN, "notebook").asked[0]
    assert read_machine("PACKET 13", KNOWN, "notebook").family == "Packet"


@pytest.mark.parametrize(
    ("text", "role"),
    [
        ("REV 03", "revision"), ("Rev: A1", "revision"), ("V1.2", "revision"), ("2023-41", "date"), ("2024/05/11", "date"), ("23W41", "date"),
        ("E123456 AWM 20276", "cable"), ("LVDS cable 320 mm", "cable"), ("CE", "approval"), ("FCC ID: ABC-12", "approval"),
        ("DWG 45-1120", "drawing"), ("Spare 812-3345", "spare_code"), ("Model LX-2200", "maker_model"), ("BD-16S-256", "unknown"),
        ("4711", "unknown"), ("hello", "unknown"),
    ],
)  # fmt: skip
def test_a_string_is_proposed_a_role_and_nothing_is_ordered_by_a_guess(text: str, role: str) -> None:
    assert proposed_role(text) == role


def test_what_the_parts_list_has_is_what_is_ordered() -> None:
    assert proposed_role(" ld-80256 ", {"ld-80256": "spare_code"}) == "spare_code"
