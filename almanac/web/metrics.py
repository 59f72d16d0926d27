"""How the almanac is doing in the text format of Prometheus. All of it is read from the database: any web process says the same."""

from __future__ import annotations

from collections.abc import Iterator

from prometheus_client import CollectorRegistry, generate_latest
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, InfoMetricFamily, Metric
from prometheus_client.registry import Collector

from almanac.store.operation import Operation

ROLES = ("lead", "technician", "reader")
STATUSES = ("todo", "doing", "failed")


class _Look(Collector):
    """One look as metrics."""

    def __init__(self, now: Operation, build: str) -> None:
        self._now, self._build = now, build

    def collect(self) -> Iterator[Metric]:
        """The metrics."""
        now = self._now
        yield InfoMetricFamily("almanac_build", "The program and its schema.", {"build": self._build, "schema": now.schema})
        people = GaugeMetricFamily("almanac_people", "People who may sign in.", labels=["role"])
        for role in ROLES:
            people.add_metric([role], now.people.get(role, 0))
        work = GaugeMetricFamily("almanac_work", "Pieces of work behind the pages.", labels=["status"])
        for status in STATUSES:
            work.add_metric([status], now.work.get(status, 0))
        yield from (people, work)
        yield GaugeMetricFamily("almanac_workers", "Workers that give a sign of life.", now.workers)
        yield GaugeMetricFamily("almanac_answers", "Answers that are kept.", now.answers)
        yield GaugeMetricFamily("almanac_answers_bytes", "Room they take.", now.answer_bytes)
        yield GaugeMetricFamily("almanac_database_bytes", "Room the database takes.", now.room)
        yield GaugeMetricFamily("almanac_sign_ins", "Sign-ins that were not ended.", now.sign_ins)
        yield CounterMetricFamily("almanac_failed_sign_ins", "Sign-ins that failed.", now.failed_sign_ins)
        yield GaugeMetricFamily("almanac_machines", "Machines in service.", now.machines)
        yield CounterMetricFamily("almanac_incidents", "Incidents on record.", now.incidents)
        yield GaugeMetricFamily("almanac_backup_failed", "Whether the last backup made by itself failed.", int(now.backup_failed))
        if now.last_good is not None:  # none yet is no moment, and not the year 1970
            yield GaugeMetricFamily(
                "almanac_backup_last_success_timestamp_seconds", "When the last one was proven.", now.last_good.timestamp()
            )


def metrics_of(now: Operation, build: str) -> bytes:
    """A look in the text format."""
    registry = CollectorRegistry()
    registry.register(_Look(now, build))
    return generate_latest(registry)
