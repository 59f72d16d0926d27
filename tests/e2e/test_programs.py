"""Programs and machines at the door: the examples of the documentation, and the script that machines report with."""

from __future__ import annotations

import json
import os
import re
import stat
import subprocess
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import SignIn

ROOT = Path(__file__).resolve().parents[2]
SCRIPT = ROOT / "bin" / "almanac-report"
EXAMPLES = re.findall(r"^```sh\n(.*?)^```", (ROOT / "docs" / "api.md").read_text(), re.DOTALL | re.MULTILINE)
DMIDECODE = """Handle 0x0040, DMI type 17, 40 bytes
Memory Device
\tSize: 8 GB
\tLocator: DIMM A
\tType: DDR4
\tSpeed: 3200 MT/s
\tSerial Number: 5A7C0001

"""
LSBLK = {"blockdevices": [{"name": "nvme0n1", "size": 512110190592, "type": "disk", "tran": "nvme", "serial": "NIGHT-9", "rm": False}]}


def key(page: Any, name: str, purpose: str, file: Path) -> Path:
    """Make a key in the page, as anybody would, and keep what is shown once."""
    page.get_by_role("button", name="Make a key").click()
    page.get_by_label("What it is for").fill(name)
    page.get_by_label("With it").select_option(label=purpose)
    page.get_by_role("button", name="Make it").click()
    shown = page.get_by_text("Copy it now").locator("xpath=following-sibling::p[1]")
    text = shown.inner_text()
    file.write_text(text.rsplit("/", 1)[-1].removesuffix(".ics"))
    page.get_by_role("button", name="I have it").click()
    expect(page.get_by_text(name, exact=True)).to_be_visible()
    return file


def test_the_examples_of_the_documentation_work(sign_in: SignIn, address: str, tmp_path: Path) -> None:
    page = sign_in("quay", "/fleet/reports")
    environment = {
        **os.environ,
        "ALMANAC": address,
        "READ_KEY": str(key(page, "dashboard", "a program reads", tmp_path / "read")),
        "REPORT_KEY": str(key(page, "nightly", "machines bring reports", tmp_path / "report")),
        "CALENDAR_KEY": str(key(page, "mine", "your calendar of what is due", tmp_path / "calendar")),
    }
    assert len(EXAMPLES) == 5
    told = []
    for example in EXAMPLES:
        ran = subprocess.run(["bash", "-euc", example], cwd=tmp_path, env=environment, capture_output=True, text=True, check=False)
        assert ran.returncode == 0, (example, ran.stderr)
        told.append(ran.stdout)
    assert json.loads((tmp_path / "openapi.json").read_text())["openapi"].startswith("3.")
    assert json.loads(told[1])["as_of"]
    assert (tmp_path / "machines.csv").read_text("utf-8-sig").startswith("tag,serial,model")
    assert json.loads(told[3])["tag"] == "SK-0001"
    assert (tmp_path / "due.ics").read_text().startswith("BEGIN:VCALENDAR")


def tool(folder: Path, name: str, says: str) -> None:
    """A tool that prints what it is told, in front of whatever the machine has."""
    file = folder / name
    (folder / f"{name}.txt").write_text(says)
    file.write_text(f'#!/bin/sh\ncat "{folder}/{name}.txt"\n')
    file.chmod(file.stat().st_mode | stat.S_IXUSR)


@pytest.fixture
def machine(tmp_path: Path) -> dict[str, str]:
    """A machine whose tools say what the test told them, and nothing of the one it runs on."""
    folder = tmp_path / "tools"
    folder.mkdir()
    tool(folder, "dmidecode", DMIDECODE)
    tool(folder, "lsblk", json.dumps(LSBLK))
    for silent in ("smartctl", "nvme", "upower", "sensors"):
        tool(folder, silent, "")
    (tmp_path / "product_serial").write_text("OPTEST1\n")
    (tmp_path / "tag").write_text("SK-0002\n")
    return {
        **os.environ,
        "PATH": f"{folder}:{os.environ['PATH']}",
        "ALMANAC_SYS": str(tmp_path),
        "ALMANAC_TAG_FILE": str(tmp_path / "tag"),
        "ALMANAC_NVME": "none",
        "TMPDIR": str(tmp_path),
    }


