"""The stores: the tally of parts by sites, the plate of a shelf, and every act on stock."""

from __future__ import annotations

from datetime import date, timedelta

from flask import Blueprint, Response
from flask_login import current_user

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.stock.timetable import Timetable
from almanac.exchange.tables import write_csv
from almanac.services.clock import read_clock
from almanac.services.stores import counts, lanes, substitutes, transfers, waits
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from almanac.services.stores.count_sheet import count_sheet
from almanac.services.stores.read import ShelfPlate, TallyPlace, read_shelf, read_tally
from almanac.services.stores.recovered import record_test
from almanac.services.stores.top_ups import top_up
from almanac.store import claims
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import shelves as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("shelves", __name__, url_prefix="/api/v1/stores")
SOON = timedelta(days=92)
"""What retires within so many days is looked through for parts worth keeping."""
COLUMNS = ("part_number", "part_name", "kind", "site", "on_hand", "expired", "coming", "level", "waits", "set_aside", "back_to_supplier")


def _by() -> Recorded:
    return Recorded(read_clock(session()), author_id(), is_lead=current_user.role is Role.LEAD)


@endpoint(blueprint, "", access=Role.READER, replies=schemas.TallyView, kept="dear")
def tally() -> schemas.TallyView:
    """What lies where, what is coming, what is short, who waits, and what the week brings."""
    found = read_tally(session())
    return schemas.TallyView(
        as_of=found.as_of,
        sites=[_place(site, found.as_of) for site in found.sites],
        rows=[schemas.TallyLine.model_validate(row) for row in found.rows],
        week=[schemas.HappeningView.model_validate(item) for item in found.week],
        unsaid=found.unsaid,
        below=found.below,
        waiting=found.waiting,
        transfers=[schemas.TransferView.model_validate(item) for item in found.transfers],
        counts=[schemas.WaitingCountView.model_validate(item) for item in found.counts],
        set_aside=found.set_aside,
        back=found.back,
        top_ups=[schemas.TopUpView.model_validate(one) for one in found.top_ups],
    )


def _place(site: TallyPlace, today: date) -> schemas.TallySite:
    lane = site.lane
    return schemas.TallySite(
        code=site.code,
        name=site.name,
        is_depot=site.is_depot,
        lane=None
        if lane is None
        else schemas.LaneView(
            days=lane.days,
            every_days=lane.every_days,
            weekdays=list(lane.weekdays),
            carrier=lane.carrier,
            words=lane.words,
            next_on=lane.next_on(today),
        ),
    )


@endpoint(blueprint, "/lanes/<site>", method="POST", access=Role.LEAD, replies=Done, status=201)
def change_lane(site: str, json: schemas.LaneIn) -> Done:
    """Change how a site is supplied from the depot: days under way, when it leaves, what carries it."""
    lanes.change_lane(session(), site, Timetable(json.days, json.every_days, tuple(json.weekdays), json.carrier))
    return Done()


@endpoint(blueprint, "/tally.csv", access=Role.READER, replies=None)
def tally_file() -> Response:
    """Every shelf as CSV."""
    found = read_tally(session())
    rows = [
        [
            row.number,
            row.name,
            row.kind,
            cell.site,
            cell.on_hand,
            cell.expired,
            cell.coming,
            cell.level,
            cell.waits,
            cell.set_aside,
            cell.back,
        ]
        for row in found.rows
        for cell in row.cells
    ]
    name = f"stores-{found.as_of.isoformat()}.csv"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(write_csv(COLUMNS, rows), mimetype="text/csv", headers=headers)


@endpoint(blueprint, "/count-sheet.pdf", access=Role.READER, replies=None)
def count_sheet_pdf(query: schemas.CountSheetQuery) -> Response:
    """The shelves of a site to count on paper, blind unless asked otherwise."""
    return Response(count_sheet(session(), query.site, blind=not query.booked), mimetype="application/pdf")


