"""Fifty people do the same thing at the same moment: what may happen once happens once, and the others get a sentence."""

from __future__ import annotations

from collections.abc import Callable
from uuid import uuid4

import requests

from almanac.attack.people_races import PEOPLE_RACES
from almanac.attack.product import Person
from almanac.attack.store_races import STORE_RACES
from almanac.attack.track import Race, Target, Track, people_of, race_of

CROWD = 50
PACK = "OB-P14-60"


def run_races(
    product: Target, *, crowd: int = CROWD, say: Callable[[str], None], people: tuple[Person, Person] | None = None
) -> list[Race]:
    """Every race in turn; `people` are the demo's unless given."""
    track = Track(product, crowd, people or people_of(product))
    found = []
    for race in RACES:
        done = race(track)
        say(f"{done.name}: {dict(done.statuses)}, {done.counted} counted, {'held' if done.held else 'BROKEN'}")
        found.append(done)
    return found


ORDERS = "SELECT count(*) FROM purchase_order"


def order_with_one_key(track: Track) -> Race:
    before = track.count(ORDERS)
    replies = track.post(track.lead, "/api/v1/orders", {"part_number": PACK, "quantity": 4}, key=str(uuid4()))
    return race_of("one order, one key", replies, track.count(ORDERS) - before, 1)


def order_without_key(track: Track) -> Race:
    before = track.count(ORDERS)
    replies = track.post(track.lead, "/api/v1/orders", {"part_number": PACK, "quantity": 8})
    return race_of("the same order, no key", replies, track.count(ORDERS) - before, 1)


def _line(track: Track, quantity: int) -> dict[str, int]:
    """An order line of its own, read from the table: a page may show what was kept of before."""
    track.lead.post("/api/v1/orders", {"part_number": PACK, "quantity": quantity, "confirmed": ["again"]}).raise_for_status()
    line = track.count("SELECT max(id) FROM purchase_line")
    version = track.count("SELECT version FROM purchase_line WHERE id = :line", line=line)
    return {"id": line, "quantity": quantity, "version": version}


def receive_one_line(track: Track) -> Race:
    line = _line(track, 12)
    body = {"quantity": 4, "received_on": track.today, "expected_version": line["version"]}
    replies = track.post(track.technician, f"/api/v1/order-lines/{line['id']}/receipts", body)
    return race_of("one receipt", replies, track.count("SELECT count(*) FROM receipt WHERE line_id = :line", line=line["id"]), 1)


def cancel_and_receive(track: Track) -> Race:
    line = _line(track, 16)
    path = f"/api/v1/order-lines/{line['id']}"

    def ask(number: int) -> requests.Response:
        more = {"received_on": track.today} if number % 2 else {"reason": "not needed"}
        body = {"quantity": line["quantity"], "expected_version": line["version"], **more}
        return track.lead.post(f"{path}/{'receipts' if number % 2 else 'cancellations'}", body)

    replies = track.together(ask)
    query = "SELECT (SELECT count(*) FROM receipt WHERE line_id = :line) + (SELECT count(*) FROM cancellation WHERE line_id = :line)"
    return race_of("cancelled or received, not both", replies, track.count(query, line=line["id"]), 1)


def open_jobs(track: Track) -> Race:
    tag = track.machine(0)
    replies = track.post(track.technician, "/api/v1/jobs", {"tag": tag, "symptom": "fan grinds", "targets": [], "signs": []})
    query = "SELECT count(*) FROM job JOIN asset ON asset.id = job.asset_id WHERE tag = :tag"
    return race_of("one job a machine", replies, track.count(query, tag=tag), 1)


def take_lease(track: Track) -> Race:
    tag = track.machine(0)
    job = track.technician.post("/api/v1/jobs", {"tag": tag, "symptom": "fan grinds", "targets": [], "signs": []}).json()["job_id"]
    replies = track.together(lambda _: track.technician.post(f"/api/v1/jobs/{job}/lease", {"device": str(uuid4())}))
    return race_of("one device has the job", replies, sum(reply.status_code == 200 for reply in replies), 1)


