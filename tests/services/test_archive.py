"""The whole company written as files and read into an empty one: the same to the last digit, or nothing at all."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.services.archive import MANIFEST, read_archive, write_archive
from almanac.services.clock import Clock, read_clock
from almanac.services.errors import Refused
from almanac.services.outlook.inputs import read_inputs
from almanac.store.archive import company_tables, copy_out
from almanac.store.models import Base, Part, Setting, ShelfBalance, Site, User

Change = Callable[[dict[str, bytes]], None]


def written(session: Session) -> bytes:
    file = io.BytesIO()
    write_archive(session.connection(), file, made_on="2026-11-01")
    return file.getvalue()


def changed(archive: bytes, change: Change) -> io.BytesIO:
    """An archive that somebody touched."""
    with zipfile.ZipFile(io.BytesIO(archive)) as folder:
        files = {name: folder.read(name) for name in folder.namelist()}
    change(files)
    again = io.BytesIO()
    with zipfile.ZipFile(again, "w") as folder:
        for name, content in files.items():
            folder.writestr(name, content)
    again.seek(0)
    return again


def test_what_was_written_is_read_the_same(session: Session, empty_session: Session) -> None:
    archive = written(session)
    found = read_archive(empty_session.connection(), io.BytesIO(archive))
    assert found.rows["tenure"] > 9_000
    assert {table.name for table in company_tables()} == set(found.rows)
    for table in company_tables():
        own = b"".join(copy_out(session.connection(), table))
        assert b"".join(copy_out(empty_session.connection(), table)) == own, table.name
    balances = select(ShelfBalance.shelf_id, ShelfBalance.bucket, ShelfBalance.quantity).order_by(
        ShelfBalance.shelf_id, ShelfBalance.bucket
    )
    assert empty_session.execute(balances).all() == session.execute(balances).all()


def test_what_demand_rests_on_is_the_same_question(session: Session, empty_session: Session) -> None:
    read_archive(empty_session.connection(), io.BytesIO(written(session)))
    here, there = read_inputs(session), read_inputs(empty_session)
    assert there.clock.today == here.clock.today
    for kind in here.kinds():
        assert there.fit_of(kind).key == here.fit_of(kind).key
        assert there.of_kind(kind).fleet.key == here.of_kind(kind).fleet.key


def test_work_goes_on_where_it_was(session: Session, empty_session: Session) -> None:
    """New rows get numbers of their own, and who wrote what is known by name."""
    read_archive(empty_session.connection(), io.BytesIO(written(session)))
    part = Part(number="X-1", name="x", kind="fan", facts={}, supplier_id=1, price=1)
    empty_session.add(part)
    empty_session.flush()
    assert part.id == (session.scalar(select(func.max(Part.id))) or 0) + 1
    quay = empty_session.scalars(select(User).where(User.login == "quay")).one()
    assert (quay.active, quay.role) == (False, "lead")
    assert not quay.password_hash.startswith("$argon2")


def test_users_who_are_there_stay_and_settings_are_the_companys(session: Session, empty_session: Session) -> None:
    clock = read_clock(empty_session)
    empty_session.add(User(login="quay", name="Another", role="reader", password_hash="kept"))
    for place, (key, value) in enumerate((("company", "An empty one"), ("setup_code", "hash")), start=1):  # ids the company has, too
        said = Setting(id=place, scope="company", key=key, number=1, value=value, from_on=clock.today, recorded_at=clock.now)
        empty_session.add(said)
    empty_session.flush()
    read_archive(empty_session.connection(), io.BytesIO(written(session)))
    empty_session.expire_all()
    quay = empty_session.scalars(select(User).where(User.login == "quay")).one()
    assert (quay.name, quay.role, quay.active, quay.password_hash) == ("Another", "reader", True, "kept")
    assert empty_session.scalar(select(Setting.value).where(Setting.key == "setup_code")) == "hash"
    assert "An empty one" not in empty_session.scalars(select(Setting.value)).all()


def test_no_password_and_no_code_leaves_the_house(session: Session, clock: Clock) -> None:
    session.add(Setting(scope="company", key="setup_code", number=1, value="secret-code", from_on=clock.today, recorded_at=clock.now))
    session.flush()
    with zipfile.ZipFile(io.BytesIO(written(session))) as folder:
        content = b"".join(folder.read(name) for name in folder.namelist())
    assert b"argon2" not in content
    assert b"secret-code" not in content
    assert b"web_session" not in content


def _damaged(files: dict[str, bytes]) -> None:
    files["part.csv"] = files["part.csv"].replace(b"OB-P14-60", b"OB-P14-61", 1)


def _misshapen(files: dict[str, bytes]) -> None:
    head, _, rest = files["asset.csv"].partition(b"\n")
    files["asset.csv"] = head + b"\n" + rest.replace(b"office_hours", b"at night", 1)


def _short(files: dict[str, bytes]) -> None:
    files["reading.csv"] = files["reading.csv"].rsplit(b"\n", 2)[0] + b"\n"


def _elsewhere(files: dict[str, bytes]) -> None:
    told = json.loads(files[MANIFEST])
    files[MANIFEST] = json.dumps({**told, "schema": "0001"}).encode()


def _future(files: dict[str, bytes]) -> None:
    told = json.loads(files[MANIFEST])
    files[MANIFEST] = json.dumps({**told, "format": 9}).encode()


def _headless(files: dict[str, bytes]) -> None:
    files["site.csv"] = files["site.csv"].replace(b"code", b"kode", 1)


def _missing(files: dict[str, bytes]) -> None:
    del files["tenure.csv"]


def _unread(files: dict[str, bytes]) -> None:
    files[MANIFEST] = b"[1, 2]"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (_damaged, "part.csv was changed since"),
        (_misshapen, "asset.csv: .*duty"),
        (_short, "reading.csv holds .* were written"),
        (_elsewhere, "of schema 0001"),
        (_future, "format 9"),
        (_headless, "site.csv: .*kode"),
        (_missing, "tenure.csv is missing"),
        (_unread, "company.json cannot be read"),
    ],
)
def test_what_is_not_as_it_was_written_is_refused_whole(session: Session, empty_session: Session, change: Change, words: str) -> None:
    inner = empty_session.begin_nested()
    with pytest.raises(Refused, match=words):
        read_archive(empty_session.connection(), changed(written(session), change))
    inner.rollback()
    for table in company_tables():
        assert not empty_session.scalar(select(func.count()).select_from(table)), table.name


@pytest.mark.parametrize("content", [b"", b"no zip at all", b"PK\x03\x04 half of one"])
def test_what_is_no_archive_is_said(empty_session: Session, content: bytes) -> None:
    with pytest.raises(Refused, match="no zip file"):
        read_archive(empty_session.connection(), io.BytesIO(content))


def test_another_zip_is_told_from_it(empty_session: Session) -> None:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as folder:
        folder.writestr("readme.txt", "hello")
    with pytest.raises(Refused, match=r"company\.json is not in this zip"):
        read_archive(empty_session.connection(), file)


def test_a_company_that_has_something_is_left_as_it_is(session: Session) -> None:
    archive = written(session)
    with pytest.raises(Refused, match="is not empty"):
        read_archive(session.connection(), io.BytesIO(archive))
    assert session.scalar(select(func.count()).select_from(Site))


def test_every_table_is_the_companys_or_named_as_left_out() -> None:
    """A new table is written with the company, unless somebody says why not."""
    left = set(Base.metadata.tables) - {table.name for table in company_tables()}
    assert left == {
        "answer", "reply", "pin", "work_progress", "written", "list_work", "shelf_balance", "sign_in_attempt", "web_session", "request_key", "access_token", "user",
        "audit_entry", "backup_run", "password_link", "provider_attempt", "user_site",
    }  # fmt: skip
