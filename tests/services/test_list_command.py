"""The command that holds a list against the record, month after month."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import Any, cast

import pytest
from sqlalchemy.orm import Session

from almanac.launch import lists
from almanac.launch.cluster import Cluster
from almanac.services.clock import Clock
from almanac.services.intake.apply import ListRequest, apply_list, look_at
from almanac.services.intake.settled import Settled
from tests.services.ugly import LIST_ON, as_csv, machines, rows_of

NOWHERE = cast(Cluster, None)


@pytest.fixture(autouse=True)
def _on_this_session(monkeypatch: pytest.MonkeyPatch, session: Session) -> None:
    @contextmanager
    def same(_: Any) -> Iterator[Session]:
        yield session

    monkeypatch.setattr(lists, "one_session", same)


def written(folder: Path, rows: list[list[str]]) -> Path:
    file = folder / "devices.csv"
    file.write_bytes(as_csv(rows))
    return file


def test_a_first_list_asks_and_writes_nothing(session: Session, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    before = machines(session)
    rows = rows_of(session)[2:]
    rows.append(["PR-1", "Laserwerk", "Printer 900", "Gullskerry", "01.02.2024", "", ""])
    assert not lists.take_list(NOWHERE, written(tmp_path, rows), "Register", LIST_ON, write=True)
    said = capsys.readouterr()
    assert "asked: which model is 'Laserwerk Printer 900' (line " in said.err
    assert "asked: what became of 2 machines" in said.err
    assert "nothing was written" in said.err
    assert machines(session) == before


def test_the_next_one_is_applied_without_a_question(
    session: Session, clock: Clock, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rows = rows_of(session)
    rows[0][5] = "SN-1"
    first = ListRequest("Register", "a.csv", as_csv(rows), date(2026, 9, 30), Settled(gone="on"))
    apply_list(session, first, look_at(session, first, clock=clock).digest, clock=clock, author_id=1)
    rows[0][5] = "SN-2"
    gone = rows.pop(1)[0]
    assert lists.take_list(NOWHERE, written(tmp_path, rows), "register", LIST_ON, write=False)
    assert "Applied" not in capsys.readouterr().out
    assert lists.take_list(NOWHERE, written(tmp_path, rows), "register", LIST_ON, write=True)
    said = capsys.readouterr().out
    assert "changed: 1" in said
    assert f"{gone}: not on the list any more: retired on 30 Oct 2026" in said
    assert "Applied as list" in said
    assert gone not in {machine.tag for machine in machines(session)}
    assert lists.take_list(NOWHERE, written(tmp_path, rows), "register", LIST_ON, write=True)
    assert "Applied" not in capsys.readouterr().out


def test_what_is_no_list_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "a.csv"
    file.write_text("")
    assert not lists.take_list(NOWHERE, file, "Register", LIST_ON, write=True)
    assert "is empty" in capsys.readouterr().err


def test_a_folder_is_its_lists_by_name(tmp_path: Path) -> None:
    for name in ("2-tickets.csv", "1-machines.XLSX", "notes.pdf", "3.ods"):
        (tmp_path / name).write_bytes(b"x")
    (tmp_path / "old").mkdir()
    assert [one.name for one in lists.lists_in(tmp_path)] == ["1-machines.XLSX", "2-tickets.csv", "3.ods"]
    assert lists.lists_in(tmp_path / "notes.pdf") == [tmp_path / "notes.pdf"]
