"""What the production server loads: connection and secret come from the launcher's environment."""

from __future__ import annotations

import logging
import os
import threading

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from almanac.services.outlook.summary import read_outlook
from almanac.store.engine import connect
from almanac.web.app import create_app

engine = connect(os.environ["ALMANAC_DATABASE"])
app = create_app(engine, secret_key=os.environ["ALMANAC_SECRET"])


def _compute_ahead() -> None:
    """Compute the outlook once before somebody asks, so that the first page does not wait for it."""
    try:
        with Session(engine, expire_on_commit=False) as session:
            read_outlook(session)
    except SQLAlchemyError as error:
        logging.getLogger(__name__).warning("the outlook was not computed ahead: %s", error)


threading.Thread(target=_compute_ahead, daemon=True).start()
