"""What a list is taken for: its sheet, header, columns, order of days and names; what only a person can say is asked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from rapidfuzz import fuzz, process

from almanac.core.parts.kinds import Duty
from almanac.exchange.lists import Cell, ListFile, Sheet
from almanac.services.errors import Fault, Refused
from almanac.services.intake.columns import FIELDS, header_of, means_gone, plain, proposed
from almanac.services.intake.values import Order, day_of, order_of

NOT_FOR_US, SURE, RUNNER_UP, PERHAPS = "-", 93, 4, 60
"""A name that is none of ours; how alike a name is taken for another without a question, and how far ahead of the next; and proposed."""
DAYS = ("in_service_on", "retire_planned_on")
USUAL_DUTY = Duty.OFFICE_HOURS.value
DUTY_WORDS = {
    Duty.ROUND_THE_CLOCK.value: ("24/7", "24x7", "24h", "round the clock", "always on", "rund um die uhr", "dauerbetrieb", "continu"),
    Duty.TWO_SHIFTS.value: ("two shifts", "2 shifts", "shift", "zweischicht", "2 schicht", "schicht", "deux equipes", "equipes"),
    Duty.OFFICE_HOURS.value: ("office", "office hours", "buero", "buerozeit", "normal", "bureau", "heures de bureau"),
}


@dataclass(frozen=True)
class Settled:
    """What a person said of a source's lists. columns : header by field, "" for none · names : by field, plain text to its meaning,
    NOT_FOR_US for what is none of ours · gone : "leave", "on" (the list's day) or "spread" since the last list
    delivered : new machines hold what their model is delivered with, where that is beyond doubt
    """

    sheet: str | None = None
    columns: Mapping[str, str] = field(default_factory=dict)
    day_first: bool | None = None
    names: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    gone: str | None = None
    delivered: bool | None = None


@dataclass(frozen=True)
class Names:
    """What is on record: sites by code with their names, models by id with maker and name, tags."""

    sites: Mapping[str, str]
    models: Mapping[int, tuple[str, str]]
    tags: frozenset[str]

    def known(self) -> dict[str, set[str]]:
        """Plain names by field, to tell columns by what stands in them."""
        return {
            "tag": {plain(tag) for tag in self.tags},
            "site": {plain(name) for pair in self.sites.items() for name in pair},
            "model": {plain(name) for maker, model in self.models.values() for name in (model, f"{maker} {model}")},
            "maker": {plain(maker) for maker, _ in self.models.values()},
        }


@dataclass(frozen=True)
class Question:
    """A name that nobody explained yet. proposal : what it is most like, None where like nothing · lines : some rows it stands in"""

    field: str
    text: str
    rows: int
    lines: tuple[int, ...]
    proposal: str | None


@dataclass(frozen=True)
class MachineRow:
    """A row as it was understood; what it does not say is None. gone : its status says it is used no more"""

    line: int
    tag: str
    serial: str | None
    model: str | None
    site: str | None
    duty: str | None
    in_service_on: date | None
    retire_planned_on: date | None
    gone: bool
    status: str
    wrong: str = ""


@dataclass(frozen=True)
class Understood:
    """A list as it was understood.

    columns : header by field · taken : names taken for another without a question, (field, text, meaning) · order : of days
    day_first : how ambiguous days were read · asks_order : whether a person has to say
    rows : of machines that are ours, in the order of the file · not_ours : rows set aside for their model or site
    """

    how: str
    sheets: list[str]
    sheet: str
    header: list[str]
    header_line: int
    columns: dict[str, str]
    order: Order
    day_first: bool
    asks_order: bool
    questions: list[Question]
    taken: list[tuple[str, str, str]]
    rows: list[MachineRow]
    not_ours: int


def understand(file: ListFile, names: Names, settled: Settled) -> Understood:
    """Understand a machine list.

    Raises
    ------
    Refused : no sheet has a header that names machines, or no column names their tags or models
    """
    sheet, place = _sheet(file, settled)
    header = [str(cell) for cell in sheet.rows[place]]
    body = [(line, row) for line, row in enumerate(sheet.rows[place + 1 :], place + 2) if any(cell != "" for cell in row)]
    columns = _columns(header, [row for _, row in body], names, settled)
    lacking = [field_.about for field_ in FIELDS if field_.needed and field_.name not in columns]
    if lacking:
        raise Refused(
            Fault("columns", f"no column was found for {' and '.join(lacking)}: say which one it is"),
        )
    order = order_of((line, row[columns[name]]) for line, row in body for name in DAYS if name in columns)
    day_first = settled.day_first if settled.day_first is not None else order.settled
    models, sites = _Meanings("model", _model_names(names), settled), _Meanings("site", _site_names(names), settled)
    rows, aside = [], 0
    for line, row in body:
        found = _row(line, row, columns, day_first is not False, models, sites)
        if found is None:
            aside += 1
        else:
            rows.append(found)
    return Understood(
        how=file.how,
        sheets=[one.name for one in file.sheets],
        sheet=sheet.name,
        header=header,
        header_line=place + 1,
        columns={name: header[at] for name, at in columns.items()},
        order=order,
        day_first=day_first is not False,
        asks_order=day_first is None,
        questions=[*models.questions(), *sites.questions()],
        taken=[*models.taken(), *sites.taken()],
        rows=rows,
        not_ours=aside,
    )


def _sheet(file: ListFile, settled: Settled) -> tuple[Sheet, int]:
    """The sheet with the header: the one that was chosen, else the one of most rows below one."""
    found = [(sheet, place) for sheet in file.sheets if (place := header_of(sheet.rows)) is not None]
    chosen = [pair for pair in found if pair[0].name == settled.sheet]
    if not found:
        words = ", ".join(field_.words[0] for field_ in FIELDS)
        raise Refused(Fault("file", f"no row of {file.name} names columns of a machine list: a header such as {words} was wanted"))
    return max(chosen or found, key=lambda pair: len(pair[0].rows) - pair[1])


def _columns(header: Sequence[str], body: Sequence[Sequence[Cell]], names: Names, settled: Settled) -> dict[str, int]:
    """Columns as a person said, and the others as they are proposed."""
    found = {name: place for name, place in proposed(header, body, names.known()).items() if name not in settled.columns}
    for name, said in settled.columns.items():
        if said and said in header:
            place = header.index(said)
            found = {other: at for other, at in found.items() if at != place}
            found[name] = place
    return found


def _model_names(names: Names) -> dict[str, str]:
    own = {plain(f"{maker} {model}"): str(number) for number, (maker, model) in names.models.items()}
    alone = Counter(plain(model) for _, model in names.models.values())
    return own | {plain(model): str(number) for number, (_, model) in names.models.items() if alone[plain(model)] == 1}


def _site_names(names: Names) -> dict[str, str]:
    return {plain(code): code for code in names.sites} | {plain(name): code for code, name in names.sites.items()}


class _Meanings:
    """What names of a column mean: as a person said, as they are on record, or as what they are most like."""

    def __init__(self, field_: str, known: Mapping[str, str], settled: Settled) -> None:
        self.field, self.known, self.said = field_, known, settled.names.get(field_, {})
        self.met: dict[str, tuple[str, list[int], str | None, str | None]] = {}

    def of(self, line: int, text: str) -> str | None:
        """The meaning of a text; None where it is to be asked."""
        key = plain(text)
        if key not in self.met:
            meaning, proposal = self._look(key)
            self.met[key] = (text, [], meaning, proposal)
        self.met[key][1].append(line)
        return self.met[key][2]

    def _look(self, key: str) -> tuple[str | None, str | None]:
        if key in self.said:
            return self.said[key], None
        if key in self.known:
            return self.known[key], None
        best = process.extract(key, self.known.keys(), scorer=fuzz.ratio, limit=5)
        ranked: dict[str, float] = {}
        for name, score, _ in best:
            ranked[self.known[name]] = max(score, ranked.get(self.known[name], 0.0))
        order = sorted(ranked.items(), key=lambda item: -item[1])
        if not order or order[0][1] < PERHAPS:
            return None, None
        ahead = order[0][1] - (order[1][1] if len(order) > 1 else 0.0)
        sure = order[0][1] >= SURE and ahead >= RUNNER_UP and _same_version(key, self._of(order[0][0]))
        return (order[0][0], order[0][0]) if sure else (None, order[0][0])

    def _of(self, meaning: str) -> str:
        return max((name for name, own in self.known.items() if own == meaning), key=len, default="")

    def questions(self) -> list[Question]:
        """Names to be asked for, those in most rows first."""
        open_ = [(text, lines, proposal) for text, lines, meaning, proposal in self.met.values() if meaning is None]
        return [
            Question(self.field, text, len(lines), tuple(lines[:3]), proposal)
            for text, lines, proposal in sorted(open_, key=lambda one: -len(one[1]))
        ]

    def taken(self) -> list[tuple[str, str, str]]:
        """Names taken for another without a question."""
        return [(self.field, text, meaning) for text, _, meaning, proposal in self.met.values() if meaning and proposal]


def _same_version(one: str, other: str) -> bool:
    """Whether the numbers and single letters of two names are the same: "14 b" is no misspelt "14"."""

    def marks(name: str) -> list[str]:
        return [word for word in name.split() if len(word) == 1 or any(sign.isdigit() for sign in word)]

    return marks(one) == marks(other)


def _row(
    line: int, row: Sequence[Cell], columns: Mapping[str, int], day_first: bool, models: _Meanings, sites: _Meanings
) -> MachineRow | None:
    """One row; None for one that is none of ours."""

    def text(name: str) -> str:
        cell = row[columns[name]] if name in columns else ""
        return f"{cell:.0f}" if isinstance(cell, float) and cell == int(cell) else str(cell)

    maker, model = text("maker"), text("model")
    said = model if not maker or plain(model).startswith(plain(maker)) else f"{maker} {model}"
    meaning = models.of(line, said) if said else None
    place = sites.of(line, text("site")) if text("site") else None
    if NOT_FOR_US in (meaning, place):
        return None
    days = {name: day_of(row[columns[name]], day_first=day_first) if name in columns else None for name in DAYS}
    unread = [text(name) for name in DAYS if name in columns and text(name) and days[name] is None]
    status = text("status")
    return MachineRow(
        line=line,
        tag=text("tag"),
        serial=text("serial") or None,
        model=meaning,
        site=place,
        duty=_duty(text("duty")),
        in_service_on=days["in_service_on"],
        retire_planned_on=days["retire_planned_on"],
        gone=bool(status) and means_gone(status),
        status=status,
        wrong=f"{unread[0]} is no day that a record can mean" if unread else "",
    )


def _duty(text: str) -> str | None:
    said = plain(text)
    if not said:
        return None
    return next((duty for duty, words in DUTY_WORDS.items() if any(plain(word) in said for word in words)), None)
