"""Whether a finding may be written with what is known: "confirmed" is earned, not chosen (rule D2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Protocol

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.core.parts.kinds import Verdict
from almanac.core.triage.confirm import Evidence, WatchRules, days_between, finding_allowed
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.store.settings import settings_on


class Claimed(Protocol):
    """An account of an incident with what it rests on."""

    @property
    def occurred_on(self) -> date: ...
    @property
    def evidence(self) -> Evidence: ...


def watch_rules(session: Session, clock: Clock) -> WatchRules:
    """Cold starts and days a cure has to hold, as the company decided."""
    company, usual = settings_on(session, clock.today), WatchRules()
    return WatchRules(
        cold_starts=int(company.value("cold_starts", default=usual.cold_starts)), days=int(company.value("watch_days", default=usual.days))
    )


def check_findings(findings: Sequence[tuple[Finding, int | None]], account: Claimed, session: Session, clock: Clock) -> None:
    """Refuse findings that the evidence does not carry; days of watching are counted from the incident.

    Raises
    ------
    Refused : naming what is missing and what to write meanwhile
    """
    rules = watch_rules(session, clock)
    evidence = replace(account.evidence, days=days_between(account.occurred_on, clock.today))
    faults = []
    for finding, age in dict.fromkeys(findings):
        answer = finding_allowed(finding, evidence, rules, age_days=age)
        if answer.verdict != Verdict.YES:
            instead = "" if finding != Finding.CONFIRMED else "; leave it open until then"
            faults.append(Fault("finding", f"not {finding.value.replace('_', ' ')} yet: {answer.reason}{instead}"))
    if faults:
        raise Refused(*faults)
