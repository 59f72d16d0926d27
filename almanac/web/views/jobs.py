"""Jobs at the bench."""

from __future__ import annotations

from flask import Blueprint, Response
from flask_login import current_user

from almanac.core.triage.confirm import Evidence
from almanac.services.clock import Clock, read_clock
from almanac.services.ledger.evidence import watch_rules
from almanac.services.ledger.read import read_card
from almanac.services.ledger.record import LineRequest
from almanac.services.stores.acts import Recorded
from almanac.services.stores.issue import IssueRequest, give_back, issue
from almanac.services.workbench.after import AbandonRequest, SettleRequest, abandon_job, reopen_job, settle_job
from almanac.services.workbench.close import CloseLine, CloseRequest, close_job
from almanac.services.workbench.company import bench_settings
from almanac.services.workbench.heard import what_it_said
from almanac.services.workbench.labels import job_labels, machine_labels
from almanac.services.workbench.lease import Device, release_lease, take_lease
from almanac.services.workbench.open import OpenRequest, change_targets, open_job
from almanac.services.workbench.plain import TypedStep, add_step
from almanac.services.workbench.planning import PlanRequest
from almanac.services.workbench.read import gate_rules, read_job, read_jobs
from almanac.services.workbench.report import ask_stand_in, comparisons, take_report
from almanac.services.workbench.sheets import bench_sheet, job_record, tray_tags
from almanac.services.workbench.write import DeviceEntry, write_entries
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import bench, machine_reports
from almanac.web.schemas import jobs as schemas
from almanac.web.schemas.base import Done
from almanac.web.schemas.decisions import Decisions, DecisionView
from almanac.web.schemas.issue import IssueIn
from almanac.web.views.job_words import comparison_view, job_view, line_view

blueprint = Blueprint("jobs", __name__, url_prefix="/api/v1")


def _plan(json: schemas.PlanIn) -> PlanRequest:
    return PlanRequest(
        json.targets, json.direct, json.include, json.lift_pack_out, json.test_first, json.remote, plain=json.plain, powered=json.powered
    )


def _view(job_id: int, clock: Clock) -> schemas.JobView:
    reading = read_job(session(), job_id, clock=clock)
    card = read_card(session(), reading.row.tag, today=clock.today)
    rules = watch_rules(session(), clock)
    figures = comparisons(session(), reading.row.job, reading.standing)
    said = what_it_said(session(), reading.row.job, reading.standing)
    return job_view(reading, card, figures, said, gate_rules(session(), clock), (rules.cold_starts, rules.days))


@endpoint(blueprint, "/jobs", access=Role.READER, replies=schemas.JobList)
def job_list(query: schemas.JobsQuery) -> schemas.JobList:
    """Jobs in hand, or those that ended."""
    return schemas.JobList(jobs=[line_view(row) for row in read_jobs(session(), ended=query.ended, tag=query.tag)])


