"""A machine's report from pasted text: one document or several in a row, each in the form a common open tool prints."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.workbench.reported import Reported
from almanac.exchange.reports.battery import BatteryFault, from_html, from_xml
from almanac.exchange.reports.documented import DocumentedFault, documented
from almanac.exchange.reports.drives import nvme_log, smartctl
from almanac.exchange.reports.lines import text as lines
from almanac.exchange.reports.listings import entries, lsblk, lshw, sensors
from almanac.exchange.reports.merge import together
from almanac.exchange.reports.seen import Seen

LARGEST = 2_000_000
MOST_DOCUMENTS = 200
OWN_FORM = "machine report"
MARKUP_END = re.compile(r"</(?:html|BatteryReport)\s*>", re.IGNORECASE)
BEGINS = re.compile(r"^(?=[ \t]*[\[{<])", re.MULTILINE)
FORMS = (
    '"machine_report": 1, lshw -json, dmidecode, smartctl --json, nvme smart-log -o json, upower --dump, lsblk --json, sensors -j, '
    "a battery report"
)


class ReportFault(Exception):
    """The text is no report that is understood; the message says what was wanted."""


@dataclass(frozen=True)
class Found:
    """A report, the forms it came in, and what of it was not understood, in words."""

    report: Reported
    form: str
    missed: tuple[str, ...] = ()


def read_report(text: str) -> Found:
    """A report from text.

    Raises
    ------
    ReportFault : it is empty, too long, or nothing of it is understood
    """
    if not text.strip():
        raise ReportFault("the report is empty: paste what the machine says")
    if len(text) > LARGEST:
        raise ReportFault("the report is longer than 2 MB: paste memory, drives, pack and fans only")
    seen, missed = [], []
    for document in _documents(text.lstrip("\ufeff")):
        if isinstance(document, str):
            missed.append(document)
        elif document.empty and document.form != OWN_FORM:
            missed += document.missed or (f"{document.form}: nothing about memory, drives, pack or fans",)
        else:
            seen.append(document)
            missed += document.missed
    if not seen:
        raise ReportFault(f"nothing was understood: {'; '.join(missed[:3])}. Forms that are read: {FORMS}")
    report, odd = together(seen)
    forms = list(dict.fromkeys(one.form for one in seen))
    return Found(report, ", ".join(forms), (*missed, *odd))


def _documents(text: str) -> Iterator[Seen | str]:
    """Every document of the text; of one that is not understood, words that say so."""
    left = text
    for _ in range(MOST_DOCUMENTS):
        left = left.lstrip()
        if not left:
            return
        read = _json if left[0] in "{[" else _markup if left[0] == "<" else _lines
        found, left = read(left)
        yield found
    if left.strip():
        yield f"more than {MOST_DOCUMENTS} documents: the rest was not read"


def _json(text: str) -> tuple[Seen | str, str]:
    try:
        document, end = json.JSONDecoder().raw_decode(text)
    except json.JSONDecodeError as error:
        return f"line {error.lineno}, column {error.colno}: no JSON: {error.msg}, in a document that begins {_begins(text)}", _after_next(
            text
        )
    except RecursionError:
        return "JSON nested deeper than any tool writes", ""
    rest = text[end:].lstrip()
    return _understood(document), rest.removeprefix(",")


def _understood(document: Any) -> Seen | str:
    """What a JSON document is, by what only that form has."""
    try:
        if isinstance(document, Mapping):
            return _of_object(document)
        if isinstance(document, list) and any("class" in entry for entry in entries(document)):
            return lshw(document)
    except DocumentedFault as error:
        return str(error)
    except (TypeError, ValueError, AttributeError):
        return f"JSON that looks like a form that is read, and does not follow it: {_begins(json.dumps(document))}"
    return f"JSON of no form that is read: {_begins(json.dumps(document))}"


def _of_object(document: Mapping[str, Any]) -> Seen | str:
    if "machine_report" in document:
        return documented(document)
    if isinstance(document.get("blockdevices"), list):
        return lsblk(document)
    if "smartctl" in document or "json_format_version" in document:
        return smartctl(document)
    if "percent_used" in document or "percentage_used" in document:
        return nvme_log(document)
    if "class" in document:
        return lshw(document)
    found = sensors(document)
    return f"JSON of no form that is read: it has {', '.join(sorted(map(str, document))[:5]) or 'nothing in it'}" if found.empty else found


def _markup(text: str) -> tuple[Seen | str, str]:
    end = MARKUP_END.search(text)
    document, rest = (text[: end.end()], text[end.end() :]) if end else (text, "")
    html = re.search(r"<(?:html|table)\b", document, re.IGNORECASE)
    try:
        found = from_html(document) if html else from_xml(document)
    except BatteryFault as error:
        return str(error), rest
    return found, rest


def _lines(text: str) -> tuple[Seen | str, str]:
    """Lines up to the next line that begins JSON or markup."""
    begins = next((found.start() for found in BEGINS.finditer(text) if found.start() > 0), len(text))
    chunk, rest = text[:begins], text[begins:]
    found = lines(chunk)
    return (f"lines that begin {_begins(chunk)}" if found.empty else found), rest


def _after_next(text: str) -> str:
    """What comes after broken JSON: from the next line at the margin that begins a document of any form."""
    found = re.search(r"\n(?=[\[{<]|Device: |Handle 0x|Memory Device|# dmidecode)", text)
    return text[found.end() :] if found else ""


def _begins(text: str) -> str:
    first = " ".join(text.split())[:40]
    return f'"{first}"'