def journal_entry(track: Track) -> Race:
    tag, device, key = track.machine(0), str(uuid4()), str(uuid4())
    job = track.technician.post("/api/v1/jobs", {"tag": tag, "symptom": "fan grinds", "targets": [], "signs": []}).json()["job_id"]
    track.technician.post(f"/api/v1/jobs/{job}/lease", {"device": device}).raise_for_status()
    entry = {"key": key, "kind": "note", "data": {"words": "dust"}, "done_at": f"{track.today}T10:00:00Z"}
    replies = track.post(track.technician, f"/api/v1/jobs/{job}/entries", {"device": device, "entries": [entry]})
    return race_of("one entry of the journal", replies, track.count("SELECT count(*) FROM job_entry WHERE job_id = :job", job=job), 1)


LAST = """
SELECT b.quantity FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
WHERE b.bucket = 'on_hand' AND p.number = :part AND s.code = :site
"""
PLACES = """
SELECT string_agg(a.tag || ' ' || t.position_id, ',') FROM (
  SELECT DISTINCT ON (t.asset_id) t.asset_id, t.position_id FROM tenure t JOIN part p ON p.id = t.part_id
  WHERE t.removed_on IS NULL AND p.number = :part ORDER BY t.asset_id, t.id LIMIT :most) t JOIN asset a ON a.id = t.asset_id
"""
FREE = "SELECT p.number || ' ' || s.code FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id JOIN part p ON p.id = h.part_id " + (
    "JOIN site s ON s.id = h.site_id WHERE b.bucket = 'on_hand' AND b.quantity = 1 AND p.id IN "
    "(SELECT part_id FROM tenure WHERE removed_on IS NULL GROUP BY part_id HAVING count(*) >= 60) ORDER BY p.id LIMIT 1"
)


def last_part(track: Track) -> Race:
    part, site = str(track.product.scalar(FREE)).split()
    places = [row.split() for row in str(track.product.scalar(PLACES, part=part, most=track.crowd)).split(",")]
    finding = {"reason": "died", "finding": "open", "occurred_on": track.today, "confirmed": ["fit", "duplicate"]}

    def ask(number: int) -> requests.Response:
        tag, position = places[number % len(places)]
        line = {"position_id": int(position), "action": "replaced", "part_number": part, "shelf_site": site}
        return track.technician.post("/api/v1/incidents", {"tag": tag, "lines": [line], **finding})

    replies = track.together(ask)
    left = track.count(LAST, part=part, site=site)
    return race_of("the last part", replies, sum(reply.status_code == 201 for reply in replies), 1 - left)


def correct_once(track: Track) -> Race:
    incident = track.count("SELECT max(id) FROM incident WHERE is_open")
    number = track.count("SELECT latest_number FROM incident WHERE id = :incident", incident=incident)
    day = track.product.scalar("SELECT occurred_on FROM incident WHERE id = :incident", incident=incident)
    body = {"expected_number": number, "occurred_on": str(day), "reason": "seen again", "finding": "open", "minutes": None}
    replies = track.post(track.technician, f"/api/v1/incidents/{incident}/revisions", body)
    query = "SELECT count(*) FROM event_revision WHERE incident_id = :incident"
    return race_of("one correction", replies, track.count(query, incident=incident) - number, 1)


def change_setting(track: Track) -> Race:
    now = track.lead.get("/api/v1/outlook").json()["target"]
    body = {"scope": "company", "key": "target", "value": 0.94, "expected_number": now["number"]}
    replies = track.post(track.lead, "/api/v1/settings", body)
    query = "SELECT count(*) FROM setting WHERE key = 'target' AND scope = 'company' AND number > :number"
    return race_of("one change of a setting", replies, track.count(query, number=now["number"]), 1)


