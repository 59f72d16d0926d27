"""The private cluster's folder, keys and ports, without starting anything long."""

from __future__ import annotations

import json
import socket
import stat
from pathlib import Path

import pytest

from almanac.launch import cluster as module
from almanac.launch.cluster import Cluster, LaunchError, default_data, free_port
from almanac.launch.start import single_instance
from almanac.launch.watch import listen_on


def test_a_free_port_is_free() -> None:
    port = free_port()
    listen_on(port).close()
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", port))
        taken.listen()
        with pytest.raises(LaunchError, match=f"port {port} is in use"):
            listen_on(port)


def test_keys_are_made_once_and_are_its_owners_only(tmp_path: Path) -> None:
    found = Cluster(tmp_path)
    first, other = found.key("database"), found.key("secret")
    assert first != other
    assert min(len(first), len(other)) >= 32
    assert Cluster(tmp_path).key("database") == first
    file = tmp_path / "keys.json"
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert set(json.loads(file.read_text())) == {"database", "secret"}


def test_the_address_names_loopback(tmp_path: Path) -> None:
    assert "@127.0.0.1:5999/almanac" in Cluster(tmp_path, port=5999).url()


def test_one_launcher_at_a_time_uses_a_folder(tmp_path: Path) -> None:
    with single_instance(tmp_path), pytest.raises(LaunchError, match="another Parts Almanac runs on"), single_instance(tmp_path):
        pass
    with single_instance(tmp_path):
        pass


def test_a_folder_that_cannot_be_written_is_named(tmp_path: Path) -> None:
    file = tmp_path / "file"
    file.write_text("")
    with pytest.raises(LaunchError, match="cannot write to the data folder"):
        Cluster(file / "data").prepare()


def test_a_killed_initdb_leaves_nothing_half_made(cluster: Cluster) -> None:
    leftover = cluster.data / "initdb-killed"
    leftover.mkdir()
    (leftover / "PG_VERSION").write_text("15")
    spare = Cluster(cluster.data)
    assert spare.folder.exists()
    spare.prepare()  # there is a cluster already: it is used, not made again
    assert (spare.folder / "PG_VERSION").exists()
    leftover.joinpath("PG_VERSION").unlink()
    leftover.rmdir()


def test_a_stale_server_file_names_no_server(tmp_path: Path) -> None:
    found = Cluster(tmp_path)
    found.folder.mkdir()
    for content in ("", "not a number\n", "1\n/elsewhere\n0\n5432\n\n127.0.0.1\n0\nready\n"):
        (found.folder / "postmaster.pid").write_text(content)
        assert found._running_port() is None


def test_without_postgresql_one_line_says_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    class Nowhere:
        def __init__(self, _: str) -> None: ...

        def glob(self, _: str) -> list[Path]:
            return []

    monkeypatch.setattr(module, "Path", Nowhere)
    with pytest.raises(LaunchError, match="apt-get install postgresql"):
        module.binaries()


def test_the_default_folder_is_in_the_project_where_postgres_can_go(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "_reachable_by_others", lambda _: True)
    assert default_data() == module.PROJECT / ".data"
    monkeypatch.setattr(module, "_reachable_by_others", lambda _: False)
    monkeypatch.setattr("os.geteuid", lambda: 0)
    assert default_data().parent == Path("/var/lib/parts-almanac")
    monkeypatch.setattr("os.geteuid", lambda: 1000)
    assert default_data() == module.PROJECT / ".data"
