"""A generated company of any size, in the database of a cluster."""

from __future__ import annotations

import time

from almanac.bench.measure import show
from almanac.demo.catalog import USERS
from almanac.demo.load import draw, load
from almanac.launch.cluster import Cluster
from almanac.launch.databases import open_database
from almanac.services.accounts import HASHER

DEMO_ASSETS = 2126
TENURES_PER_ASSET_AGEING = 2.2
"""Parts of the generated fleet wear this many times faster, which gives about six tenures an asset."""


def load_fleet(cluster: Cluster, assets: int) -> None:
    """Draw a company of so many machines, with the demo's people, and load it in place of what is there."""
    begun = time.perf_counter()
    hashes = {login: HASHER.hash(password) for login, _, _, password in USERS}
    company = draw(scale=assets / DEMO_ASSETS, ageing=TENURES_PER_ASSET_AGEING, password_hashes=hashes)
    engine = open_database(cluster, reset=True)
    load(engine, company, check_references=False)
    engine.dispose()
    show("Drawing and loading it (not part of the application)", time.perf_counter() - begun, "s")
