"""Scenarios by name: kept, shared and given up."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store.models import Scenario, User


def kept(session: Session) -> list[tuple[Scenario, str]]:
    """Every kept scenario with its author's name, the latest first."""
    query = select(Scenario, User.name).outerjoin(User, User.id == Scenario.author_id).order_by(Scenario.kept_at.desc(), Scenario.id.desc())
    return [(scenario, author or "") for scenario, author in session.execute(query)]


def keep(session: Session, name: str, changes: list[dict[str, Any]], *, clock: Clock, author_id: int) -> int:
    """Keep changes under a name; returns the scenario's number.

    Raises
    ------
    Refused : no name, no change, or a name that is taken
    """
    if not name.strip():
        raise Refused(Fault("name", "a name was wanted"))
    if not changes:
        raise Refused(Fault("changes", "at least one change was wanted"))
    scenario = Scenario(name=name.strip(), changes=changes, kept_at=clock.now, author_id=author_id)
    try:
        with session.begin_nested():
            session.add(scenario)
    except IntegrityError as error:
        raise Refused(Fault("name", f"a scenario called {name.strip()} is kept already: choose another name")) from error
    return scenario.id


def give_up(session: Session, scenario_id: int) -> None:
    """Delete a kept scenario; it was never part of the data.

    Raises
    ------
    NotFound : no scenario has that number
    """
    found = session.get(Scenario, scenario_id)
    if found is None:
        raise NotFound(f"no scenario has the number {scenario_id}")
    session.delete(found)
    session.flush()
