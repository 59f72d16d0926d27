"""Memory of the processes while so many requests are answered: it has to stay where it is."""

from __future__ import annotations

from pathlib import Path

import click

from almanac.bench.load import product, run, wait_until_known

STRETCHES = 8
SECONDS = 5.0
SESSIONS = 8
MEGABYTE = 1024


def measure_flat(requests: int, *, webs: int, workers: int) -> None:
    """Print the resident memory of each process before, and after each eighth of so many requests, reads and writes mixed."""
    with product(webs=webs, workers=workers) as port:
        wait_until_known(port)
        click.echo(f"{'requests':>9}  {'  '.join(sorted(resident(port)))}  (MB, resident)")
        _row(0, port)
        done = 0
        for stretch in range(1, STRETCHES + 1):
            while done < requests * stretch / STRETCHES:
                seen = run(port, sessions=SESSIONS, pause=0.0, seconds=SECONDS)
                done += sum(len(took) for took in seen.took.values())
                for words in sorted(set(seen.errors))[:3]:
                    click.echo(f"  ! {words}")
            _row(done, port)


def _row(done: int, port: int) -> None:
    found = resident(port)
    click.echo(f"{done:>9,}  " + "  ".join(f"{found[name]:>{len(name)}.0f}" for name in sorted(found)))


def resident(port: int) -> dict[str, float]:
    """Megabytes of each web process and worker of the product on a port, by the name of its log."""
    launcher = next(pid for pid, words in _commands().items() if "almanac.launch.start" in words and str(port) in words)
    found = {}
    for pid, words in _commands().items():
        if "--log" in words and _parent(pid) == launcher:
            found[Path(words[words.index("--log") + 1]).stem] = _kilobytes(pid) / MEGABYTE
    return found


def _commands() -> dict[int, list[str]]:
    found = {}
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            try:
                found[int(folder.name)] = (folder / "cmdline").read_text().split("\0")
            except OSError:
                continue  # it ended meanwhile
    return found


def _parent(pid: int) -> int:
    return _figure(pid, "PPid")


def _kilobytes(pid: int) -> int:
    return _figure(pid, "VmRSS")


def _figure(pid: int, name: str) -> int:
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith(f"{name}:"))
