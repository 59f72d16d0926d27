"""Labels of machines: the tag to read and to scan, the model, and the serial to compare."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from almanac.exchange.job_sheets import TrayTag, labels_pdf, tags_pdf
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store.register import named

MOST = 500


def machine_labels(session: Session, tags: Sequence[str], *, single: bool) -> bytes:
    """Labels in the order of the tags; ten a page to cut out, or one a page for a label printer.

    Raises
    ------
    Refused : no tag, or too many · NotFound : tags that no machine has, each named
    """
    wanted = list(dict.fromkeys(tag.upper() for tag in tags))
    if not 1 <= len(wanted) <= MOST:
        raise Refused(Fault("tags", f"from 1 to {MOST} tags were wanted, got {len(wanted)}"))
    found = {row.tag.upper(): row for row in named(session, wanted)}
    unknown = [tag for tag in wanted if tag not in found]
    if unknown:
        raise NotFound(f"no machine has the tag {', '.join(unknown[:10])}{' and more' if len(unknown) > 10 else ''}")
    made = []
    for tag in wanted:
        row = found[tag]
        made.append(TrayTag(row.tag, (row.model, f"serial {row.serial}" if row.serial else "serial not on record"), row.tag))
    return labels_pdf("Labels of machines", made) if single else tags_pdf("Labels of machines", made)
