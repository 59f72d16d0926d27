"""The register: machines looked through, counted by age, changed together, labelled."""

from __future__ import annotations

from flask import Blueprint, Response

from almanac.exchange.tables import write_csv
from almanac.services.clock import read_clock
from almanac.services.fleet.bulk import BulkEdit, change_machines
from almanac.services.fleet.labels import machine_labels
from almanac.services.fleet.register import Look, count_ages, drop_view, keep_view, read_register, read_views
from almanac.services.rates.asks import Asking, read_asks
from almanac.store import catalog
from almanac.store.models import Role
from almanac.store.register import OLDEST_BAND
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import fleet as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("fleet", __name__, url_prefix="/api/v1/fleet")
MOST_WRITTEN = 200_000
COLUMNS = (
    "tag", "serial", "model", "site", "use", "in_service_on", "retire_planned_on", "retired_on", "failures_12_months", "lowest_share",
    "lowest_share_of", "warranty_until", "open_job", "reported_at",
)  # fmt: skip


def _look(query: schemas.RegisterQuery) -> Look:
    def several(text: str) -> tuple[str, ...]:
        return tuple(word.strip() for word in text.split(",") if word.strip())

    return Look(
        words=query.q,
        models=tuple(int(number) for number in several(query.model) if number.isdigit()),
        sites=several(query.site),
        duties=several(query.duty),
        standing=query.standing.value,
        youngest=query.youngest,
        oldest=query.oldest,
        wanted=several(query.wanted),
    )


@endpoint(blueprint, "/machines", access=Role.READER, replies=schemas.RegisterView)
def register(query: schemas.RegisterPageQuery) -> schemas.RegisterView:
    """Machines, by what they are, where they stand and what is wanted of them."""
    clock = read_clock(session())
    page = (query.first, query.most)
    total, rows = read_register(session(), _look(query), clock, sort=query.sort.value, descending=query.descending, page=page)
    return schemas.RegisterView(as_of=clock.today, total=total, machines=[schemas.RegisterLine.model_validate(row) for row in rows])


@endpoint(blueprint, "/machines.csv", access=Role.READER, replies=None)
def register_csv(query: schemas.RegisterQuery) -> Response:
    """The same as CSV, all of it."""
    clock = read_clock(session())
    _, rows = read_register(session(), _look(query), clock, sort="tag", descending=False, page=(0, MOST_WRITTEN))
    lines = [
        [
            row.tag, row.serial or "", row.model, row.site or "", row.duty, row.in_service_on, row.retire_planned_on or "",
            row.retired_on or "", row.failures, "" if row.share is None else f"{row.share:.4f}", row.share_kind or "",
            row.warranty_until or "", row.job_id or "", row.reported_at.isoformat() if row.reported_at else "",
        ]
        for row in rows
    ]  # fmt: skip
    headers = {"Content-Disposition": f'attachment; filename="machines-{clock.today.isoformat()}.csv"'}
    return Response(write_csv(COLUMNS, lines), mimetype="text/csv", headers=headers)


@endpoint(blueprint, "/ages", access=Role.READER, replies=schemas.AgesView, kept="dear")
def ages(query: schemas.AgesQuery) -> schemas.AgesView:
    """Machines by age and model or site, and how many parts of each kind are expected to fail within a year."""
    clock = read_clock(session())
    by_site = query.by == "site"
    sites = {site.id: site for site in catalog.sites(session())}
    look = Look(sites=(query.site,) if query.site else ())
    counted = count_ages(session(), look, clock, by_site=by_site)
    asked, unrecorded = read_asks(session(), site_code=query.site)
    names = {number: site.name for number, site in sites.items()} if by_site else _models()
    keys = {number: site.code if by_site else str(number) for number, site in sites.items()} if by_site else {}
    here = {number for number, site in sites.items() if query.site in (None, site.code)}
    rows = [
        schemas.AgeRow(
            key=keys.get(place, str(place)) if place is not None else "",
            name=names.get(place, "no site") if place is not None else "no site",
            machines=bands,
            asks=[_asked(kind, of, place, here, by_site=by_site) for kind, of in asked.items()],
        )
        for place, bands in sorted(counted.items(), key=lambda one: -sum(one[1]))
    ]
    return schemas.AgesView(
        as_of=clock.today,
        bands=list(range(OLDEST_BAND + 1)),
        rows=rows,
        kinds=list(asked),
        unsaid=[kind for kind, of in asked.items() if of is None],
        unrecorded=unrecorded,
    )


def _models() -> dict[int, str]:
    return {model.id: f"{model.maker} {model.name}" for model in catalog.models(session()).values()}


def _asked(kind: str, of: list[Asking] | None, place: int | None, sites: set[int], *, by_site: bool) -> schemas.AskedOfKind:
    """What a model or a site will ask for of a kind."""
    own = [one for one in of or () if one.site_id in sites and place == (one.site_id if by_site else one.model_id)]
    failures = None if of is None else sum(one.failures for one in own)
    return schemas.AskedOfKind(kind=kind, units=sum(one.units for one in own), failures=failures)


@endpoint(blueprint, "/changes", method="POST", access=Role.LEAD, replies=schemas.BulkDone, status=201)
def change_many(json: schemas.BulkIn) -> schemas.BulkDone:
    """Change many machines at once: all of them, or none."""
    edit = BulkEdit(json.act, json.site, json.duty.value if json.duty else "", json.on)
    seen = {one.tag: one.changes for one in json.machines}
    return schemas.BulkDone(machines=change_machines(session(), seen, edit, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/labels.pdf", access=Role.READER, replies=None)
def labels(query: schemas.FleetLabelsQuery) -> Response:
    """Labels of machines with their tags as QR codes."""
    tags = [tag.strip() for tag in query.tags.split(",") if tag.strip()]
    return Response(machine_labels(session(), tags, single=query.single), mimetype="application/pdf")


@endpoint(blueprint, "/views", access=Role.READER, replies=schemas.FleetViewList)
def fleet_views() -> schemas.FleetViewList:
    """Looks at the register that the user keeps."""
    return schemas.FleetViewList(views=[schemas.FleetViewKept.model_validate(view) for view in read_views(session(), author_id())])


@endpoint(blueprint, "/views", method="POST", access=Role.READER, replies=schemas.FleetViewKept, status=201)
def keep_fleet_view(json: schemas.FleetViewIn) -> schemas.FleetViewKept:
    """Keep a look under a name."""
    number = keep_view(session(), author_id(), json.name, json.query, now=read_clock(session()).now)
    return schemas.FleetViewKept(id=number, name=" ".join(json.name.split()), query=json.query)


@endpoint(blueprint, "/views/<int:view_id>", method="DELETE", access=Role.READER, replies=Done)
def drop_fleet_view(view_id: int) -> Done:
    """Keep a look no longer."""
    drop_view(session(), author_id(), view_id)
    return Done()
