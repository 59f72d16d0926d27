"""Timing and memory, and one way to print a figure."""

from __future__ import annotations

import resource
import time
from collections.abc import Callable

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
    """Largest memory this process has held."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def show(what: str, value: float, unit: str, wanted: str = "") -> None:
    """One line: what, figure, and what is aimed at."""
    click.echo(f"  {what:<58} {value:>10.1f} {unit:<4} {wanted}")
