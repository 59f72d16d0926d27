"""A file sent with a form."""

from __future__ import annotations

from flask import request

from almanac.services.errors import Fault, Refused


def sent_file(name: str, wanted: str) -> bytes:
    """What the file of a field holds.

    Parameters
    ----------
    name : of the field · wanted : what to choose, in words

    Raises
    ------
    Refused : no file was sent
    """
    upload = request.files.get(name)
    if upload is None:
        raise Refused(Fault(name, f"no file was sent: choose {wanted}"))
    data: bytes = upload.read()
    upload.close()
    return data
