"""A generated company loaded without looking references up is the same company: what triggers would have kept is there."""

from __future__ import annotations

from sqlalchemy import text

from almanac.demo.load import draw, load
from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.store.engine import connect, migrate

WRONG = """
SELECT count(*) FROM (SELECT shelf_id, bucket, sum(quantity) AS quantity FROM stock_move GROUP BY 1, 2) m
FULL JOIN shelf_balance b ON b.shelf_id = m.shelf_id AND b.bucket = m.bucket WHERE b.quantity IS DISTINCT FROM m.quantity
"""


def test_balances_are_there_without_their_triggers(cluster: Cluster) -> None:
    administer(cluster, "DROP DATABASE IF EXISTS loaded WITH (FORCE)", "CREATE DATABASE loaded TEMPLATE template1")
    engine = connect(cluster.url("loaded"))
    migrate(engine)
    load(engine, draw(seed=3, scale=0.3), check_references=False)
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT count(*) FROM shelf_balance WHERE quantity > 0")) > 0
        assert connection.scalar(text(WRONG)) == 0
    engine.dispose()
