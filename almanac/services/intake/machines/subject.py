"""Machines as a kind of list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from almanac.services.answers.progress import each
from almanac.services.intake.changes import Change, Group, in_order
from almanac.services.intake.machines.additions import FORM_NAMES, Additions
from almanac.services.intake.machines.difference import difference
from almanac.services.intake.machines.fields import FIELDS
from almanac.services.intake.machines.record import delivered_with, machines_on_record, names_on_record, sites_by_code
from almanac.services.intake.machines.rows import MachineRow, Names, machine_row
from almanac.services.intake.machines.write import undo_machines, write_machines
from almanac.services.intake.meanings import Meanings
from almanac.services.intake.settled import NEW, Question, Settled
from almanac.services.intake.subject import READING, SHOWN, By, Found, Kept, ListDay, Subject
from almanac.services.intake.table import Table
from almanac.services.words import day as day_words
from almanac.store import catalog
from almanac.store import intake as store
from almanac.store.models import Intake


class Machines(Subject):
    """The company's list of its machines."""

    kind, title, one, many = "machines", "machine list", "machine", "machines"
    usual = "Asset register"
    fields = FIELDS

    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Sites, models, makers and tags."""
        return names_on_record(session).known()

    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:
        """New, moved, changed and gone machines."""
        names = names_on_record(session)
        models = Meanings("model", names.model_meanings(), settled, may_be_new=True)
        sites = Meanings("site", names.site_meanings(), settled, may_be_new=True)
        additions = Additions(names.sites, settled, has_depot=any(site.is_depot for site in catalog.sites(session)))
        lines = table.lines()
        rows = [row for line in each(lines, READING) if (row := machine_row(line, models, sites, additions)) is not None]
        delivered = delivered_with(session) if settled.delivered else None
        found = difference(rows, machines_on_record(session), when, delivered)
        words = {str(number): f"{maker} {model}" for number, (maker, model) in names.models.items()}
        return Found(
            rows=rows,
            questions=[*_strangers(rows, names, settled), *models.questions(), *sites.questions(), *additions.questions(when.on)],
            taken=[*models.taken(), *sites.taken()],
            not_ours=len(lines) - len(rows),
            difference=replace(found, changes=in_order([*additions.changes(), *_ready(found.changes, additions)])),
            shown_fields=("tag", "model", "site", "in_service_on", "status"),
            shown=[
                (
                    row.line,
                    (
                        row.tag,
                        words.get(row.model or "") or _new_title(row.model, additions),
                        row.site or "?",
                        day_words(row.in_service_on) if row.in_service_on else "?",
                        row.status,
                    ),
                )
                for row in rows[:SHOWN]
            ],
        )

    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Machines, their places, their parts as delivered."""
        return write_machines(session, changes, by)

    def undo(self, session: Session, row: Intake, by: By) -> list[str]:  # noqa: ARG002 - nothing of it is on record by hand
        """To the row; models stay, for their pages are never taken away."""
        return undo_machines(session, row)

    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:
        """Models and sites."""
        models = {str(number): f"{maker} {model}" for number, (maker, model) in store.models_by_id(session).items()}
        return {"model": models, "site": sites_by_code(session), "form": FORM_NAMES}


def _new_title(key: str | None, additions: Additions) -> str:
    new = next((model for model in additions.models.values() if model.key == key), None)
    return f"{new.title} (new)" if new else "?"


def _ready(changes: Sequence[Change], additions: Additions) -> list[Change]:
    """New machines wait until all is said of their new site and model."""
    added = additions.changes()
    sites = {site.code for site in additions.sites.values()} - {change.subject for change in added}
    models = {key for key in additions.models if key not in {one.values["model"]["key"] for one in added if "model" in one.values}}  # type: ignore[index]
    return [
        replace(change, group=Group.WAITS, words="its site or model is not described yet")
        if change.group is Group.NEW and (change.site in sites or change.model in models)
        else change
        for change in changes
    ]


MANY = 20


def _strangers(rows: Sequence[MachineRow], names: Names, settled: Settled) -> list[Question]:
    """A list of which no machine is on record may be another company's: asked before it retires all there are."""
    if len(rows) < MANY or not names.tags or settled.names.get("strangers", {}).get("") == NEW:
        return []
    known = {tag.upper() for tag in names.tags}
    if any(row.tag.upper() in known for row in rows):
        return []
    about = f"none of its machines is on record, and none of the {len(known):,} on record is on it: is it a list of this company?"
    return [
        Question("strangers", "", len(rows), tuple(row.line for row in rows[:3]), None, about=about, options=((NEW, "yes, all are new"),))
    ]
