"""Leftovers are ended by id and start time: a stranger that has the id by now is left alone."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from almanac.launch.processes import Process, Register, process_of, started_at


@pytest.fixture
def sleeper() -> Iterator[subprocess.Popen[bytes]]:
    process = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
    yield process
    process.kill()
    process.wait()


def test_a_process_of_ones_own_is_ended(tmp_path: Path, sleeper: subprocess.Popen[bytes]) -> None:
    found = process_of(sleeper.pid)
    assert found is not None
    Register(tmp_path).note([found])
    assert Register(tmp_path).leftovers() == [found]
    assert Register(tmp_path).end_leftovers() == 1
    assert sleeper.wait(10) != 0
    assert Register(tmp_path).end_leftovers() == 0


def test_a_stranger_with_the_same_id_is_left_alone(tmp_path: Path, sleeper: subprocess.Popen[bytes]) -> None:
    started = started_at(sleeper.pid)
    assert started is not None
    Register(tmp_path).note([Process(sleeper.pid, started - 1)])
    assert Register(tmp_path).end_leftovers() == 0
    Process(sleeper.pid, started - 1).end()
    assert sleeper.poll() is None


def test_what_an_earlier_start_of_the_machine_wrote_down_means_nothing(tmp_path: Path, sleeper: subprocess.Popen[bytes]) -> None:
    found = process_of(sleeper.pid)
    assert found is not None
    Register(tmp_path).note([found])
    file = tmp_path / "processes.json"
    rows = json.loads(file.read_text())
    file.write_text(json.dumps([{**rows[0], "boot": "another"}]))
    assert Register(tmp_path).leftovers() == []


@pytest.mark.parametrize("words", ["", "no json", "[1]", "{}", '[{"pid": "x"}]'])
def test_a_broken_list_names_nobody(tmp_path: Path, words: str) -> None:
    (tmp_path / "processes.json").write_text(words)
    assert Register(tmp_path).leftovers() == []


def test_who_ended_is_nobody(sleeper: subprocess.Popen[bytes]) -> None:
    found = process_of(sleeper.pid)
    assert found is not None
    sleeper.kill()
    sleeper.wait()
    assert not found.is_running()
    found.end()
    assert process_of(sleeper.pid) is None
    assert process_of(os.getpid()) is not None
