"""The log of a process: one JSON object a line, in a file of its own that its owner alone can read."""

from __future__ import annotations

import logging
import logging.handlers
import os
from pathlib import Path

import structlog
from structlog.typing import Processor

from almanac.services.errors import Refused

LARGEST_FILE, FILES_KEPT = 10 * 1024 * 1024, 5


class OneLine(logging.Formatter):
    """What a person at the terminal needs of an exception is its last words; the file has all of it."""

    def format(self, record: logging.LogRecord) -> str:
        words = record.getMessage().splitlines()[0] if record.getMessage() else ""
        if record.exc_info and record.exc_info[1]:
            words += f": {str(record.exc_info[1]).strip().splitlines()[0]}"
        return f"{record.levelname} {record.name}: {words}"


def no_refusal(record: logging.LogRecord) -> bool:
    """Whether a record is of more than a refusal: its page says why, and a terminal that cries wolf is not read."""
    return not (record.exc_info and isinstance(record.exc_info[1], Refused))


def log_to(file: str | Path) -> None:
    """Send the log of this process to a rotated file, and warnings to the terminal as well."""
    os.umask(0o077)
    path = Path(file)
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    kept = logging.handlers.RotatingFileHandler(path, maxBytes=LARGEST_FILE, backupCount=FILES_KEPT, encoding="utf-8")
    shown = logging.StreamHandler()
    shown.setLevel(logging.WARNING)
    shown.addFilter(no_refusal)
    shared: list[Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,
    ]
    kept.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, structlog.processors.JSONRenderer()],
        )
    )
    shown.setFormatter(OneLine("%(levelname)s %(name)s: %(message)s"))
    logging.basicConfig(level=logging.INFO, handlers=[kept, shown], force=True)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a queue of a few requests is no event
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
