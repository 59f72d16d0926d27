"""Changing what the company decided: each change is a new entry with its day and author."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from zoneinfo import available_timezones

from sqlalchemy.orm import Session

from almanac.core.life.school import CHOICES
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.stock.reorder import Measure
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused, Stale
from almanac.store import assets, catalog, settings
from almanac.store.models import Setting

RANGES: dict[str, tuple[float, float, str]] = {
    "target": (0.5, 0.9999, "a probability from 0.5 to 0.9999"),
    "review_days": (0, 180, "a whole number of days from 0 to 180"),
    "last_buy": (0.5, 0.999, "a probability from 0.5 to 0.999"),
    "floor": (0, 1000, "a whole number of parts from 0 to 1,000"),
    "count_value": (0, 1_000_000, "an amount from 0 to 1,000,000"),
    "order_limit": (0, 10_000_000, "an amount from 0 to 10,000,000"),
    "stated_weight": (0.5, 100, "a number of deliveries from 0.5 to 100"),
    "top_up_days": (30, 720, "a whole number of days from 30 to 720"),
    "departure_days": (1, 60, "a whole number of days from 1 to 60"),
    "order_cost": (0, 10_000, "an amount from 0 to 10,000"),
    "holding_share": (0.0, 2.0, "a share of the price a year from 0 to 2"),
    "waiting_cost": (0, 100_000, "an amount a day from 0 to 100,000"),
    "site_floor": (0.0, 0.9999, "a probability from 0 to 0.9999"),
    "fixed_share": (0.0, 1.0, "a share from 0 to 1"),
    "worn_share": (0.3, 0.95, "a share from 0.3 to 0.95"),
    "spent_share": (0.02, 0.5, "a share from 0.02 to 0.5"),
    "cold_starts": (1, 20, "a whole number of cold starts from 1 to 20"),
    "watch_days": (0, 180, "a whole number of days from 0 to 180"),
    "hold_seconds": (5, 120, "seconds from 5 to 120"),
    "own_approval": (0, 1, "1 where the only person may approve own work, 0 where nobody may"),
    "labour_per_hour": (0, 1000, "an amount from 0 to 1,000"),
    "machine_price": (0, 100_000, "an amount from 0 to 100,000"),
    "machine_years": (0.5, 20, "years from 0.5 to 20"),
    "setup_minutes": (0, 1000, "minutes from 0 to 1,000"),
    "age_penalty": (0.0, 1.0, "a share from 0 to 1"),
    "horizon_years": (1, 30, "a whole number of years from 1 to 30"),
    "stated_rate": (0.01, 1000, "failures of 100 units a year, from 0.01 to 1,000"),
    "stated_worth": (0.5, 200, "a number of failures from 0.5 to 200"),
    "stated_after": (0.5, 15, "years from 0.5 to 15"),
    "stated_later": (0.01, 1000, "failures of 100 units a year, from 0.01 to 1,000"),
    "idle_hours": (0.25, 720, "hours from 0.25 to 720"),
    "sign_in_days": (0.25, 90, "days from 0.25 to 90"),
    "false_alarms": (0.1, 12, "a number a year from 0.1 to 12"),
    "talk_ratio": (0.05, 5.0, "a ratio from 0.05 to 5"),
}
CHOSEN: dict[str, tuple[str, ...]] = {"school": CHOICES, "measure": tuple(measure.value for measure in Measure)}
"""Settings that take one of some words."""
WHEN_NEEDED = "when_needed"
"""Sites at which a part is bought when needed, by their codes, or "all"."""
WHOLE = {"top_up_days", "horizon_years", "review_days", "departure_days", "floor", "cold_starts", "watch_days", "own_approval"}


@dataclass(frozen=True)
class SettingRequest:
    """A new value, None to leave it to the wider scope. `expected_number` is that of the entry the person read, 0 when there was none."""

    scope: str
    scope_key: str
    key: str
    value: float | str | None
    expected_number: int
    reason: str = ""


def change_setting(session: Session, request: SettingRequest, *, clock: Clock, author_id: int) -> int:
    """Append a value that holds from today on; returns its number.

    Raises
    ------
    Refused : an unknown key or scope, or a value outside its range · Stale : it was changed meanwhile
    """
    value = _checked(session, request)
    _check_scope(session, request)
    last = settings.last_number(session, request.scope, request.scope_key, request.key)
    if last != request.expected_number:
        raise Stale("this setting was changed meanwhile: read it again, then decide")
    session.add(
        Setting(
            scope=request.scope,
            scope_key=request.scope_key,
            key=request.key,
            number=last + 1,
            value=value,
            from_on=clock.today,
            author_id=author_id,
            recorded_at=clock.now,
            reason=request.reason.strip(),
        )
    )
    session.flush()
    return last + 1


def _checked(session: Session, request: SettingRequest) -> float | int | str | None:
    """The value as it is kept."""
    key, value = request.key, request.value
    if value is None:
        if request.scope == "company":
            raise Refused(Fault("value", "a value was wanted: nothing stands in for what the company decides"))
        return None
    if key == WHEN_NEEDED:
        return _when_needed(session, request)
    if key in CHOSEN:
        if value not in CHOSEN[key]:
            raise Refused(Fault("value", f"one of {', '.join(CHOSEN[key])} was wanted, got {value}"))
        return value
    return _within(key, value)


def _within(key: str, value: float | str) -> float | int:
    if key not in RANGES:
        raise Refused(Fault("key", f"{key} cannot be changed here: the keys are {', '.join((*RANGES, *CHOSEN, WHEN_NEEDED))}"))
    low, high, wanted = RANGES[key]
    if isinstance(value, str):
        raise Refused(Fault("value", f"{wanted} was wanted, got {value!r}"))
    if not low <= value <= high or (key in WHOLE and value != int(value)):
        raise Refused(Fault("value", f"{wanted} was wanted, got {value:g}"))
    return int(value) if key in WHOLE else value


def _when_needed(session: Session, request: SettingRequest) -> str:
    """Sites at which a part is bought when needed, or all; why is on record."""
    if request.scope != "part":
        raise Refused(Fault("scope", "that is decided part by part"))
    if not request.reason.strip():
        raise Refused(Fault("reason", "say why it is bought when needed: who asks for one will wait"))
    codes = [code.strip() for code in str(request.value).split(",") if code.strip()]
    known = {site.code for site in catalog.sites(session) if not site.is_depot}
    if codes != ["all"] and (unknown := [code for code in codes if code not in known]):
        raise Refused(Fault("value", f"all, or sites that the depot feeds, were wanted, got {', '.join(unknown)}"))
    return ",".join(codes)


@dataclass(frozen=True)
class Decision:
    """What the company decided: key, words, the value that holds (None: nobody decided, and nothing stands in), the number of its
    entry (0: never set), and what may be set."""

    key: str
    words: str
    value: float | None
    number: int
    wanted: str


def decisions(session: Session, clock: Clock, words: Mapping[str, str], usual: Mapping[str, float | None]) -> list[Decision]:
    """Some decisions as they hold today. usual : what holds where nobody decided"""
    company = settings.settings_on(session, clock.today)
    found = []
    for key, said in words.items():
        value = company.value(key, default=usual[key])
        found.append(Decision(key, said, None if value is None else float(value), company.number("company", "", key), RANGES[key][2]))
    return found


def describe_company(
    session: Session,
    *,
    clock: Clock,
    name: str | None = None,
    currency: str | None = None,
    time_zone: str | None = None,
    author_id: int | None = None,
) -> None:
    """Set what the company is called, its currency (three letters) and its time zone (IANA name); None leaves a value.

    Raises
    ------
    Refused : a currency or time zone that does not exist, or an empty name
    """
    faults = []
    if name is not None and not name.strip():
        faults.append(Fault("name", "a name was wanted"))
    if currency is not None and not re.fullmatch(r"[A-Z]{3}", currency):
        faults.append(Fault("currency", f"a currency code such as EUR was wanted, got {currency!r}"))
    if time_zone is not None and time_zone not in available_timezones():
        faults.append(Fault("time_zone", f"an IANA time zone such as UTC was wanted, got {time_zone!r}"))
    if faults:
        raise Refused(*faults)
    for key, value in (("company_name", name and name.strip()), ("currency", currency), ("time_zone", time_zone)):
        if value is not None:
            number = settings.last_number(session, "company", "", key) + 1
            session.add(
                Setting(
                    scope="company",
                    key=key,
                    number=number,
                    value=value,
                    from_on=clock.today,
                    author_id=author_id,
                    recorded_at=clock.now,
                )
            )
    session.flush()


def _check_scope(session: Session, request: SettingRequest) -> None:
    if request.key.startswith("stated_") and request.key != "stated_weight" and request.scope != "kind":
        raise Refused(Fault("scope", "that is stated of a kind"))
    if request.scope == "kind" and request.scope_key not in {kind.value for kind in FORECAST_KINDS}:
        raise Refused(Fault("scope_key", f"no kind is called {request.scope_key}"))
    if request.scope == "part" and assets.part_by_number(session, request.scope_key) is None:
        raise Refused(Fault("scope_key", f"no part has the number {request.scope_key}"))