@endpoint(blueprint, "/jobs", method="POST", access=Role.TECHNICIAN, replies=schemas.JobOpened, status=201)
def open_new_job(json: schemas.JobIn) -> schemas.JobOpened:
    """Open a job on a machine."""
    request = OpenRequest(
        json.tag,
        json.purpose,
        json.symptom,
        _plan(json),
        json.events,
        json.agreed,
        json.signs,
        frozenset(json.confirmed),
        agreed_parts=json.agreed_parts,
    )
    return schemas.JobOpened(job_id=open_job(session(), request, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/jobs/<int:job_id>", access=Role.READER, replies=schemas.JobView)
def read_one_job(job_id: int) -> schemas.JobView:
    """A job with all that its journal adds up to."""
    return _view(job_id, read_clock(session()))


@endpoint(blueprint, "/jobs/<int:job_id>/lease", method="POST", access=Role.TECHNICIAN, replies=schemas.LeaseGranted)
def hold_job(job_id: int, json: schemas.LeaseIn) -> schemas.LeaseGranted:
    """Take a job in hand, keep it, or take it over."""
    device = Device(json.device, author_id())
    return schemas.LeaseGranted(until=take_lease(session(), job_id, device, takeover=json.takeover, clock=read_clock(session())))


@endpoint(blueprint, "/jobs/<int:job_id>/release", method="POST", access=Role.TECHNICIAN, replies=Done)
def release_job(job_id: int, json: schemas.DeviceIn) -> Done:
    """Give a job back."""
    release_lease(session(), job_id, Device(json.device, author_id()))
    return Done()


@endpoint(blueprint, "/jobs/<int:job_id>/targets", method="POST", access=Role.TECHNICIAN, replies=schemas.JobView)
def set_targets(job_id: int, json: schemas.TargetsIn) -> schemas.JobView:
    """Set what a job is to reach."""
    clock = read_clock(session())
    change_targets(session(), job_id, _plan(json), reason=json.reason, device=Device(json.device, author_id()), clock=clock)
    return _view(job_id, clock)


@endpoint(blueprint, "/jobs/<int:job_id>/steps", method="POST", access=Role.TECHNICIAN, replies=schemas.JobView)
def type_step(job_id: int, json: schemas.TypedStepIn) -> schemas.JobView:
    """Add the next step of a way in that nobody described."""
    clock = read_clock(session())
    values = json.model_dump(exclude={"device"})
    add_step(session(), job_id, TypedStep(**values), device=Device(json.device, author_id()), clock=clock)
    return _view(job_id, clock)


@endpoint(blueprint, "/jobs/<int:job_id>/entries", method="POST", access=Role.TECHNICIAN, replies=schemas.EntriesTaken)
def write_journal(job_id: int, json: schemas.EntriesIn) -> schemas.EntriesTaken:
    """Write entries of the journal, in order, each once."""
    clock = read_clock(session())
    sent = [DeviceEntry(item.key, item.kind, item.data, item.done_at) for item in json.entries]
    taken = write_entries(session(), job_id, sent, device=Device(json.device, author_id()), clock=clock)
    view = _view(job_id, clock)
    return schemas.EntriesTaken(written=taken.written, refused_key=taken.refused_key, reasons=taken.reasons, job=view)


@endpoint(blueprint, "/jobs/<int:job_id>/report", method="POST", access=Role.TECHNICIAN, replies=machine_reports.ReportTaken)
def machine_report(job_id: int, json: machine_reports.ReportIn) -> machine_reports.ReportTaken:
    """Read what the machine says of itself and compare it with plan."""
    device = Device(json.device, author_id())
    figures = take_report(session(), job_id, json.text, device=device, clock=read_clock(session()))
    return machine_reports.ReportTaken(figures=[comparison_view(item) for item in figures])


@endpoint(blueprint, "/jobs/<int:job_id>/stand-in", method="POST", access=Role.TECHNICIAN, replies=machine_reports.ReportTaken)
def stand_in_report(job_id: int, json: machine_reports.StandInIn) -> machine_reports.ReportTaken:
    """Have the simulated machine report."""
    device = Device(json.device, author_id())
    figures = ask_stand_in(session(), job_id, fault=json.fault, device=device, clock=read_clock(session()))
    return machine_reports.ReportTaken(figures=[comparison_view(item) for item in figures])


@endpoint(blueprint, "/jobs/<int:job_id>/issues", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def issue_to_job(job_id: int, json: IssueIn) -> Done:
    """Hand parts of a shelf out to a job, or put back what it did not use."""
    by = Recorded(read_clock(session()), author_id(), is_lead=current_user.role is Role.LEAD)
    request = IssueRequest(json.part_number, json.site, json.quantity)
    (issue if json.act == "issue" else give_back)(session(), job_id, request, by)
    return Done()


@endpoint(blueprint, "/stand-in/labels", access=Role.READER, replies=bench.ScanLabels)
def scan_labels(query: bench.LabelQuery) -> bench.ScanLabels:
    """Labels for the simulated scanner: of a job's machine and parts, or of a few machines."""
    found = job_labels(session(), query.job) if query.job else machine_labels(session())
    return bench.ScanLabels(labels=[bench.ScanLabel(words=label.words, text=label.text) for label in found])


@endpoint(blueprint, "/bench/settings", access=Role.READER, replies=Decisions)
def read_bench_settings() -> Decisions:
    """What the company decided about its bench."""
    found = bench_settings(session(), read_clock(session()))
    return Decisions(settings=[DecisionView.model_validate(item) for item in found])


def _line(line: schemas.CloseLineIn) -> CloseLine:
    values = line.model_dump(exclude={"position", "custody"})
    return CloseLine(line.position, LineRequest(position_id=0, **values), line.custody)


@endpoint(blueprint, "/jobs/<int:job_id>/close", method="POST", access=Role.TECHNICIAN, replies=schemas.JobClosed)
def finish_job(job_id: int, json: schemas.CloseIn) -> schemas.JobClosed:
    """Close a job: machine, shelf, log and page change together."""
    request = CloseRequest(
        finding=json.finding,
        lines=[_line(line) for line in json.lines],
        minutes=json.minutes,
        note=json.note,
        accept_reason=json.accept_reason,
        evidence=Evidence(**json.evidence.model_dump()),
        watch=json.watch,
        last_good_on=json.last_good_on,
        consumables=json.consumables,
        confirmed=frozenset(json.confirmed),
    )
    done = close_job(session(), job_id, request, device=Device(json.device, author_id()), clock=read_clock(session()))
    return schemas.JobClosed(incident_id=done.incident_id, page_number=done.page_number)


@endpoint(blueprint, "/jobs/<int:job_id>/settle", method="POST", access=Role.TECHNICIAN, replies=Done)
def settle_finding(job_id: int, json: schemas.SettleIn) -> Done:
    """Settle the finding of a watched job."""
    request = SettleRequest(json.finding, json.fails_elsewhere, json.proof, json.note)
    settle_job(session(), job_id, request, clock=read_clock(session()), author_id=author_id())
    return Done()


@endpoint(blueprint, "/jobs/<int:job_id>/reopen", method="POST", access=Role.TECHNICIAN, replies=schemas.JobOpened, status=201)
def reopen_one_job(job_id: int, json: schemas.ReopenIn) -> schemas.JobOpened:
    """The fault came back: the classification is reversed and a new job opened."""
    return schemas.JobOpened(job_id=reopen_job(session(), job_id, json.reason, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/jobs/<int:job_id>/abandon", method="POST", access=Role.TECHNICIAN, replies=schemas.Abandoned)
def give_up_job(job_id: int, json: schemas.AbandonIn) -> schemas.Abandoned:
    """End a job that is not done."""
    request = AbandonRequest(json.reason, json.quarantine)
    device = Device(json.device, author_id())
    return schemas.Abandoned(incident_id=abandon_job(session(), job_id, request, device=device, clock=read_clock(session())))


def _pdf(data: bytes, name: str) -> Response:
    return Response(data, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'})


@endpoint(blueprint, "/jobs/<int:job_id>/sheet.pdf", access=Role.READER, replies=None)
def job_bench_sheet(job_id: int) -> Response:
    """The bench sheet in large type."""
    return _pdf(bench_sheet(session(), job_id, clock=read_clock(session())), f"job-{job_id}-bench")


@endpoint(blueprint, "/jobs/<int:job_id>/record.pdf", access=Role.READER, replies=None)
def job_record_sheet(job_id: int) -> Response:
    """The record of a job."""
    return _pdf(job_record(session(), job_id, clock=read_clock(session())), f"job-{job_id}-record")


@endpoint(blueprint, "/jobs/<int:job_id>/tags.pdf", access=Role.READER, replies=None)
def job_tray_tags(job_id: int) -> Response:
    """Tags for the trays of a job."""
    return _pdf(tray_tags(session(), job_id, clock=read_clock(session())), f"job-{job_id}-tags")
