"""Files nobody should be able to hurt the server with: each gets an answer that names what is wrong."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from almanac.attack.hostile_more import Hostile, hostile_bundles, hostile_lists, hostile_reports

SEND = Callable[[str, str, bytes], Any]
"""Sends (address, name of the file, its bytes) and returns the answer."""
IMPORT, PHOTO, LOG, PAGE = "/api/v1/imports?write=true", "/api/v1/photos", "/api/v1/log/old", "/api/v1/pages/file"


@dataclass(frozen=True)
class Met:
    """How it was met. may_stay : it is kept as what it is"""

    what: str
    status: int
    words: str
    may_stay: bool = False

    @property
    def held(self) -> bool:
        """Answered, not swallowed, and not the server's fault."""
        return self.status in (200, 400, 413, 415, 422) or (self.status == 201 and self.may_stay)


def hostile_files() -> list[Hostile]:
    """The files, all made here."""
    return [*_tables(), *_workbooks(), *_pictures(), *_pages(), *hostile_lists(_workbook), *hostile_bundles(), *hostile_reports()]


def meet(send: SEND) -> list[Met]:
    """Send them all."""
    found = []
    for file in hostile_files():
        reply = send(file.address, file.name, file.data)
        found.append(Met(file.what, reply.status_code, reply.text[:200], file.may_stay))
    return found


SITES = b"code,name,environment,is_depot,log_began_on\n"


def _tables() -> Iterator[Hostile]:
    files = {
        "NUL in a cell": SITES + b"X\x001,Name,office,no,2020-01-01\n",
        "vertical tab in a name": SITES + b"X1,Na\x0bme,office,no,2020-01-01\n",
        "no UTF-8": SITES + b"X1,\xff\xfe,office,no,2020-01-01\n",
        "year 1": SITES + b"X1,Name,office,no,0001-01-01\n",
        "year 9999": SITES + b"X1,Name,office,no,9999-12-31\n",
        "a quote that never ends": SITES + b'X1,"Name,office,no,2020-01-01\n' * 2000,
        "a header of a thousand columns": b",".join(b"c%d" % n for n in range(1000)) + b"\n",
        "a cell of two megabytes": SITES + b"X1," + b"n" * 2_000_000 + b",office,no,2020-01-01\n",
        "a formula for a name": SITES + b'X1,"=HYPERLINK(""x"")",office,no,2020-01-01\n',
        "nothing at all": b"",
    }
    for what, data in files.items():
        yield Hostile(what, IMPORT, "sites.csv", data)
    parts = b"number,name,kind,supplier,price,pack,minimum_order\n"
    for what, price in {"money beyond sense": b"1e300", "not a number": b"NaN", "below nothing": b"-5"}.items():
        yield Hostile(what, IMPORT, "parts.csv", parts + b"P1,Name,fan,S," + price + b",1,1\n")
    yield Hostile("a path for a name", IMPORT, "../../sites.csv", SITES)


def _workbook(sheet: str, styles: str = "<styleSheet/>") -> bytes:
    types = (
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Override PartName="/xl/workbook.xml" '
        'ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>'
    )
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006/relationships"
    top = (
        f'<Relationships xmlns="{package}"><Relationship Id="r1" Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>'
    )
    book = (
        f'<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="{office}">'
        '<sheets><sheet name="A" sheetId="1" r:id="r1"/></sheets></workbook>'
    )
    inner = (
        f'<Relationships xmlns="{package}"><Relationship Id="r1" Type="{office}/worksheet" Target="worksheets/sheet1.xml"/>'
        f'<Relationship Id="r2" Type="{office}/styles" Target="styles.xml"/></Relationships>'
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("[Content_Types].xml", types)
        packed.writestr("_rels/.rels", top)
        packed.writestr("xl/workbook.xml", book)
        packed.writestr("xl/_rels/workbook.xml.rels", inner)
        packed.writestr("xl/styles.xml", styles)
        packed.writestr("xl/worksheets/sheet1.xml", sheet)
    return out.getvalue()


def _workbooks() -> Iterator[Hostile]:
    cells = '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>{}</sheetData></worksheet>'
    good = cells.format('<row r="1"><c r="A1" t="inlineStr"><is><t>tag</t></is></c></row>')
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 400_000_000)
    files = {
        "no workbook": b"PK\x03\x04 not really",
        "an empty archive": b"PK\x05\x06" + b"\x00" * 18,
        "a sheet that is no XML": _workbook("<worksheet"),
        "a cell with an index of nowhere": _workbook(cells.format('<row r="1"><c r="A1" t="s"><v>999999</v></c></row>')),
        "a style that does not exist": _workbook(cells.format('<row r="1"><c r="A1" s="4000"><v>1</v></c></row>')),
        "styles that are no styles": _workbook(good, "<styleSheet><cellXfs><xf numFmtId='x'/></cellXfs></styleSheet>"),
        "a serial day beyond the calendar": _workbook(cells.format('<row r="1"><c r="A1" t="d"><v>99999-99-99</v></c></row>')),
        "an archive that unpacks to 400 MB": bomb.getvalue(),
    }
    for what, data in files.items():
        yield Hostile(what, LOG, "log.xlsx", data)


def _png(width: int, height: int, body: bytes = b"\x78\x9c\x63\x00\x00\x00\x01\x00\x01") -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


def _pictures() -> Iterator[Hostile]:
    rows = zlib.compress(b"\x00" * (7000 * 3 + 1) * 7000, 9)
    files = {
        "49 megapixels": _png(7000, 7000, rows),
        "a thousand megapixels in a header": _png(40000, 30000),
        "a picture cut in the middle": _png(10, 10, zlib.compress(b"\x00" * 310))[:60],
        "sizes of nothing": _png(0, 0),
        "a script called a picture": b"<svg onload='alert(1)'/>",
        "a JPEG of noise": b"\xff\xd8\xff" + bytes(range(256)) * 400,
    }
    for what, data in files.items():
        yield Hostile(what, PHOTO, "photo.png", data)


def _pages() -> Iterator[Hostile]:
    anchors = "a: &a [x, x]\n" + "".join(f"b{n}: [*a, *a]\n" for n in range(20))
    files = {
        "aliases that multiply": anchors,
        "a tag that builds objects": "a: !!python/object/apply:os.system [true]\n",
        "nested 2,000 deep": "[" * 2000 + "]" * 2000,
        "a control character written as an escape": 'page_format: 1\nmaker: "a\\x00b"\n',
    }
    for what, text in files.items():
        yield Hostile(what, PAGE, "page.yaml", text.encode())
