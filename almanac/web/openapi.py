"""Prints the OpenAPI document that the TypeScript client is generated from."""

from __future__ import annotations

import json

from sqlalchemy import create_engine

from almanac.web.api import SPEC
from almanac.web.app import create_app


def document() -> str:
    """The document of the code as it stands; needs no database."""
    app = create_app(create_engine("postgresql+psycopg://"), secret_key="unused")  # noqa: S106
    with app.app_context():
        return json.dumps(SPEC.spec, indent=2, sort_keys=True)


if __name__ == "__main__":
    print(document())  # noqa: T201
