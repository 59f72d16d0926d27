"""A page with its photos as one ZIP file: page.yaml, and photos/ by their digest. Written out, and read in again."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from typing import Any

from sqlalchemy.orm import Session

from almanac.exchange.pages.write import write_page
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.library import ModelPage
from almanac.services.pages.photos import MOST_BYTES, photo_named, store_photo

PAGE, FOLDER, ENDING = "page.yaml", "photos/", ".png"
MOST_PHOTOS, MOST_PAGE_BYTES, MOST_BUNDLE_BYTES = 200, 1_000_000, 120_000_000
LONG_AGO = (1980, 1, 1, 0, 0, 0)
"""The same page gives the same file, whenever it is written."""


def bundle(session: Session, page: ModelPage) -> bytes:
    """The page as a file, and every photo it names that is at hand."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(zipfile.ZipInfo(PAGE, LONG_AGO), write_page(page.own), zipfile.ZIP_DEFLATED)
        for digest in dict.fromkeys(named_photos(page.own)):
            try:
                png = photo_named(session, digest).png
            except NotFound:
                continue
            archive.writestr(zipfile.ZipInfo(f"{FOLDER}{digest}{ENDING}", LONG_AGO), png)
    return out.getvalue()


def named_photos(entry: Any) -> Iterator[str]:
    """Photos that any entry of a page names."""
    if isinstance(entry, dict):
        for name, value in entry.items():
            if name == "photos" and isinstance(value, list):
                yield from (photo for photo in value if isinstance(photo, str))
            else:
                yield from named_photos(value)
    elif isinstance(entry, list):
        for one in entry:
            yield from named_photos(one)


def unbundle(session: Session, data: bytes, *, clock: Clock, author_id: int | None) -> str:
    """The page's text; its photos are kept. A photo that is kept under another name is named so in the text.

    Raises
    ------
    Refused : no ZIP file, without a page, or with more in it than a page has
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = _expected(archive)
            text = archive.read(PAGE).decode()
            for entry in entries:
                said = entry.filename.removeprefix(FOLDER).removesuffix(ENDING)
                kept = store_photo(session, archive.read(entry), clock=clock, author_id=author_id).digest
                text = text.replace(said, kept) if len(said) == len(kept) else text
    except (zipfile.BadZipFile, UnicodeDecodeError, NotImplementedError, RuntimeError) as error:
        raise Refused(Fault("file", "this is no page with its photos: a ZIP file as it was exported was wanted")) from error
    return text


def _expected(archive: zipfile.ZipFile) -> list[zipfile.ZipInfo]:
    """The photos of a bundle. Sizes are those the file states; reading more than is stated fails."""
    photos = [entry for entry in archive.infolist() if entry.filename.startswith(FOLDER) and entry.filename.endswith(ENDING)]
    strange = [entry.filename for entry in archive.infolist() if entry not in photos and entry.filename != PAGE and not entry.is_dir()]
    if PAGE not in archive.namelist():
        raise Refused(Fault("file", f"the ZIP file holds no {PAGE}: export the page again"))
    if strange:
        raise Refused(Fault("file", f"the ZIP file also holds {strange[0][:60]}: only {PAGE} and {FOLDER} belong in it"))
    too_large = any(entry.file_size > MOST_BYTES for entry in photos) or archive.getinfo(PAGE).file_size > MOST_PAGE_BYTES
    if too_large or len(photos) > MOST_PHOTOS or sum(entry.file_size for entry in photos) > MOST_BUNDLE_BYTES:
        raise Refused(Fault("file", f"that is more than a page has: {MOST_PHOTOS} photos of {MOST_BYTES:,} bytes at most"))
    return photos