@endpoint(blueprint, "/shelves/<number>/<site>", access=Role.READER, replies=schemas.ShelfView)
def shelf(number: str, site: str) -> schemas.ShelfView:
    """One shelf: by lot, promised to whom, moved by whom and why."""
    return _shelf(read_shelf(session(), number, site, is_lead=current_user.role is Role.LEAD))


def _shelf(found: ShelfPlate) -> schemas.ShelfView:
    held = found.buckets
    return schemas.ShelfView(
        part_number=found.part.number,
        part_name=found.part.name,
        kind=found.part.kind,
        site=found.site.code,
        site_name=found.site.name,
        place=found.place,
        energy_class=found.energy_class,
        on_hand=held.get(Bucket.ON_HAND, 0),
        harvested=held.get(Bucket.HARVESTED, 0),
        quarantine=held.get(Bucket.QUARANTINE, 0),
        returned=held.get(Bucket.RETURNED, 0),
        under_way=held.get(Bucket.UNDER_WAY, 0),
        lots=[schemas.LotView.model_validate(lot) for lot in found.lots],
        promised=[schemas.PromisedView.model_validate(row) for row in found.promised],
        coming=[schemas.ComingView.model_validate(line) for line in found.coming],
        moves=[schemas.StockMoveView.model_validate(row) for row in found.moves],
        last_counted=found.last_counted,
        acts=found.acts,
        recovered=[schemas.RecoveredView.model_validate(one) for one in found.recovered],
        swaps=[schemas.PlannedSwapView.model_validate(one) for one in found.swaps],
        instead=[schemas.SubstituteView.model_validate(one) for one in found.instead],
    )


@endpoint(blueprint, "/shelves/<number>/<site>/acts", method="POST", access=Role.TECHNICIAN, replies=schemas.ActDone, status=201)
def act_on_shelf(number: str, site: str, json: schemas.StockActIn) -> schemas.ActDone:
    """Set aside, release, dispose, send back, scrap, or book what was found."""
    request = MoveRequest(number, site, json.act, json.quantity, json.reason, json.made_on)
    return schemas.ActDone(act_id=do(session(), request, _by()))


