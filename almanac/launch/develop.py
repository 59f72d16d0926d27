"""bin/dev: Flask with its reloader, and the Vite server in front of it."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import click

from almanac.launch.cluster import PROJECT, Cluster, LaunchError, default_data, free_port
from almanac.launch.databases import is_empty, load_demo, open_database
from almanac.launch.start import single_instance
from almanac.launch.watch import listen_on


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--port", default=8481, show_default=True, help="Port of the Vite server on 127.0.0.1.")
@click.option("--data", type=click.Path(path_type=Path), help="Data folder; by default .data in the project.")
def main(port: int, data: Path | None) -> None:
    """Hot reload on both sides; the demo is loaded into an empty database."""
    try:
        listen_on(port).close()
        cluster = Cluster((data or default_data()).absolute())
        cluster.prepare()
        with single_instance(cluster.data):
            cluster.start()
            _serve(cluster, port)
    except LaunchError as error:
        raise click.ClickException(str(error)) from error


def _serve(cluster: Cluster, port: int) -> None:
    engine = open_database(cluster)
    if is_empty(engine):
        load_demo(engine)
    engine.dispose()
    backend = free_port()
    environment = {
        **os.environ,
        "ALMANAC_DATABASE": cluster.url(),
        "ALMANAC_SECRET": cluster.key("secret"),
        "ALMANAC_BACKEND": str(backend),
    }
    flask = [sys.executable, "-m", "flask", "--app", "almanac.web.wsgi:development_app", "run", "--debug", "--port", str(backend)]
    vite = ["npx", "--no-install", "vite", "--host", "127.0.0.1", "--port", str(port), "--strictPort"]
    processes = [
        subprocess.Popen(flask, env=environment, cwd=PROJECT, start_new_session=True),
        subprocess.Popen(vite, env=environment, cwd=PROJECT / "frontend", start_new_session=True),
    ]
    click.echo(f"Parts Almanac, reloading: http://127.0.0.1:{port}")
    with contextlib.suppress(KeyboardInterrupt):
        while all(process.poll() is None for process in processes):
            time.sleep(0.3)
    for process in processes:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGTERM)
    cluster.stop()


if __name__ == "__main__":
    main()
