"""Metrics: read by a library, for keys that read and for the signed in, the same whichever process is asked."""

from __future__ import annotations

from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import Connection, text

from tests.web.conftest import Client


def read(client: Client) -> dict[tuple[str, str], float]:
    answer = client.get("/health/metrics")
    assert answer.status_code == 200
    assert answer.content_type.startswith("text/plain")
    families = text_string_to_metric_families(answer.get_data(as_text=True))
    return {(one.name, ",".join(one.labels.values())): one.value for family in families for one in family.samples}


def test_they_are_read_by_a_library_and_say_what_is(reader: Client, demo_connection: Connection) -> None:
    before = read(reader)
    assert before["almanac_people", "lead"] == 1
    assert before["almanac_machines", ""] == demo_connection.scalar(text("SELECT count(*) FROM asset WHERE retired_on IS NULL"))
    assert ("almanac_backup_last_success_timestamp_seconds", "") not in before  # none yet is not the year 1970
    demo_connection.execute(
        text("INSERT INTO backup_run (at, file, good, words) VALUES ('2026-11-02 03:00Z', 'a', true, ''), (now(), 'b', false, 'full')")
    )
    after = read(reader)
    assert after["almanac_backup_last_success_timestamp_seconds", ""] == 1793588400
    assert after["almanac_backup_failed", ""] == 1


def test_strangers_and_keys_for_reports_read_none(stranger: Client, technician: Client) -> None:
    assert stranger.get("/health/metrics").status_code == 401
    made = technician.post("/api/v1/tokens", {"name": "probe", "scope": "report", "days": 3}).get_json()
    assert stranger.http.get("/health/metrics", headers={"Authorization": f"Bearer {made['token']}"}).status_code == 403
    made = technician.post("/api/v1/tokens", {"name": "monitor", "scope": "read", "days": 3}).get_json()
    assert stranger.http.get("/health/metrics", headers={"Authorization": f"Bearer {made['token']}"}).status_code == 200
