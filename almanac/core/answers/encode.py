"""One canonical encoding of values: equal values have equal bytes, in every process, and different ones different bytes.

Keys of answers are digests of it, so whatever an answer is computed from is what is hashed; there is no list kept by hand.
"""

from __future__ import annotations

import dataclasses
import struct
from collections.abc import Callable, Mapping
from datetime import date
from decimal import Decimal
from enum import Enum
from hashlib import blake2b
from typing import Any

import numpy as np

from almanac.core.errors import ContractError

KEY_BYTES = 24


def key_of(value: object) -> str:
    """The key of a value: a digest of its encoding, as 48 hexadecimal digits.

    Parameters
    ----------
    value : built of None, numbers, text, bytes, days, moments, decimals, enumerations, numpy arrays, dataclasses, named tuples, and of
        tuples, lists, sets and mappings of those

    Raises
    ------
    ContractError : a value of another type, which could change without its key changing
    """
    digest = blake2b(digest_size=KEY_BYTES)
    _feed(digest.update, value)
    return digest.hexdigest()


Feed = Callable[[bytes], object]


def _feed(feed: Feed, value: Any) -> None:
    if hasattr(value, "__answer_key__"):
        _tagged(feed, b"k", str(value.__answer_key__).encode())
    elif (named := _fields_of(value)) is not None:
        _named(feed, *named)
    else:
        next((write for kinds, write in MANY if isinstance(value, kinds)), _single)(feed, value)


def _fields_of(value: Any) -> tuple[bytes, str, dict[str, Any]] | None:
    """Tag, type and fields of what has fields: dataclasses and named tuples by their fields, an enumeration's member by its value."""
    name = type(value).__qualname__
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return b"o", name, {one.name: getattr(value, one.name) for one in dataclasses.fields(value)}
    if isinstance(value, tuple) and hasattr(value, "_fields"):
        return b"o", name, dict(zip(value._fields, value, strict=True))
    return (b"e", name, {"value": value.value}) if isinstance(value, Enum) else None


def _tagged(feed: Feed, tag: bytes, content: bytes) -> None:
    """Every piece says what it is and how long, so that no two different values run into the same bytes."""
    feed(tag + struct.pack(">Q", len(content)) + content)


def _named(feed: Feed, tag: bytes, name: str, fields: Mapping[str, Any]) -> None:
    _tagged(feed, tag, name.encode())
    _tagged(feed, b"n", str(len(fields)).encode())
    for field, item in fields.items():
        _tagged(feed, b"f", field.encode())
        _feed(feed, item)


def _pairs(feed: Feed, value: Mapping[Any, Any]) -> None:
    """A mapping whatever the order it was made in."""
    _tagged(feed, b"m", str(len(value)).encode())
    for key, item in sorted(((_bytes(key), item) for key, item in value.items()), key=lambda pair: pair[0]):
        _tagged(feed, b"p", key)
        _feed(feed, item)


def _items(feed: Feed, value: list[Any] | tuple[Any, ...]) -> None:
    _tagged(feed, b"l", str(len(value)).encode())
    for item in value:
        _feed(feed, item)


def _unordered(feed: Feed, value: set[Any] | frozenset[Any]) -> None:
    _tagged(feed, b"u", b"".join(sorted(_bytes(item) for item in value)))


def _array(feed: Feed, value: np.ndarray[Any, Any]) -> None:
    if value.dtype.kind not in "biuf":
        raise ContractError(f"an array of numbers was wanted, got one of {value.dtype}")
    plain = np.ascontiguousarray(value)
    _tagged(feed, b"a", f"{plain.dtype.newbyteorder('<').str}{plain.shape}".encode())
    _tagged(feed, b"b", plain.astype(plain.dtype.newbyteorder("<"), copy=False).tobytes())


def _bytes(value: object) -> bytes:
    pieces: list[bytes] = []
    _feed(pieces.append, value)
    return b"".join(pieces)


def _single(feed: Feed, value: Any) -> None:
    """A single value. A number that is whole is not the same as text of it, nor True as 1."""
    for kinds, tag, content in SINGLE:
        if isinstance(value, kinds):
            _tagged(feed, tag, content(value))
            return
    raise ContractError(f"a value whose content is known was wanted, got {type(value).__qualname__}")


MANY: tuple[tuple[Any, Callable[[Feed, Any], None]], ...] = (
    (np.ndarray, _array),
    (Mapping, _pairs),
    ((list, tuple), _items),
    ((set, frozenset), _unordered),
)
SINGLE: tuple[tuple[Any, bytes, Callable[[Any], bytes]], ...] = (
    ((bool, type(None)), b"c", lambda value: repr(value).encode()),
    ((int, np.integer), b"i", lambda value: str(int(value)).encode()),
    ((float, np.floating), b"d", lambda value: struct.pack(">d", float(value))),
    (str, b"s", lambda value: value.encode("utf-8", "surrogatepass")),
    (bytes, b"b", bytes),
    (date, b"t", lambda value: f"{type(value).__name__} {value.isoformat()}".encode()),
    (Decimal, b"x", lambda value: str(value.normalize()).encode()),
)
