"""Importing CSV files: the formats, templates, a preview, and all or nothing."""

from __future__ import annotations

from flask import Blueprint, Response, request

from almanac.services.clock import read_clock
from almanac.services.errors import NotFound
from almanac.services.importing.run import run_import
from almanac.services.importing.specs import FILES
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import imports as schemas

blueprint = Blueprint("imports", __name__, url_prefix="/api/v1/imports")
MOST_ROWS = 100_000
MOST_FAULTS = 500


@endpoint(blueprint, "/formats", access=Role.READER, replies=schemas.ImportFormats)
def import_formats() -> schemas.ImportFormats:
    """The files an import reads and their columns."""
    files = [
        schemas.FileSpecView(
            name=spec.name, about=spec.about, columns=[schemas.ColumnView.model_validate(c, extra="ignore") for c in spec.columns]
        )
        for spec in FILES.values()
    ]
    return schemas.ImportFormats(files=files, most_rows=MOST_ROWS)


@endpoint(blueprint, "/templates/<name>.csv", access=Role.READER, replies=None)
def import_template(name: str) -> Response:
    """A file's header with one example row."""
    if name not in FILES:
        raise NotFound(f"there is no template {name}.csv: the files are {', '.join(FILES)}")
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(FILES[name].template(), mimetype="text/csv", headers=headers)


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.ImportReportView)
def import_files(query: schemas.ImportQuery) -> schemas.ImportReportView:
    """Check the files sent; with `write` and no fault, commit all of them."""
    files = {upload.filename or "": upload.read() for upload in request.files.getlist("files")}
    clock = read_clock(session())
    report = run_import(session(), files, clock=clock, author_id=author_id(), write=query.write, most_rows=MOST_ROWS)
    return schemas.ImportReportView(
        files=[schemas.FileRows(file=f"{name}.csv", rows=rows) for name, rows in report.rows.items()],
        faults=[schemas.ImportFaultView.model_validate(fault) for fault in report.faults[:MOST_FAULTS]],
        faults_total=len(report.faults),
        written=report.written,
    )
