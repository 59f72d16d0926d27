"""Prints the OpenAPI document that the TypeScript client is generated from."""

from __future__ import annotations

import json
import sys

from sqlalchemy import create_engine

from almanac.web.api import SPEC
from almanac.web.app import create_app


def document(*, answered: bool = False) -> str:
    """The document of the code as it stands; needs no database.

    answered : leave out word that a first answer is being computed (202), for a client that waits until it is there
    """
    app = create_app(create_engine("postgresql+psycopg://"), secret_key="unused")  # noqa: S106
    with app.app_context():
        spec = json.loads(json.dumps(SPEC.spec))
    for operation in (one for path in spec["paths"].values() for one in path.values()):
        if answered and "200" in operation["responses"]:
            operation["responses"].pop("202", None)
    return json.dumps(spec, indent=2, sort_keys=True)


if __name__ == "__main__":
    print(document(answered="--answered" in sys.argv))  # noqa: T201
