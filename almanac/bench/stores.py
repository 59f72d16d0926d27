"""The stores at a large company: millions of moves on shelves of many sites, and many people after the last part."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor
from statistics import median

import click
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.bench.measure import show
from almanac.services.clock import read_clock
from almanac.services.errors import Refused
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.stores.read import read_shelf
from almanac.services.stores.scan import act_for
from almanac.store.books import breaks

PARTS, SITES, PEOPLE, TRIES = 2000, 60, 50, 40
MORE = (
    """INSERT INTO site (code, name, time_zone, environment, log_began_on, is_depot)
       SELECT 'X' || n, 'Harbour ' || n, 'UTC', 'office', '2021-11-01', false
       FROM generate_series(1, :sites - (SELECT count(*) FROM site)) n""",
    """INSERT INTO part (number, name, kind, facts, supplier_id, price, pack, minimum_order)
       SELECT 'ZZ-' || n, 'Part ' || n, 'fan', '{}', (SELECT min(id) FROM supplier), 10 + n % 90, 1, 1
       FROM generate_series(1, :parts - (SELECT count(*) FROM part)) n""",
    """INSERT INTO shelf (part_id, site_id) SELECT p.id, s.id FROM part p CROSS JOIN site s ON CONFLICT DO NOTHING""",
    """INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
       SELECT h.id, 'on_hand', CASE WHEN n % 3 = 2 THEN -1 ELSE 1 END, CASE WHEN n % 3 = 2 THEN 'fitted' ELSE 'arrived' END,
              DATE '2021-11-01' + (n * 1800 / :each)::integer, now()
       FROM shelf h CROSS JOIN generate_series(0, :each - 1) n""",
)
BALANCES = """
INSERT INTO shelf_balance SELECT shelf_id, bucket, sum(quantity) FROM stock_move GROUP BY 1, 2
ON CONFLICT (shelf_id, bucket) DO UPDATE SET quantity = EXCLUDED.quantity
"""


def measure_stores(engine: Engine, moves: int) -> None:
    """Fill the stores and print how long one shelf, one move and a race for the last part take."""
    each = max(moves // (PARTS * SITES), 3)
    click.echo(f"The stores: {PARTS:,} parts at {SITES} sites, about {each * PARTS * SITES:,} moves")
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL session_replication_role = replica"))
        for statement in MORE:
            connection.execute(text(statement), {"sites": SITES, "parts": PARTS, "each": each})
        connection.execute(text(BALANCES))
    with engine.begin() as connection:
        connection.execute(text("ANALYZE"))
    with Session(engine) as session:
        numbers = session.execute(
            text("SELECT p.number, s.code FROM part p, site s WHERE s.code LIKE 'X%' ORDER BY random() LIMIT :n"), {"n": TRIES}
        )
        places = [(str(number), str(code)) for number, code in numbers]
    show("a shelf's plate, median", _median(engine, places, _plate), "ms", "< 100")
    show("a move, median", _median(engine, places, _move), "ms", "< 50")
    show("what a scan leads to, median", _median(engine, places, _scan), "ms")
    show("one of fifty after the last part, median of a sentence", _race(engine, places[0]), "ms")
    begun = time.perf_counter()
    with Session(engine) as session:
        wrong = [one for one in breaks(session) if one.check == "balance"]
    show(f"whether the books add up ({len(wrong)} do not)", time.perf_counter() - begun, "s")


def _median(engine: Engine, places: list[tuple[str, str]], one: object) -> float:
    """Milliseconds of the middle of all places, nothing of it kept."""
    spent = []
    for number, code in places:
        with Session(engine) as session:
            begun = time.perf_counter()
            one(session, number, code)  # type: ignore[operator]
            spent.append(time.perf_counter() - begun)
            session.rollback()
    return median(spent) * 1e3


def _plate(session: Session, number: str, code: str) -> None:
    read_shelf(session, number, code, is_lead=True)


def _move(session: Session, number: str, code: str) -> None:
    do(session, MoveRequest(number, code, "set_aside", 1, "dented"), Recorded(read_clock(session), 1, is_lead=False))


def _scan(session: Session, number: str, code: str) -> None:
    act_for(session, number, site_code=code)


def _race(engine: Engine, place: tuple[str, str]) -> float:
    """Fifty people take the last part at once: one gets it, the others are told; milliseconds of the middle one told."""
    number, code = place
    with Session(engine) as session:
        held = session.scalar(
            text("""SELECT b.quantity FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id JOIN part p ON p.id = h.part_id
                    JOIN site s ON s.id = h.site_id WHERE p.number = :p AND s.code = :s AND b.bucket = 'on_hand'"""),
            {"p": number, "s": code},
        )
        do(session, MoveRequest(number, code, "scrap", int(held or 0) - 1, "for the race"), Recorded(read_clock(session), 1, is_lead=True))
        session.commit()
    with ThreadPoolExecutor(PEOPLE) as people:
        told = list(people.map(lambda _: _take(engine, number, code), range(PEOPLE)))
    lost = [spent for spent in told if spent is not None]
    if len(lost) != PEOPLE - 1:
        click.echo(f"  {PEOPLE - len(lost)} people got the last part: one was wanted")
    return median(lost) * 1e3


def _take(engine: Engine, number: str, code: str) -> float | None:
    begun = time.perf_counter()
    with Session(engine) as session:
        try:
            _move(session, number, code)
            session.commit()
        except Refused:
            return time.perf_counter() - begun
    return None
