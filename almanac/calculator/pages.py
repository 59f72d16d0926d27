"""`calc route` and `calc label`: a model page and a part's label, without a database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from almanac.calculator.inputs import InputFaults, read_bytes
from almanac.core.errors import NoEstimate
from almanac.core.parts.inheritance import whole_page
from almanac.core.parts.labels.read import read_label
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.route import Route, plan_route, saved_minutes
from almanac.core.teardown.written import teardown_of
from almanac.exchange.pages.read import PageFile, read_page
from almanac.exchange.pages.write import upgraded


def label(text: str) -> dict[str, Any]:
    """What a memory, drive or battery label says."""
    reading = read_label(text)
    return {"kind": reading.kind.value if reading.kind else None, "facts": reading.facts, "flags": reading.flags}


def file_name(model: str) -> str:
    """The name a model's page file has: Ostrel Packet 14 is ostrel-packet-14.yaml."""
    return "-".join(model.lower().split()) + ".yaml"


def read_page_at(path: str) -> tuple[PageFile, Mapping[str, Any] | None]:
    """A page file and the whole page, the sibling's taken from the same folder; None where the file does not follow the format."""
    found = read_page(read_bytes(path))
    if found.page is None:
        return found, None
    if not found.page.get("inherits"):
        return found, whole_page(found.page)
    beside = Path(path).parent / file_name(found.page["inherits"])
    if path == "-" or not beside.is_file():
        return found, None
    _, sibling = read_page_at(str(beside))
    if sibling is None:
        return found, None
    return read_page(read_bytes(path), sibling), whole_page(found.page, sibling)


def upgrade(path: str) -> tuple[bytes, bytes]:
    """A page file as it is, and in the present form.

    Raises
    ------
    InputFaults : the file is wrong, or its sibling's is not in the same folder
    """
    data = read_bytes(path)
    found, whole = read_page_at(path)
    wrong = [f"{path}: {fault}" for fault in found.faults if not fault.open]
    if found.page is None or wrong:
        raise InputFaults(wrong)
    sibling: Mapping[str, Any] | None = None
    if found.page.get("inherits"):
        if whole is None:
            raise InputFaults(
                [f"{path}: inherits {found.page['inherits']}, whose page {file_name(found.page['inherits'])} is not in the same folder"]
            )
        _, sibling = read_page_at(str(Path(path).parent / file_name(found.page["inherits"])))
    return data, upgraded(found.page, sibling)


def check(path: str) -> tuple[list[str], bool]:
    """Every fault of a page file as a line, and whether none is more than something missing."""
    found, _ = read_page_at(path)
    lines = [f"{path}: {'open: ' if fault.open else ''}{fault}" for fault in found.faults]
    return lines, found.sound


def check_as_document(path: str) -> dict[str, Any]:
    """Faults of a page file by line and place, and what is open.

    `wanted` and `got` where the message tells them apart; `worth` is what an answer would be worth, None where nobody worked it out.
    """
    found, _ = read_page_at(path)
    faults: list[dict[str, Any]] = []
    questions: list[dict[str, Any]] = []
    noted: list[str] = []
    for fault in found.faults:
        if fault.noted:
            noted.append(str(fault))
            continue
        if fault.open:
            questions.append({"line": fault.line, "place": fault.path, "question": f"{fault.message}; {fault.cure}", "worth": None})
            continue
        wanted, _, got = fault.message.rpartition(", got ")
        entry = {"line": fault.line, "place": fault.path, "wanted": wanted or fault.message, "got": got if wanted else None}
        faults.append(entry | {"cure": fault.cure})
    return {"file": path, "faults": faults, "open": questions, "noted": noted}


def route(path: str, targets: Sequence[str], options: Sequence[str] = (), direct: bool = False) -> dict[str, Any]:
    """The way in to some positions of a page file, and back.

    Raises
    ------
    InputFaults : the file or a position is wrong
    """
    found, page = read_page_at(path)
    if page is None and found.page is not None:
        sibling = found.page["inherits"]
        raise InputFaults([f"{path}: inherits {sibling}, whose page {file_name(sibling)} is not in the same folder"])
    wrong = [f"{path}: {fault}" for fault in found.faults if not fault.open]
    if page is None or wrong:
        raise InputFaults(wrong)
    teardown = teardown_of(page, _options(page, options))
    unknown = [target for target in targets if target not in teardown.places]
    if unknown:
        raise InputFaults([f"--to {name}: no such position; one of {', '.join(teardown.places)}" for name in unknown])
    try:
        planned = plan_route(teardown, targets, direct=targets if direct else (), as_far=True)
    except NoEstimate as reason:
        raise InputFaults([f"{path}: {reason}"]) from reason
    return _answer(planned, teardown)


def _options(page: Mapping[str, Any], given: Sequence[str]) -> dict[str, str]:
    found, faults = {}, []
    for item in given:
        name, _, value = item.partition("=")
        values = (page.get("options") or {}).get(name, {}).get("values") or []
        if value not in values:
            listed = ", ".join(f"{option}={one}" for option, entry in (page.get("options") or {}).items() for one in entry["values"])
            faults.append(f"--option {item}: no such option; one of {listed or 'none'}")
        found[name] = value
    if faults:
        raise InputFaults(faults)
    return found


def _answer(planned: Route, teardown: Teardown) -> dict[str, Any]:
    opened, closed = planned.minutes_open.mean, planned.minutes_close.mean
    return {
        "operations": [_step(step) for step in planned.steps],
        "tools": list(planned.kit.tools),
        "aids": list(planned.kit.aids),
        "consumables": list(planned.kit.consumables),
        "spares": list(planned.kit.spares),
        "fasteners": [
            {
                "group": group.group,
                "loose": group.loose,
                "captive": group.captive,
                "unknown": group.unknown,
                "at_least": group.least,
                "about": group.about,
            }
            for group in planned.tray
        ],
        "minutes": {"open": opened, "close": closed, "total": opened + closed, "estimated": planned.estimated},
        "tool_changes": planned.tool_changes,
        "cautions": [f"{caution.operation}: {caution.text}" for caution in planned.cautions],
        "reassembly": [
            {"operation": back.operation, "text": back.text, "minutes": back.minutes.mean, "left_out": back.left_out}
            for back in planned.reassembly.steps
        ],
        "leads": list(planned.reassembly.leads),
        "saved_minutes": saved_minutes(teardown, planned.targets, planned),
        "escalations": [
            {"target": item.target, "reached": item.reached, "reason": item.unit.reason, "takes_along": list(item.unit.takes_along)}
            for item in planned.escalations
        ],
        "optional": [{"id": item.operation, "reason": item.reason, "minutes": item.minutes} for item in planned.optional],
        "known_to": {target: words for target, words in planned.ends},
        "order_proven": planned.exact,
        "isolated": planned.isolated,
        "power": planned.power.value,
    }


def _step(step: Operation) -> dict[str, Any]:
    return {
        "id": step.id,
        "text": step.text,
        "tool": step.tool,
        "tools": step.tools.words,
        "minutes": step.minutes.mean,
        "estimated": step.minutes.estimated > 0,
        "live": step.live,
        "one_way": step.one_way is not None,
        "optional": step.optional is not None,
    }
