"""The worker process: what waits in the queue is computed by it, behind the pages."""

from __future__ import annotations

import asyncio
import json
import signal
import sys

import click

from almanac.launch.logs import log_to


@click.command()
@click.option("--log", "log_file", required=True, help="File the log is written to.")
def main(log_file: str) -> None:
    """Work on the queue of a database. Where that is comes as one line of JSON on standard input, as to the web process."""
    log_to(log_file)
    from almanac.jobs.worker import queue_app, work
    from almanac.web.wsgi import production_app

    words = sys.stdin.readline()
    if not words.strip():
        return
    told = json.loads(words)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C reaches the launcher, which ends it
    app = production_app(told["database"], told["secret"])
    asyncio.run(work(queue_app(told["database"], app), database=told["database"]))


if __name__ == "__main__":
    main()
