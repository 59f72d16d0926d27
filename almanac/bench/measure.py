"""Timing and memory, and one way to print a figure."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import click


def best_of(work: Callable[[], object], times: int) -> float:
    """Seconds of the fastest of several runs."""
    spent = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begun)
    return min(spent)


def peak_megabytes() -> float:
    """Largest memory this program has held. Not from getrusage, which still counts what its parent held when it forked."""
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1024


def show(what: str, value: float, unit: str, wanted: str = "") -> None:
    """One line: what, figure, and what is aimed at."""
    click.echo(f"  {what:<58} {value:>10.1f} {unit:<4} {wanted}")
