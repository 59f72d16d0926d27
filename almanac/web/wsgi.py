"""What the production server loads: connection and secret come from the launcher's environment."""

from __future__ import annotations

import os

from almanac.store.engine import connect
from almanac.web.ahead import Ahead
from almanac.web.app import create_app

engine = connect(os.environ["ALMANAC_DATABASE"])
hosts = [name for name in os.environ.get("ALMANAC_HOSTS", "").replace(",", " ").split() if name]
app = create_app(engine, secret_key=os.environ["ALMANAC_SECRET"], committed=Ahead(engine).changed, hosts=hosts)
