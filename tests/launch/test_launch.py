"""Starting, stopping and surviving: the real launcher on a data folder of its own."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import socket
import stat
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from click.testing import CliRunner
from sqlalchemy import create_engine, text

from almanac.cli import main
from almanac.launch.cluster import Cluster, LaunchError, free_port, running
from almanac.launch.processes import Register, process_of

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(scope="module")
def data() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(prefix="almanac-launch-", dir="/tmp"))
    folder.chmod(0o711)
    yield folder / "data"
    Cluster(folder / "data").stop()
    shutil.rmtree(folder, ignore_errors=True)


def launch(data: Path, port: int, *options: str, **environment: str) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "almanac.launch.start", "--data", str(data), "--port", str(port), *options]
    return subprocess.Popen(
        command,
        cwd=ROOT,
        text=True,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        env={**os.environ, **environment},
    )


@contextmanager
def started(data: Path, port: int, *options: str, **environment: str) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """A launcher that has announced itself, and what it said."""
    process = launch(data, port, *options, **environment)
    assert process.stdout is not None
    said = ""
    for line in process.stdout:
        said += line
        if "Ctrl-C" in line:
            break
    try:
        yield process, said
    finally:
        if process.poll() is None:
            process.send_signal(signal.SIGINT)
            process.wait(30)
        process.stdout.close()


def session_state(port: int) -> dict[str, object]:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/session", timeout=10) as reply:
        state: dict[str, object] = json.load(reply)
    return state


def children_of(data: Path, launcher: int) -> list[int]:
    """The launcher's web processes and the cluster's server, by id."""
    web = [int(pid) for pid in subprocess.run(["pgrep", "-P", str(launcher)], capture_output=True, text=True, check=False).stdout.split()]
    workers = [
        int(pid)
        for parent in web
        for pid in subprocess.run(["pgrep", "-P", str(parent)], capture_output=True, text=True, check=False).stdout.split()
    ]
    return [*web, *workers, *Cluster(data)._own_processes()]


def test_it_starts_with_the_demo_keeps_its_data_and_survives_being_killed(data: Path) -> None:
    port = free_port()
    with started(data, port) as (process, said):
        assert f"http://127.0.0.1:{port}" in said
        assert "ferry-lead-2026" in said
        assert session_state(port)["as_of"] == "2026-11-01"
        refused = launch(data, free_port())
        assert "another Parts Almanac runs on" in refused.communicate(timeout=60)[0]
        engine = create_engine(_url(data))
        with engine.begin() as connection:
            connection.execute(text("UPDATE \"user\" SET name = 'M. Quay the younger' WHERE login = 'quay'"))
        engine.dispose()
        victims = [process.pid, *children_of(data, process.pid)]
        assert len(victims) > 4
        for pid in victims:
            with pytest.MonkeyPatch.context():
                try:
                    os.kill(pid, signal.SIGKILL)
                except ProcessLookupError:
                    continue
        process.wait(10)
    with started(data, port) as (_, said):
        assert "Loading the demo" not in said
        assert session_state(port)["as_of"] == "2026-11-01"
        engine = create_engine(_url(data))
        with engine.connect() as connection:
            assert connection.scalar(text("SELECT name FROM \"user\" WHERE login = 'quay'")) == "M. Quay the younger"
        engine.dispose()
    assert Cluster(data)._own_processes() == set()  # Ctrl-C stops both


def _url(data: Path) -> str:
    cluster = Cluster(data)
    cluster.port = cluster._running_port() or 0
    return cluster.url()


def test_the_second_start_is_quick_and_reset_brings_the_demo_back(data: Path) -> None:
    port = free_port()
    with started(data, port, "--reset-demo") as (_, said):
        assert "Loading the demo" in said
        engine = create_engine(_url(data))
        with engine.connect() as connection:
            assert connection.scalar(text("SELECT name FROM \"user\" WHERE login = 'quay'")) == "M. Quay"
        engine.dispose()


def until(what: Callable[[], bool], seconds: float = 40.0) -> None:
    deadline = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/health/ready", timeout=5) as reply:
            return bool(reply.status == 200)
    except OSError:
        return False


def test_what_dies_comes_back_by_itself(data: Path) -> None:
    port = free_port()
    with started(data, port) as (process, _):
        web = Register(data).leftovers()[0]
        os.kill(web.pid, signal.SIGKILL)
        until(lambda: [one for one in Register(data).leftovers() if one != web] != [])
        until(lambda: answers(port))
        postmaster = int((data / "postgres" / "postmaster.pid").read_text().splitlines()[0])
        os.kill(postmaster, signal.SIGKILL)
        until(lambda: (data / "postgres" / "postmaster.pid").exists() and process_of(postmaster) is None)
        until(lambda: answers(port) and session_state(port)["as_of"] == "2026-11-01")
        for _ in range(7):  # killed again and again: what ran is started always
            postmaster = int((data / "postgres" / "postmaster.pid").read_text().splitlines()[0])
            os.kill(postmaster, signal.SIGKILL)
            until(lambda old=postmaster: process_of(old) is None and answers(port))  # type: ignore[misc]
        assert process.poll() is None
        assert stat.S_IMODE((data / "log" / "web.log").stat().st_mode) == 0o600


def test_a_launcher_killed_alone_leaves_nothing_in_the_way(data: Path) -> None:
    port = free_port()
    with started(data, port) as (process, _):
        process.kill()
        process.wait(10)
        left = Register(data).leftovers()
        assert answers(port)  # who uses it notices nothing
        assert len(left) == 3  # two web processes and a worker
        with started(data, port) as (_, said):
            assert "Ended 3 processes that an earlier start had left running" in said
            assert not any(one.is_running() for one in left)
            assert answers(port)
    assert Cluster(data)._own_processes() == set()


def test_backup_and_restore_bring_every_row_back(data: Path, tmp_path: Path) -> None:
    file = tmp_path / "almanac.backup"
    runner = CliRunner()
    key = tmp_path / "key"
    made = runner.invoke(main, ["backup-key", str(key)])
    assert made.output.startswith("age1")
    saved = runner.invoke(main, ["backup", str(file), "--key", made.output.strip(), "--data", str(data)])
    assert saved.exit_code == 0, saved.output
    assert "proven by restoring it" in saved.output
    file = file.with_name("almanac.backup.age")
    assert stat.S_IMODE(file.stat().st_mode) == stat.S_IMODE(key.stat().st_mode) == 0o600
    unopened = runner.invoke(main, ["restore", str(file), "--yes", "--data", str(data)])
    assert "name the file of its key" in unopened.output
    with running(data) as cluster:
        engine = create_engine(cluster.url())
        with engine.begin() as connection:
            before = connection.scalar(text("SELECT count(*) FROM incident"))
            guarded = connection.scalar(text("SELECT count(*) FROM pg_trigger WHERE tgname = 'append_only'"))
            for table in ("reservation", "backorder", "fleet_plan"):
                connection.execute(text(f"DELETE FROM {table}"))
            connection.execute(text("DROP TRIGGER append_only ON setting"))
        engine.dispose()
        restored = runner.invoke(main, ["restore", str(file), "--yes", "--key-file", str(key), "--data", str(data)])
        assert restored.exit_code == 0, restored.output
        engine = create_engine(cluster.url())
        with engine.connect() as connection:
            assert connection.scalar(text("SELECT count(*) FROM incident")) == before
            assert connection.scalar(text("SELECT count(*) FROM fleet_plan")) == 4
            assert connection.scalar(text("SELECT count(*) FROM pg_trigger WHERE tgname = 'append_only'")) == guarded
        engine.dispose()


def test_a_broken_backup_changes_nothing(data: Path, tmp_path: Path) -> None:
    file = tmp_path / "broken.backup"
    file.write_bytes(b"no backup at all")
    result = CliRunner().invoke(main, ["restore", str(file), "--yes", "--data", str(data)])
    assert result.exit_code == 1
    assert "nothing was changed" in result.output
    with running(data) as cluster:
        engine = create_engine(cluster.url())
        with engine.connect() as connection:
            assert (connection.scalar(text("SELECT count(*) FROM incident")) or 0) > 1000
        engine.dispose()


def test_users_and_imports_from_the_command_line(data: Path, tmp_path: Path) -> None:
    runner = CliRunner()
    added = runner.invoke(
        main, ["user", "add", "Boat", "B. Oat", "--role", "reader", "--password", "long enough to keep", "--data", str(data)]
    )
    assert added.exit_code == 0, added.output
    again = runner.invoke(main, ["user", "add", "boat", "B. Oat", "--role", "reader", "--password", "short", "--data", str(data)])
    assert again.exit_code == 1
    assert "is in use" in again.output
    wrong = runner.invoke(main, ["company", "--currency", "euros", "--time-zone", "Skerry/Line", "--data", str(data)])
    assert wrong.exit_code == 1
    assert "currency code such as EUR" in wrong.output
    assert "IANA time zone" in wrong.output
    assert runner.invoke(main, ["company", "--name", "Boat Line", "--data", str(data)]).exit_code == 0
    assert runner.invoke(main, ["company"]).exit_code == 2
    assert runner.invoke(main, ["import", str(tmp_path), "--templates"]).exit_code == 0
    checked = runner.invoke(main, ["import", str(tmp_path), "--check", "--data", str(data)])
    assert checked.exit_code == 2
    assert "sites.csv: line 2, column code: ELD is already there" in checked.output
    nothing = runner.invoke(main, ["import", str(tmp_path / "none")])
    assert nothing.exit_code == 2
    (tmp_path / "a.csv").write_text("a;b\n1;2\n")
    no_list = runner.invoke(main, ["list", str(tmp_path / "a.csv"), "--data", str(data)])
    assert no_list.exit_code == 2
    assert "no row of a.csv names columns" in no_list.output


def test_a_port_in_use_gets_one_clear_line(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        process = launch(tmp_path, port)
        said = process.communicate(timeout=60)[0]
    assert process.returncode == 1
    assert said.strip() == f"Error: port {port} is in use: stop what serves there, or choose another with --port"


def test_a_data_folder_it_may_not_use_gets_one_clear_line() -> None:
    process = launch(Path("/proc/almanac"), free_port())
    said = process.communicate(timeout=60)[0]
    assert process.returncode == 1
    assert said.count("\n") == 1
    assert "cannot write to the data folder /proc/almanac" in said


def test_without_the_demo_it_prints_a_code_for_the_first_user_or_takes_the_environment(data: Path) -> None:
    empty, port = data.parent / "empty", free_port()
    refused = launch(empty, port, "--empty", "--reset-demo")
    assert "exclude one another" in refused.communicate(timeout=60)[0]
    refused = launch(empty, port, "--empty", ALMANAC_FIRST_PASSWORD="short")
    said = refused.communicate(timeout=120)[0]
    assert refused.returncode == 1
    assert "the first user cannot be made as the environment says" in said
    with started(empty, port, "--empty") as (_, said):
        assert re.search(r"with this code: [A-Z2-9]{4}-[A-Z2-9]{4}-[A-Z2-9]{4}$", said, re.MULTILINE)
        assert session_state(port)["first_user"] is True
    with started(empty, port, "--empty", ALMANAC_FIRST_LOGIN="quay", ALMANAC_FIRST_PASSWORD="twelve letters or more") as (_, said):
        assert "The first user, quay, was made" in said
        assert "twelve letters" not in said
        assert session_state(port)["first_user"] is False


def test_a_stale_postmaster_file_is_no_obstacle(data: Path) -> None:
    (data / "postgres" / "postmaster.pid").write_text("999999\n/nowhere\n0\n5432\n\n127.0.0.1\n0\nready\n")
    begun = time.monotonic()
    with running(data) as cluster:
        assert cluster.port not in (0, 5432)
    assert time.monotonic() - begun < 60


def test_a_cluster_cannot_be_made_where_postgres_cannot_go(tmp_path: Path) -> None:
    if os.geteuid() != 0:
        pytest.skip("only root has to hand the folder to another user")
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    with pytest.raises(LaunchError, match="the postgres user cannot reach"):
        Cluster(closed / "data").prepare()
