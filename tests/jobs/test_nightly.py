"""Backups by themselves: when they are due, that they are proven, that a cut or killed one is none, and what came of it."""

from __future__ import annotations

import os
import subprocess
import sys
import time as clock
from collections.abc import Iterator
from datetime import UTC, datetime, time, timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import create_engine, text
from sqlalchemy.orm import Session

from almanac.jobs.nightly import Schedule, back_up, due, newest, schedule_of
from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.services.agenda import _failed
from almanac.store import backups, sealed
from almanac.store.backups import CHECK, BackupError
from almanac.store.engine import connect, migrate
from almanac.store.proven import Busy, make_backup
from almanac.store.queue import last_backup

NOW = datetime(2026, 11, 2, 3, tzinfo=UTC)


@pytest.fixture
def url(cluster: Cluster) -> Iterator[str]:
    """A small database of its own."""
    administer(cluster, "DROP DATABASE IF EXISTS nightly WITH (FORCE)", "CREATE DATABASE nightly")
    engine = connect(cluster.url("nightly"))
    migrate(engine)
    with engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO audit_entry (at, event, subject, words, address) SELECT now(), 'signed_in', 'Person ' || n, '', '' FROM generate_series(1, 300) n"
            )
        )
    engine.dispose()
    yield cluster.url("nightly")
    administer(cluster, "DROP DATABASE nightly WITH (FORCE)")


def databases(url: str) -> list[str]:
    engine = create_engine(url)
    with engine.connect() as connection:
        found = list(connection.scalars(text("SELECT datname FROM pg_database")))
    engine.dispose()
    return found


def said(url: str) -> tuple[bool, str]:
    engine = create_engine(url)
    with Session(engine) as session:
        last = last_backup(session)
        assert last is not None
        found = (last.good, last.words)
    engine.dispose()
    return found


def test_a_backup_is_proven_noted_and_only_so_many_are_kept(url: str, tmp_path: Path) -> None:
    schedule = Schedule(tmp_path / "kept", time(2, 30), keep=2)
    for day in range(4):
        assert back_up(url, schedule, now=NOW + timedelta(days=day))
    files = sorted(path.name for path in schedule.folder.iterdir())
    assert [name for name in files if name.endswith(".dump")] == ["almanac-20261104-030000.dump", "almanac-20261105-030000.dump"]
    assert len(files) == 4
    good, words = said(url)
    assert good
    assert "proven by restoring it; 1 older one taken away" in words
    assert CHECK not in databases(url)


@pytest.mark.parametrize(
    ("now", "made", "tried", "wanted"),
    [
        (time(2, 29), None, None, True),
        (time(2, 29), timedelta(hours=20), None, False),
        (time(2, 31), timedelta(hours=20), None, True),
        (time(2, 31), timedelta(minutes=1), None, False),
        (time(2, 31), timedelta(hours=20), timedelta(minutes=59), False),
        (time(3, 31), timedelta(hours=20), timedelta(minutes=60), True),
    ],
)
def test_it_is_due_once_a_day_and_again_an_hour_after_it_failed(
    monkeypatch: pytest.MonkeyPatch, now: time, made: timedelta | None, tried: timedelta | None, wanted: bool
) -> None:
    at = datetime.combine(NOW.date(), now, UTC)
    monkeypatch.setattr("almanac.jobs.nightly.newest", lambda _: at - made if made else None)
    schedule = Schedule(Path("/nowhere"), time(2, 30), keep=2)
    assert due(schedule, at, tried=at - tried if tried else None) is wanted


def test_what_the_environment_asks_for_is_read_or_refused() -> None:
    assert schedule_of({}) is None
    assert schedule_of({"ALMANAC_BACKUPS": "/b"}) == Schedule(Path("/b"), time(2, 30), 14)
    for wrong in ({"ALMANAC_BACKUPS_AT": "half two"}, {"ALMANAC_BACKUPS_KEEP": "some"}):
        with pytest.raises(BackupError, match="ALMANAC_BACKUPS_AT is an hour"):
            schedule_of({"ALMANAC_BACKUPS": "/b", **wrong})


def test_one_that_does_not_hold_what_it_held_is_none(url: str, tmp_path: Path) -> None:
    file = tmp_path / "almanac-1.dump"
    made = backups.dump(url, file)
    assert made.tables["audit_entry"][0] == 300
    assert backups.prove(url, file).rows == made.rows
    whole = file.read_bytes()
    file.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(BackupError, match="does not restore"):
        backups.prove(url, file)
    file.write_bytes(whole)
    engine = create_engine(url)
    with engine.begin() as connection:
        connection.execute(
            text("INSERT INTO audit_entry (at, event, subject, words, address) VALUES (now(), 'signed_in', 'Another', '', '')")
        )
    engine.dispose()
    other = tmp_path / "almanac-2.dump"
    backups.dump(url, other)
    file.write_bytes(other.read_bytes())  # restores well, and is another company than its manifest says
    with pytest.raises(BackupError, match="restores otherwise than it was: audit_entry"):
        backups.prove(url, file)
    backups.manifest_of(file).unlink()
    with pytest.raises(BackupError, match="does not say what"):
        backups.prove(url, file)
    assert CHECK not in databases(url)


