"""How answers are written: by the type that `compute` says it returns, arrays as their numbers, and compressed."""

from __future__ import annotations

import zlib
from typing import Any, get_type_hints

import msgspec
import numpy as np

from almanac.core.answers.question import Question

LEVEL = 3
Undecodable = (msgspec.MsgspecError, zlib.error, ValueError, TypeError)
"""What is raised where bytes are no answer of their kind."""


def answer_type(kind: type[Question[Any]]) -> Any:
    """The type that answers of a question are of."""
    return get_type_hints(kind.compute)["return"]


def encoded(value: Any) -> bytes:
    """A value as it is kept."""
    return zlib.compress(msgspec.msgpack.encode(value, enc_hook=_plain), LEVEL)


def decoded(wanted: Any, value: bytes) -> Any:
    """A value of a type as it was computed.

    Raises
    ------
    Undecodable : the bytes are no such value
    """
    return msgspec.msgpack.decode(zlib.decompress(value), type=wanted, dec_hook=_made)


def _plain(value: Any) -> Any:
    if isinstance(value, np.ndarray):
        return value.dtype.str, value.shape, np.ascontiguousarray(value).tobytes()
    if isinstance(value, np.generic):
        return value.item()
    raise NotImplementedError(f"a value that can be kept was wanted, got {type(value).__qualname__}")


def _made(wanted: Any, value: Any) -> Any:
    if getattr(wanted, "__origin__", wanted) is not np.ndarray:
        raise NotImplementedError(f"no way is known to read {wanted}")
    kind, shape, content = value
    return np.frombuffer(content, np.dtype(kind)).reshape(shape)  # read only, as an answer is
