"""The simulated identity provider on loopback, with what the almanac needs to be told of it."""

from __future__ import annotations

import secrets

import click
from werkzeug.serving import make_server

from almanac.standins.provider import Simulated, simulated_app


def run(port: int) -> None:
    """Serve until told to stop."""
    provider = Simulated(f"http://127.0.0.1:{port}", "parts-almanac", secrets.token_urlsafe(16))
    click.echo("A simulated identity provider: it signs for whoever is picked. Start the almanac with")
    for name, value in (
        ("ALMANAC_URL", "http://127.0.0.1:8480"),
        ("ALMANAC_PROVIDER", provider.issuer),
        ("ALMANAC_PROVIDER_NAME", "'Harbour ID'"),
        ("ALMANAC_PROVIDER_CLIENT", provider.client_id),
        ("ALMANAC_PROVIDER_SECRET", provider.secret),
        ("ALMANAC_PROVIDER_GROUPS", "'it-leads=lead; bench-gul=technician@GUL; office=reader'"),
    ):
        click.echo(f"  export {name}={value}")
    make_server("127.0.0.1", port, simulated_app(provider), threaded=True).serve_forever()