def run(machine: dict[str, str], *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(["dash", str(SCRIPT), *arguments], env=machine, capture_output=True, text=True, check=False)


def test_a_dry_run_shows_all_that_would_be_sent_and_sends_nothing(machine: dict[str, str], tmp_path: Path) -> None:
    ran = run(machine)
    assert ran.returncode == 0
    assert "NIGHT-9" in ran.stdout
    assert "tag SK-0002" in ran.stdout
    assert "serial OPTEST1" in ran.stdout
    assert "nothing was" in ran.stderr
    assert os.environ.get("USER", "nobody knows") not in ran.stdout.replace("root", "") or os.environ.get("USER") == "root"
    assert {path.name for path in tmp_path.iterdir()} == {"tools", "product_serial", "tag"}


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["--send"], "--url wants"),
        (["--send", "--url", "http://127.0.0.1:9"], "--key wants a file"),
        (["--spread", "soon"], "whole minutes"),
        (["--loud"], "is no option"),
        (["--tag"], "wants a value"),
    ],
)
def test_what_is_missing_is_said(machine: dict[str, str], arguments: list[str], told: str) -> None:
    ran = run(machine, *arguments)
    assert ran.returncode == 2
    assert told in ran.stderr


def test_a_machine_without_a_tag_a_serial_or_tools_says_so(machine: dict[str, str], tmp_path: Path) -> None:
    (tmp_path / "tag").unlink()
    (tmp_path / "product_serial").unlink()
    assert "no tag and its serial cannot be read" in run(machine).stderr
    for name in ("dmidecode", "lsblk"):
        tool(tmp_path / "tools", name, "")
    assert "no tool said anything" in run(machine, "--tag", "SK-0002").stderr


def test_a_machine_reports_and_what_is_otherwise_is_settled(sign_in: SignIn, address: str, machine: dict[str, str], tmp_path: Path) -> None:
    page = sign_in("quay", "/fleet/reports")
    expect(page.get_by_text("No machine reports by itself yet.")).to_be_visible()
    file = key(page, "nightly", "machines bring reports", tmp_path / "key")
    send = ["--send", "--url", address, "--key", str(file), "--tag", "SK-0002"]
    kept = tmp_path / "kept"
    run(machine, "--tag", "SK-0002", "--keep", str(kept))
    (tmp_path / "product_serial").write_text("\n")
    ran = run(machine, *send)
    assert ran.returncode == 0, ran.stderr
    assert json.loads(ran.stdout)["tag"] == "SK-0002"
    wrong = tmp_path / "wrong"
    wrong.write_text("almanac_nobodys")
    refused = run(machine, "--send", "--url", address, "--key", str(wrong), "--tag", "SK-0002")
    assert refused.returncode == 1
    assert "it was not taken" in refused.stderr
    for left in ("key", "wrong"):
        assert (tmp_path / left).read_text() not in ran.stderr + refused.stderr
    page.reload()
    expect(page.get_by_text("1 machine of")).to_be_visible()
    asked = page.get_by_role("row").filter(has_text="SK-0002")
    expect(asked.first).to_contain_text("NIGHT-9")
    asked.first.get_by_role("button", name="As on record").click()
    page.get_by_label("Why").fill("the drive's label was read wrong")
    page.get_by_role("button", name="It is as on record").click()
    expect(page.get_by_role("row").filter(has_text="NIGHT-9")).to_have_count(0)
    page.get_by_role("button", name="End nightly").click()
    expect(page.get_by_text(re.compile("ended on"))).to_be_visible()
    over = run(machine, "--send", "--url", address, "--key", str(file), "--tag", "SK-0002", "--from", str(kept))
    assert over.returncode == 1