def test_one_that_fails_leaves_no_file_is_tried_again_and_stands_on_the_day_s_list(
    url: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise BackupError("no space left on device")

    schedule = Schedule(tmp_path, time(2, 30), keep=2)
    with monkeypatch.context() as patch:
        patch.setattr("almanac.store.backups.prove", full)
        assert not back_up(url, schedule, now=NOW)
    assert list(tmp_path.iterdir()) == []
    assert said(url) == (False, "no space left on device")
    engine = create_engine(url)
    with Session(engine) as session:
        assert [one.words for one in _failed(session)] == ["the last backup failed"]
        assert back_up(url, schedule, now=NOW)
        session.rollback()
        assert list(_failed(session)) == []
    engine.dispose()


@pytest.mark.parametrize("where", ["digests", "prove", "manifest_of"])
def test_a_worker_killed_in_the_middle_leaves_nothing_that_passes_for_a_backup(url: str, tmp_path: Path, where: str) -> None:
    words = (
        "import sys, time; from pathlib import Path; from datetime import UTC, datetime, time as at;"
        "from almanac.store import backups; from almanac.jobs.nightly import Schedule, back_up;"
        f"backups.{where} = lambda *_: (print('there', flush=True), time.sleep(60));"
        f"back_up({url!r}, Schedule(Path({str(tmp_path)!r}), at(2, 30), 2), now=datetime(2026, 11, 1, 3, tzinfo=UTC))"
    )
    with subprocess.Popen([sys.executable, "-c", words], stdout=subprocess.PIPE, text=True, env=os.environ) as worker:
        assert worker.stdout is not None
        assert worker.stdout.readline() == "there\n"
        worker.kill()
    assert newest(tmp_path) is None
    left = {"almanac-20261101-030000.dump.partial", "almanac-20261101-030000.dump.partial.json"}
    assert {path.name for path in tmp_path.iterdir()} <= left
    schedule = Schedule(tmp_path, time(2, 30), keep=2)
    deadline = clock.monotonic() + 60
    while not list(tmp_path.glob("*.dump")) and clock.monotonic() < deadline:
        assert back_up(url, schedule, now=NOW)  # the lock of the killed one goes with its connection
    assert sorted(path.name for path in tmp_path.iterdir()) == ["almanac-20261102-030000.dump", "almanac-20261102-030000.dump.json"]


def test_the_name_says_whether_a_backup_is_encrypted(url: str, tmp_path: Path) -> None:
    public = sealed.new_key(tmp_path / "key")
    for asked in ("one.dump", "one.dump.age"):
        assert make_backup(url, tmp_path / asked, key=public, unproven=True).file == tmp_path / "one.dump.age"
    with pytest.raises(BackupError, match="name of an encrypted backup"):
        make_backup(url, tmp_path / "plain.age", unproven=True)


def test_an_encrypted_one_is_opened_by_its_key_alone(url: str, tmp_path: Path) -> None:
    key, other = tmp_path / "key", tmp_path / "other"
    public = sealed.new_key(key)
    sealed.new_key(other)
    with pytest.raises(BackupError, match="choose another file"):
        sealed.new_key(key)
    assert back_up(url, Schedule(tmp_path / "kept", time(2, 30), 2, public), now=NOW)
    (file,) = (tmp_path / "kept").glob("*.age")
    assert b"Person 7" not in file.read_bytes()
    assert newest(file.parent) is not None
    plain = tmp_path / "plain.dump"
    for wrong, content in ((other, file.read_bytes()), (key, file.read_bytes()[:-9])):
        cut = tmp_path / "almanac-cut.dump.age"
        cut.write_bytes(content)
        with pytest.raises(BackupError, match="is not opened by"):
            sealed.unseal(cut, wrong, plain)
        assert not plain.exists()
    sealed.unseal(file, key, plain)
    backups.manifest_of(plain).write_text(backups.manifest_of(file).read_text())
    assert backups.prove(url, plain).tables["audit_entry"][0] == 300
    with pytest.raises(BackupError, match="begins with age1"):
        sealed.seal(plain, "no key", plain.with_suffix(".age"))
    assert not back_up(url, Schedule(tmp_path / "kept", time(2, 30), 2, "no key"), now=NOW + timedelta(days=1))


def test_one_of_a_newer_program_is_refused_with_a_sentence(url: str, cluster: Cluster, tmp_path: Path) -> None:
    engine = create_engine(url)
    with engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    engine.dispose()
    file = tmp_path / "newer.dump"
    backups.dump(url, file)
    administer(cluster, "DROP DATABASE IF EXISTS older WITH (FORCE)", "CREATE DATABASE older")
    with pytest.raises(BackupError, match=r"made by a newer almanac \(schema 9999; this one knows up to 00\d\d\): install that one first"):
        backups.restore(url, file, "older")
    administer(cluster, "DROP DATABASE older WITH (FORCE)")


def test_two_are_never_made_at_once(url: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    prove, met = backups.prove, []

    def beside(*given: Any) -> Any:
        with pytest.raises(Busy, match="wait until it is done"):
            make_backup(url, tmp_path / "almanac-second.dump")
        met.append(back_up(url, Schedule(tmp_path, time(2, 30), 2), now=NOW))
        return prove(*given)

    monkeypatch.setattr("almanac.store.backups.prove", beside)
    assert make_backup(url, tmp_path / "almanac-first.dump").tables["audit_entry"][0] == 300
    assert met == [True]
    assert sorted(path.name for path in tmp_path.iterdir()) == ["almanac-first.dump", "almanac-first.dump.json"]
