"""Sending mail: through the company's own server, or into a folder that stands in for one."""

from __future__ import annotations

import re
import smtplib
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import unquote, urlsplit
from uuid import uuid4

SECONDS = 10
PORTS = {"smtp": 25, "smtps": 465}
ADDRESS = re.compile(r"[^@\s<>,;:\"\\()\[\]]+@[^@\s<>,;:\"\\()\[\]]+\.[^@\s<>,;:\"\\()\[\]]+")


class NotSent(Exception):
    """A mail that did not go, with why and the cure."""


@dataclass(frozen=True)
class Way:
    """How mail goes. place : smtp://, smtps:// with user and password where wanted, folder:// for the stand-in; empty for no way"""

    place: str

    @property
    def words(self) -> str:
        """The way in words, secrets left out."""
        parts = urlsplit(self.place)
        if parts.scheme == "folder":
            return "put into the outbox folder: no mail server is set up"
        return f"by {parts.hostname}"


def is_address(text: str) -> bool:
    """Whether a text is one mail address."""
    return ADDRESS.fullmatch(text) is not None and len(text) <= 254


def send(message: bytes, sender: str, to: str, way: Way) -> None:
    """Send a message (RFC 5322).

    Raises
    ------
    NotSent : no way is set up, or the server did not take it
    """
    parts = urlsplit(way.place)
    if parts.scheme == "folder":
        _drop(message, Path(parts.path))
        return
    if parts.scheme not in PORTS or not parts.hostname:
        raise NotSent("no mail server is set up: name one in ALMANAC_MAIL, or save the mail and send it from a mail program")
    kind = smtplib.SMTP_SSL if parts.scheme == "smtps" else smtplib.SMTP
    try:
        with kind(parts.hostname, parts.port or PORTS[parts.scheme], timeout=SECONDS) as server:
            if parts.scheme == "smtp" and server.has_extn("starttls"):
                server.starttls()
            if parts.username:
                server.login(unquote(parts.username), unquote(parts.password or ""))
            server.sendmail(sender, [to], message)
    except (OSError, smtplib.SMTPException) as error:
        raise NotSent(f"{parts.hostname} did not take it ({error}): try again, or save the mail and send it from a mail program") from error


def _drop(message: bytes, folder: Path) -> None:
    """Put a message into a folder, whole or not at all."""
    name = f"{uuid4().hex}.eml"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        part = folder / f".{name}"
        part.write_bytes(message)
        part.rename(folder / name)
    except OSError as error:
        raise NotSent(f"the outbox folder cannot be written ({error.strerror}): see to its rights, or save the mail") from error
