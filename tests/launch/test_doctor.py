"""What the doctor says: of a folder that is not there, of one that is ill, of one that is well; it changes nothing."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner

from almanac.cli import main
from almanac.launch.cluster import DATABASE, Cluster
from almanac.launch.databases import administer
from almanac.launch.doctor import Check, State, examine, of_operation, of_schema
from almanac.store.backups import known_schemas
from almanac.store.engine import connect, migrate
from almanac.store.operation import Operation

NOW = datetime(2026, 11, 2, 8, tzinfo=UTC)
WELL = Operation(known_schemas()[-1], {"lead": 1}, {"todo": 3}, 1, 0, 0, NOW - timedelta(hours=6), False, 1, 0, 10, 5, 10**7)


def wrong(now_is: Operation) -> list[Check]:
    return [check for check in of_operation(now_is, NOW) if check.state is not State.GOOD]


def test_what_is_well_is_said_to_be() -> None:
    assert wrong(WELL) == []
    assert [str(check) for check in of_operation(WELL, NOW)][-1] == "good  the last proven backup is 6 hours old"


@pytest.mark.parametrize(
    ("ill", "state", "words"),
    [
        ({"people": {"reader": 4}}, State.WRONG, "nobody is a lead"),
        ({"workers": 0}, State.WRONG, "no worker gives a sign of life"),
        ({"work": {"failed": 2}}, State.LOOK, "2 answers could not be computed"),
        ({"backup_failed": True}, State.WRONG, "the last backup failed"),
        ({"last_good": None}, State.LOOK, "no backup was ever made by itself"),
        ({"last_good": NOW - timedelta(hours=27)}, State.WRONG, "27 hours old"),
    ],
)
def test_each_illness_is_named_with_its_cure(ill: dict[str, object], state: State, words: str) -> None:
    (found,) = wrong(WELL._replace(**ill))  # type: ignore[arg-type]
    assert found.state is state
    assert words in found.what
    assert found.cure


def test_a_schema_of_another_release_is_told() -> None:
    assert [of_schema(one).state for one in (known_schemas()[-1], known_schemas()[0], "9999")] == [State.GOOD, State.LOOK, State.WRONG]


def test_a_folder_is_looked_at_and_left_as_it_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("ALMANAC_BACKUPS", raising=False)
    away = {str(check) for check in examine(Cluster(tmp_path / "away"), now=NOW)}
    assert any("is not there yet: run bin/start" in line for line in away)
    assert not (tmp_path / "away").exists()
    (tmp_path / "keys.json").write_text("{}")
    (tmp_path / "keys.json").chmod(0o644)
    monkeypatch.setenv("ALMANAC_MAIL", "pigeon://loft")
    monkeypatch.setenv("ALMANAC_BACKUPS", str(tmp_path))
    monkeypatch.setenv("ALMANAC_BACKUPS_AT", "at night")
    ended = CliRunner().invoke(main, ["doctor", "--data", str(tmp_path)])
    assert ended.exit_code == 1
    for line in (
        "wrong others can read",
        "wrong ALMANAC_MAIL names no way",
        "wrong the hour of backups cannot be read",
        "there is no database yet",
    ):
        assert line in ended.output, ended.output


def test_a_running_one_is_examined_whole(cluster: Cluster) -> None:
    assert not Cluster(cluster.data.with_name("nowhere")).attach()
    found = examine(Cluster(cluster.data), now=NOW)
    assert any("there is no database yet" in check.what for check in found)  # the tests' server has none of that name
    administer(cluster, f"CREATE DATABASE {DATABASE}")
    try:
        engine = connect(cluster.url())
        migrate(engine)
        engine.dispose()
        words = {check.what: check.state for check in examine(Cluster(cluster.data), now=NOW)}
        assert words["nobody is a lead"] is State.WRONG
        assert words["no backup was ever made by itself"] is State.LOOK
    finally:
        administer(cluster, f"DROP DATABASE {DATABASE} WITH (FORCE)")
