"""What fits where: the rules asked for every stock part of a position's kind."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import insert
from sqlalchemy.orm import Session

from almanac.core.parts.answers import Answer
from almanac.core.parts.fits.drive import Speed, speed_in
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.kinds import Kind, Verdict
from almanac.store import catalog, pages
from almanac.store.models import Fits, Part, Position

ORDER = {Verdict.YES: 0, Verdict.UNKNOWN: 1, Verdict.NO: 2}


@dataclass(frozen=True)
class PartVerdict:
    """What is said of one stock part in one position: by a person who listed it, by the interchange list, or by a rule."""

    part: Part
    answer: Answer
    origin: str
    speed: Speed | None


def verdicts_of(
    entry: Mapping[str, Any], parts: Iterable[Part], listed: Mapping[int, str], interchange: Iterable[tuple[int, int]] = ()
) -> list[PartVerdict]:
    """Every part of the position's kind with its verdict, those that fit first.

    Parameters
    ----------
    entry : position of a page · parts : stock parts · listed : reason by part a person listed · interchange : (part, stands in for)
    """
    stands_in = {part for part, serves_as in interchange if serves_as in listed}
    found = [_verdict(entry, part, listed.get(part.id), part.id in stands_in) for part in parts if part.kind == entry["kind"]]
    return sorted(found, key=lambda item: (ORDER[item.answer.verdict], item.origin != "listed", item.part.number))


def _verdict(entry: Mapping[str, Any], part: Part, listed: str | None, stands_in: bool) -> PartVerdict:
    judged = judge(entry, Kind(part.kind), part.facts, listed=listed, stands_in=stands_in)
    speed = speed_in(entry.get("takes") or {}, part.facts) if part.kind == Kind.SSD else None
    return PartVerdict(part, judged.answer, judged.origin, speed)


def rewrite_computed(session: Session, positions: list[Position], entries: Mapping[str, Mapping[str, Any]]) -> None:
    """Ask the rules again for some positions of one model, and write what they say."""
    identifiers = [position.id for position in positions]
    pages.clear_computed_fits(session, identifiers)
    listed: dict[int, dict[int, str]] = {}
    for position_id, part_id, _, reason, _ in pages.fits_of(session, [positions[0].model_id] if positions else []):
        listed.setdefault(position_id, {})[part_id] = reason
    parts, interchange = pages.all_parts(session), catalog.interchange(session)
    rows = [
        {
            "position_id": position.id,
            "part_id": verdict.part.id,
            "verdict": verdict.answer.verdict.value,
            "reason": verdict.answer.reason,
            "origin": "computed",
        }
        for position in positions
        for verdict in verdicts_of(entries[position.key], parts, listed.get(position.id, {}), interchange)
        if verdict.origin == "computed"
    ]
    if rows:
        session.execute(insert(Fits), rows)