@endpoint(blueprint, "/shelves/<number>/<site>/recovered/<int:unit_id>", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def test_recovered_unit(number: str, site: str, unit_id: int, json: schemas.TestedIn) -> Done:
    """Say what the test of a recovered part showed."""
    record_test(session(), number, site, unit_id, json.result, _by())
    return Done()


@endpoint(blueprint, "/shelves/<number>/<site>/top-up", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def top_up_shelf(number: str, site: str) -> Done:
    """All packs of a shelf were charged today."""
    top_up(session(), number, site, _by())
    return Done()


@endpoint(blueprint, "/parts/<number>/substitutes", method="POST", access=Role.LEAD, replies=Done, status=201)
def set_part_substitute(number: str, json: schemas.SubstituteIn) -> Done:
    """Let another part be fitted in place of one, and the other way round where that is so."""
    substitutes.set_substitute(session(), number, json.number, two_way=json.two_way, reason=json.reason)
    return Done()


@endpoint(blueprint, "/parts/<number>/substitutes/<other>", method="DELETE", access=Role.LEAD, replies=Done)
def drop_part_substitute(number: str, other: str) -> Done:
    """A part may no longer be fitted in place of another."""
    substitutes.drop_substitute(session(), number, other)
    return Done()


@endpoint(blueprint, "/claims", access=Role.READER, replies=schemas.ClaimsView)
def claim_list() -> schemas.ClaimsView:
    """Failed parts their supplier still stands for."""
    today = read_clock(session()).today
    return schemas.ClaimsView(claims=[schemas.WarrantyClaimView.model_validate(row) for row in claims.claims(session(), since=today)])


@endpoint(blueprint, "/retiring", access=Role.READER, replies=schemas.RetiringView)
def retiring_list() -> schemas.RetiringView:
    """Machines planned to retire within a quarter, and what they would give."""
    today = read_clock(session()).today
    rows = claims.retiring(session(), today=today, until=today + SOON, never=sorted(kinds_of_role(BenchRole.PACK)))
    return schemas.RetiringView(until=today + SOON, rows=[schemas.RetiringRowView.model_validate(row) for row in rows])


@endpoint(blueprint, "/acts/<int:act_id>/undoing", method="POST", access=Role.TECHNICIAN, replies=schemas.ActDone, status=201)
def undo_act(act_id: int, json: schemas.UndoIn) -> schemas.ActDone:
    """Undo an act by its counter-moves, with the reason."""
    return schemas.ActDone(act_id=undo(session(), act_id, json.reason, _by()))


@endpoint(blueprint, "/shelves/<number>/<site>/counts", method="POST", access=Role.TECHNICIAN, replies=schemas.CountMade, status=201)
def count_shelf(number: str, site: str, json: schemas.CountIn) -> schemas.CountMade:
    """Book what was counted; a difference above the company's value waits for a lead."""
    found = counts.count_shelf(session(), counts.CountRequest(number, site, json.counted, json.reason, json.place), _by())
    return schemas.CountMade(id=found.id, booked=found.booked, waits=found.state == "waits")


@endpoint(blueprint, "/counts/<int:count_id>/settlement", method="POST", access=Role.LEAD, replies=Done, status=201)
def settle_count(count_id: int, json: schemas.SettleCountIn) -> Done:
    """Book a difference that waited, or refuse it."""
    (counts.approve if json.approve else counts.refuse)(session(), count_id, _by())
    return Done()


@endpoint(blueprint, "/shelves/<number>/<site>/promises", method="POST", access=Role.TECHNICIAN, replies=schemas.PromiseMade, status=201)
def promise(number: str, site: str, json: schemas.PromiseIn) -> schemas.PromiseMade:
    """Keep parts for a machine; what does not lie free is waited for."""
    made = waits.promise(session(), waits.PromiseRequest(number, site, json.quantity, json.tag, json.plan_id), _by())
    return schemas.PromiseMade(reserved=made.reserved, waits=made.waits)


@endpoint(blueprint, "/promises/<int:promise_id>", method="DELETE", access=Role.TECHNICIAN, replies=Done)
def release_promise(promise_id: int) -> Done:
    """Give parts free that were kept; whoever waits is served."""
    waits.release(session(), promise_id, _by())
    return Done()


@endpoint(blueprint, "/waits/<int:wait_id>", method="DELETE", access=Role.TECHNICIAN, replies=Done)
def give_up_waiting(wait_id: int) -> Done:
    """A machine waits no longer."""
    waits.give_up(session(), wait_id, _by())
    return Done()


@endpoint(blueprint, "/transfers", method="POST", access=Role.TECHNICIAN, replies=schemas.TransferMade, status=201)
def pack_transfer(json: schemas.TransferIn) -> schemas.TransferMade:
    """Pack parts of one site for another."""
    request = transfers.TransferRequest(json.part_number, json.from_site, json.to_site, json.quantity)
    made = transfers.pack(session(), request, _by())
    return schemas.TransferMade(id=made.id, version=made.version)


@endpoint(blueprint, "/transfers/<int:transfer_id>/acts", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def act_on_transfer(transfer_id: int, json: schemas.TransferActIn) -> Done:
    """A packed transfer leaves, arrives, or is unpacked."""
    if json.act == "send":
        transfers.send(session(), transfer_id, json.expected_version, _by())
    elif json.act == "arrive":
        transfers.arrive(session(), transfer_id, transfers.ArrivalRequest(json.quantity, json.reason, json.expected_version), _by())
    else:
        transfers.unpack(session(), transfer_id, json.reason, json.expected_version, _by())
    return Done()
