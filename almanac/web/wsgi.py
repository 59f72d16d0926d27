"""What the production server loads: connection and secret come from the launcher's environment."""

from __future__ import annotations

import os

from almanac.store.engine import connect
from almanac.web.app import create_app

app = create_app(connect(os.environ["ALMANAC_DATABASE"]), secret_key=os.environ["ALMANAC_SECRET"])
