"""Photos of pages and jobs: PNG or JPEG, limited in size, written anew so that nothing but the picture stays."""

from __future__ import annotations

import hashlib
import io
from warnings import catch_warnings, simplefilter

from PIL import Image, ImageOps, UnidentifiedImageError
from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store.models import Photo

MOST_BYTES = 12_000_000
MOST_PIXELS = 26_000_000
LONGEST_SIDE = 2000
DAMAGED = (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError, Image.DecompressionBombWarning)
SIGNATURES = {"PNG": b"\x89PNG\r\n\x1a\n", "JPEG": b"\xff\xd8\xff"}


def store_photo(session: Session, data: bytes, *, clock: Clock, author_id: int | None) -> Photo:
    """Keep a picture without its metadata; equal pictures are kept once.

    Raises
    ------
    Refused : neither PNG nor JPEG, damaged, or larger than the limits
    """
    png, width, height = _clean(data)
    digest = hashlib.sha256(png).hexdigest()
    known = session.scalar(select(Photo).where(Photo.digest == digest))
    if known is not None:
        return known
    photo = Photo(digest=digest, width=width, height=height, png=png, author_id=author_id, recorded_at=clock.now)
    session.add(photo)
    session.flush()
    return photo


def photo_named(session: Session, digest: str) -> Photo:
    """A photo by its digest.

    Raises
    ------
    NotFound : there is none
    """
    found = session.scalar(select(Photo).where(Photo.digest == digest))
    if found is None:
        raise NotFound(f"there is no photo {digest[:12]}")
    return found


def _clean(data: bytes) -> tuple[bytes, int, int]:
    if len(data) > MOST_BYTES:
        raise Refused(Fault("photo", f"the photo has {len(data):,} bytes; {MOST_BYTES:,} at most: make it smaller"))
    kind = next((name for name, start in SIGNATURES.items() if data.startswith(start)), None)
    if kind is None:
        raise Refused(Fault("photo", "a photo is a PNG or JPEG file: convert it first"))
    try:
        bare = _bare(data, kind)
    except DAMAGED as error:
        raise Refused(Fault("photo", f"the {kind} file is damaged: take the photo again")) from error
    bare.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    out = io.BytesIO()
    bare.save(out, "PNG", optimize=True)
    return out.getvalue(), bare.width, bare.height


def _bare(data: bytes, kind: str) -> Image.Image:
    """The picture and nothing else, turned as the camera was held."""
    with catch_warnings():
        simplefilter("error", Image.DecompressionBombWarning)
        with Image.open(io.BytesIO(data), formats=[kind]) as whole:
            if whole.width * whole.height > MOST_PIXELS:  # the header says so: nothing is decoded yet
                raise Refused(Fault("photo", f"{whole.width} x {whole.height} pixels are too many: {MOST_PIXELS:,} at most"))
            whole.verify()  # every chunk's checksum; a picture cut short is refused, not filled up
        with Image.open(io.BytesIO(data), formats=[kind]) as picture:
            upright = ImageOps.exif_transpose(picture)
            bare = Image.new("RGB", upright.size)
            bare.paste(upright.convert("RGB"))
            return bare
