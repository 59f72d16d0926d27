"""Mail through a server that listens here, and through the folder that stands in for one."""

from __future__ import annotations

import socketserver
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

import pytest

from almanac.exchange.mail import NotSent, Way, is_address, send

MESSAGE = b"Subject: Order\r\n\r\nPlease deliver.\r\n"


class Postman(socketserver.StreamRequestHandler):
    """Speaks as much of RFC 5321 as it takes to hand a message over; refuses who is nobody."""

    def handle(self) -> None:
        self._say("220 here")
        while line := self.rfile.readline().decode().strip():
            verb = line[:4].upper()
            if verb == "RCPT" and "nobody@" in line:
                self._say("550 no such mailbox")
            elif verb == "DATA":
                self._say("354 go on")
                self._take()
                self._say("250 taken")
            elif verb == "QUIT":
                self._say("221 bye")
                return
            else:
                self._say("250 yes")

    def _take(self) -> None:
        body = []
        while (line := self.rfile.readline()) != b".\r\n":
            body.append(line)
        self.server.taken.append(b"".join(body))  # type: ignore[attr-defined]

    def _say(self, words: str) -> None:
        self.wfile.write(f"{words}\r\n".encode())


@pytest.fixture
def office() -> Iterator[socketserver.ThreadingTCPServer]:
    server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Postman)
    server.taken = []  # type: ignore[attr-defined]
    thread = Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05})
    thread.start()
    yield server
    server.shutdown()
    server.server_close()
    thread.join()


def way_to(office: socketserver.ThreadingTCPServer) -> Way:
    return Way(f"smtp://127.0.0.1:{office.server_address[1]}")


def test_a_server_takes_it(office: socketserver.ThreadingTCPServer) -> None:
    send(MESSAGE, "stores@skerry.example", "orders@supplier.example", way_to(office))
    assert office.taken == [MESSAGE]  # type: ignore[attr-defined]
    assert way_to(office).words == "by 127.0.0.1"


def test_what_the_server_refuses_did_not_go(office: socketserver.ThreadingTCPServer) -> None:
    with pytest.raises(NotSent, match="no such mailbox"):
        send(MESSAGE, "stores@skerry.example", "nobody@supplier.example", way_to(office))
    assert office.taken == []  # type: ignore[attr-defined]


def test_a_server_that_is_not_there_is_said() -> None:
    with socketserver.TCPServer(("127.0.0.1", 0), Postman) as closed:
        port = closed.server_address[1]
    with pytest.raises(NotSent, match="did not take it"):
        send(MESSAGE, "a@b.example", "c@d.example", Way(f"smtp://127.0.0.1:{port}"))


def test_a_folder_stands_in_for_a_server(tmp_path: Path) -> None:
    way = Way(f"folder://{tmp_path}/outbox")
    send(MESSAGE, "a@b.example", "c@d.example", way)
    files = list((tmp_path / "outbox").iterdir())
    assert [file.suffix for file in files] == [".eml"]
    assert files[0].read_bytes() == MESSAGE
    assert "no mail server is set up" in way.words


def test_a_folder_that_cannot_be_written_is_said(tmp_path: Path) -> None:
    (tmp_path / "outbox").write_text("a file in its place")
    with pytest.raises(NotSent, match="cannot be written"):
        send(MESSAGE, "a@b.example", "c@d.example", Way(f"folder://{tmp_path}/outbox"))


@pytest.mark.parametrize("place", ["", "carrier-pigeon://loft", "smtp://"])
def test_no_way_is_said(place: str) -> None:
    with pytest.raises(NotSent, match="no mail server is set up"):
        send(MESSAGE, "a@b.example", "c@d.example", Way(place))


@pytest.mark.parametrize(
    ("text", "good"),
    [
        ("orders@supplier.example", True), ("o.r@a-b.example", True), ("", False), ("orders@supplier", False), ("a@b.c, d@e.f", False),
        ("a b@c.example", False), ("x\r\nBcc: all@c.example", False), ("<a@b.example>", False), ("a@" + "b" * 260 + ".example", False),
    ],
)  # fmt: skip
def test_one_address_is_one_address(text: str, good: bool) -> None:
    assert is_address(text) is good
