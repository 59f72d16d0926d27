"""Processes of a data folder, known by id and the moment they started: an id alone may belong to a stranger by now."""

from __future__ import annotations

import contextlib
import json
import os
import select
import signal
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

PATIENCE_SECONDS = 5.0


@dataclass(frozen=True)
class Process:
    """One process: `started` is its start time in clock ticks since the machine was started."""

    pid: int
    started: int

    def is_running(self) -> bool:
        """Whether this very process is alive; a zombie is not."""
        return started_at(self.pid) == self.started

    def end(self) -> None:
        """Ask it to stop, then insist. The handle is taken before the start time is looked at, so that the id cannot change hands."""
        with _handle(self.pid) as handle:
            if handle is None or not self.is_running():
                return
            for step in (signal.SIGTERM, signal.SIGKILL):
                with contextlib.suppress(ProcessLookupError):
                    signal.pidfd_send_signal(handle, step)
                if select.select([handle], [], [], PATIENCE_SECONDS)[0]:
                    return


@contextlib.contextmanager
def _handle(pid: int) -> Iterator[int | None]:
    try:
        handle = os.pidfd_open(pid)
    except ProcessLookupError:
        yield None
        return
    try:
        yield handle
    finally:
        os.close(handle)


def started_at(pid: int) -> int | None:
    """Start time of a live process, None for one that ended or is a zombie."""
    with contextlib.suppress(OSError, IndexError, ValueError):
        fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
        return None if fields[0] == "Z" else int(fields[19])
    return None


def process_of(pid: int) -> Process | None:
    """A live process by its id."""
    started = started_at(pid)
    return None if started is None else Process(pid, started)


class Register:
    """The processes a launcher started, written down so that the next one can end what a killed one left."""

    def __init__(self, folder: Path) -> None:
        self._file = folder / "processes.json"

    def note(self, processes: list[Process]) -> None:
        """Replace what is written down."""
        partial = self._file.with_suffix(".partial")
        partial.touch(mode=0o600)
        boot = _boot()
        partial.write_text(json.dumps([{"pid": one.pid, "started": one.started, "boot": boot} for one in processes]))
        partial.replace(self._file)

    def leftovers(self) -> list[Process]:
        """Processes of an earlier launcher that still run."""
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
            rows = json.loads(self._file.read_text())
            found = [Process(int(row["pid"]), int(row["started"])) for row in rows if row["boot"] == _boot()]
            return [one for one in found if one.is_running()]
        return []

    def end_leftovers(self) -> int:
        """End them all; returns how many there were."""
        found = self.leftovers()
        for one in found:
            one.end()
        return len(found)


def _boot() -> str:
    """Names this start of the machine: start times are counted from it."""
    with contextlib.suppress(OSError):
        return Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    return ""
