"""A list from the command line: looked at, and applied where nothing is left to ask."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import click

from almanac.exchange.lists import WORKBOOKS
from almanac.launch.cluster import Cluster
from almanac.launch.databases import one_session
from almanac.services.clock import read_clock
from almanac.services.errors import Refused, Stale
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at
from almanac.services.intake.changes import Group
from almanac.services.intake.settled import Settled

SHOWN = 20
NAMED = (Group.NEW, Group.MOVED, Group.CHANGED, Group.GONE, Group.UNUSABLE, Group.WAITS)


def lists_in(path: Path) -> list[Path]:
    """A file, or the lists in a folder by name: what comes first in it is taken first."""
    if not path.is_dir():
        return [path]
    return sorted(one for one in path.iterdir() if one.is_file() and one.suffix.lower() in (*WORKBOOKS, ".csv", ".tsv", ".txt"))


def take_list(cluster: Cluster, file: Path, source: str, on: date | None, *, write: bool, kind: str | None = None) -> bool:
    """Say what a list changes, and write it if asked and nothing is left to ask; True when nothing was."""
    with one_session(cluster) as session:
        clock = read_clock(session)
        request = ListRequest(source, file.name, file.read_bytes(), on or clock.today, Settled(), kind)
        try:
            looked = look_at(session, request, clock=clock)
            _say(looked)
            waits = _waits(looked)
            for line in waits:
                click.echo(line, err=True)
            if write and not waits and looked.difference.done:
                number = apply_list(session, request, looked.digest, clock=clock, author_id=None)
                click.echo(f"Applied as list {number}")
        except (Refused, Stale) as error:
            click.echo(f"{file}: {error}", err=True)
            return False
    return not waits


def _say(looked: Looked) -> None:
    counts = looked.difference.counts()
    table = looked.understood.table
    rows = f"{len(looked.understood.rows):,} {looked.subject.many}"
    click.echo(f"{looked.subject.title}: {rows}, {table.how}, header in line {table.header_line}")
    for field, text, meaning in looked.understood.taken:
        click.echo(f"taken: {field} {text!r} for {meaning}")
    for group in NAMED:
        if not counts[group.value]:
            continue
        click.echo(f"{group.value}: {counts[group.value]:,}")
        for change in [one for one in looked.difference.changes if one.group is group][:SHOWN]:
            place = f"line {change.line}, " if change.line else ""
            click.echo(f"  {change.subject or '-'}: {place}{change.words}")
    click.echo(f"unchanged: {counts[Group.UNCHANGED.value]:,}")


def _waits(looked: Looked) -> list[str]:
    """What only a person can say, once, on the page of lists."""
    table = looked.understood.table
    found = [
        f"asked: {one.about or f'which {one.field} is'} {one.text!r} (line {', '.join(map(str, one.lines))})"
        for one in looked.understood.questions
    ]
    if table.asks_order:
        line, text = table.order.open[0] if table.order.open else table.order.month_first[0]
        found.append(f"asked: {text} in line {line}, is the day first or the month")
    if table.asks_decimal:
        line, text = table.marks.open[0] if table.marks.open else table.marks.point[0]
        found.append(f"asked: {text} in line {line}, does a comma or a point stand before the decimals")
    if looked.difference.open_gone:
        found.append(f"asked: what became of {looked.difference.open_gone:,} {looked.subject.many} on record that it does not name")
    return [*found, "Answer once under Import, a list; nothing was written"] if found else []
