"""More hostile files: lists as companies have them, pages with photos, files of the stores, and what a machine prints."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass

LIST, BUNDLE, REPORT, COUNTS = "/api/v1/lists/look", "/api/v1/pages/bundle", "/api/v1/reports?tag=SK-0001", "/api/v1/stores/files/counts"
HEADER = b"Asset tag;Serial;Model;Site;In service since\n"
ROW = b"SK-9001;S9001;Ostrel Packet 14;Gullskerry;01.03.2024\n"
PAGE = b"page_format: 2\nmaker: Ostrel\nname: Packet 14\n"


@dataclass(frozen=True)
class Hostile:
    """One file, and where it goes. may_stay : it is kept as what it is, which hurts nobody"""

    what: str
    address: str
    name: str
    data: bytes
    may_stay: bool = False


def hostile_lists(workbook: Callable[[str], bytes]) -> Iterator[Hostile]:
    """Lists, and files of the stores. workbook : a sheet's XML as a file"""
    lists = {
        "a list of NULs": b"\x00" * 5000,
        "a list of ten thousand columns": b";".join(b"c%d" % number for number in range(10_000)) + b"\n" + b";" * 9_999,
        "a list whose columns have one name": HEADER.replace(b"Serial", b"Asset tag") + ROW,
        "a list in no encoding": b"Asset tag;\x81\x8d\x8f\x90\x9d\n" + ROW,
        "a list that is a picture": b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 40,
        "a serial of a megabyte": HEADER + ROW.replace(b"S9001", b"S" * 1_000_000),
        "days of no calendar": HEADER + ROW.replace(b"01.03.2024", b"31.02.0000") * 50,
        "a tag that is a formula": HEADER + ROW.replace(b"SK-9001", b"=1+1"),
        "a tag with a line in it": HEADER + ROW.replace(b"SK-9001", b'"SK\n9001"'),
        "a list of nothing but separators": b";;;;\n" * 3000,
    }
    for what, data in lists.items():
        yield Hostile(what, LIST, "register.csv", data)
    far = '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>{}</sheetData></worksheet>'
    cell = '<row r="1048576"><c r="XFD1048576" t="inlineStr"><is><t>tag</t></is></c></row>'
    yield Hostile("one cell in the last corner of a sheet", LIST, "register.xlsx", workbook(far.format(cell)))
    counts = b"site,part_number,counted\n"
    for what, row in {
        "a count below nothing": b"GUL,OF-P14,-5\n",
        "a count beyond sense": b"GUL,OF-P14,99999999999999999999\n",
        "a count that is no number": b"GUL,OF-P14,NaN\n",
        "a count of a site there is none of": b"../GUL,OF-P14,1\n",
    }.items():
        yield Hostile(what, COUNTS, "counts.csv", counts + row)


def _zip(*entries: tuple[str | zipfile.ZipInfo, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in entries:
            packed.writestr(name, data)
    return out.getvalue()


def _understated() -> bytes:
    """A page of 50 MB that says it has ten bytes."""
    data = _zip(("page.yaml", b"#" * 50_000_000))
    return data.replace((50_000_000).to_bytes(4, "little"), (10).to_bytes(4, "little"))


def hostile_bundles() -> Iterator[Hostile]:
    """Pages with their photos."""
    link = zipfile.ZipInfo("photos/" + "a" * 64 + ".png")
    link.external_attr = 0o120777 << 16
    files = {
        "a bundle that is none": b"PK\x03\x04 and nothing more",
        "a bundle without a page": _zip(("photos/a.png", b"x")),
        "a bundle with a way out": _zip(("page.yaml", PAGE), ("../../photos/x.png", b"x")),
        "a bundle with a root": _zip(("page.yaml", PAGE), ("/photos/x.png", b"x")),
        "a page of 60 MB": _zip(("page.yaml", b"#" * 60_000_000)),
        "a page that says it is small": _understated(),
        "a photo that is a link": _zip(("page.yaml", PAGE), (link, b"/etc/passwd")),
        "five hundred photos": _zip(("page.yaml", PAGE), *((f"photos/{number:064x}.png", b"x") for number in range(500))),
        "a page that is no text": _zip(("page.yaml", b"\xff\xfe\x00")),
    }
    for what, data in files.items():
        yield Hostile(what, BUNDLE, "page.zip", data)


def hostile_reports() -> Iterator[Hostile]:
    """What a machine prints, or something that says so."""
    texts = {
        "a report nested 20,000 deep": b"[" * 20_000 + b"]" * 20_000,
        "a report that is no text": bytes(range(256)) * 20,
        "wear beyond reason": json.dumps({"machine_report": 1, "pack": {"design_wh": 1e300, "full_wh": -1, "cycles": 10**15}}).encode(),
        "wear that is no number": b'{"machine_report": 1, "pack": {"design_wh": NaN, "full_wh": Infinity}}',
        "a pack that is a list": b'{"machine_report": 1, "pack": [[[]]]}',
        "a report of eight megabytes": b'{"machine_report": 1, "serial": "' + b"x" * 8_000_000 + b'"}',
        "ten thousand drives": json.dumps({"machine_report": 1, "drives": [{"serial": f"D{number}"} for number in range(10_000)]}).encode(),
        "a control character in a serial": b'{"machine_report": 1, "pack": {"serial": "a\\u0000b"}}',
        "another edition of the report": b'{"machine_report": 999}',
    }
    for what, data in texts.items():
        yield Hostile(what, REPORT, "report.txt", data, may_stay=True)