def keep_scenario(track: Track) -> Race:
    name = f"race {uuid4()}"
    change = {"do": "season", "factor": 2.0, "on": "2027-06-01", "until": "2027-09-01", "kinds": ["fan"]}
    replies = track.post(track.lead, "/api/v1/scenarios", {"name": name, "changes": [change]})
    return race_of("one name of a scenario", replies, track.count("SELECT count(*) FROM scenario WHERE name = :name", name=name), 1)


def plan_with_one_key(track: Track) -> Race:
    model = track.lead.get("/api/v1/models").json()["models"][0]["model_id"]
    change = {"do": "buy", "model_id": model, "on": "2027-03-01", "site": "ELD", "duty": "office_hours", "quantity": 3}
    before = track.count("SELECT count(*) FROM fleet_plan")
    replies = track.post(track.lead, "/api/v1/plans", {"changes": [change], "note": "race"}, key=str(uuid4()))
    return race_of("one plan, one key", replies, track.count("SELECT count(*) FROM fleet_plan") - before, 1)


def reading_with_one_key(track: Track) -> Race:
    found = str(track.product.scalar(PLACES, part=PACK, most=1)).split()
    position = str(track.product.scalar("SELECT key FROM position WHERE id = :id", id=int(found[1])))
    body = {"tag": found[0], "position": position, "read_on": track.today, "full": 51.0, "design": 60.0}
    before = track.count("SELECT count(*) FROM reading")
    replies = track.post(track.technician, "/api/v1/outlook/readings", body, key=str(uuid4()))
    return race_of("one reading, one key", replies, track.count("SELECT count(*) FROM reading") - before, 1)


def save_page(track: Track) -> Race:
    model = track.lead.get("/api/v1/models").json()["models"][0]["model_id"]
    document = track.lead.get(f"/api/v1/models/{model}/document").json()
    before = track.count("SELECT count(*) FROM model_revision WHERE model_id = :model", model=model)
    page = {**document["page"], "notes": [*(document["page"].get("notes") or []), {"text": "raced for"}]}
    body = {"page": page, "reason": "race", "number": document["number"], "draft": False}
    replies = track.post(track.technician, "/api/v1/pages", body)
    query = "SELECT count(*) FROM model_revision WHERE model_id = :model"
    return race_of("one revision of a page", replies, track.count(query, model=model) - before, 1)


def guess_passwords(track: Track) -> Race:
    replies = track.together(lambda _: _guess(track.product.address))
    tried = sum(reply.status_code == 422 for reply in replies)
    return race_of("guesses of one password", replies, tried, (1, 9))


def _guess(address: str) -> requests.Response:
    browser = requests.Session()
    token = browser.get(f"{address}/api/v1/session", timeout=120).json()["csrf_token"]
    body = {"login": "ledger", "password": "a guess of many"}
    return browser.post(f"{address}/api/v1/session", json=body, headers={"X-CSRF-Token": token}, timeout=120)


def sign_out_often(track: Track) -> Race:
    person = track.technician
    cookies = person.http.cookies.copy()
    replies = track.together(
        lambda _: requests.delete(f"{person.address}/api/v1/session", headers={"X-CSRF-Token": person.token}, cookies=cookies, timeout=120)
    )
    after = requests.get(f"{person.address}/api/v1/outlook", cookies=cookies, timeout=120)
    return race_of("signed out is out", replies, after.status_code, 401)


RACES: tuple[Callable[[Track], Race], ...] = (
    order_with_one_key,
    order_without_key,
    receive_one_line,
    cancel_and_receive,
    open_jobs,
    take_lease,
    journal_entry,
    last_part,
    correct_once,
    change_setting,
    keep_scenario,
    plan_with_one_key,
    reading_with_one_key,
    save_page,
    guess_passwords,
    *STORE_RACES,
    *PEOPLE_RACES,
    sign_out_often,
)
