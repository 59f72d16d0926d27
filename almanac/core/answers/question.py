"""A computed thing: a frozen input that holds all its computation may read, and the pure computation."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Any, ClassVar, Generic, TypeVar

from almanac.core.answers.encode import key_of

Answer = TypeVar("Answer")


class Question(ABC, Generic[Answer]):
    """Base of inputs. A subclass is a frozen dataclass with a name and a version; `compute` gets no database and no clock.

    NAME : of the computed thing, as it is kept · VERSION : counted up whenever the same input is answered otherwise
    """

    NAME: ClassVar[str]
    VERSION: ClassVar[int]

    @abstractmethod
    def compute(self) -> Answer:
        """The answer; the same for equal inputs, in every process."""

    @property
    def key(self) -> str:
        """Names the input's content under this version of the computation."""
        return key_of((self.NAME, self.VERSION, self))


class Named:
    """Content that is known by a key made when it was written, so that it need not be hashed, or even read, to be named.

    It stands in a question's input as its key alone; `content` is there where something is computed.
    """

    __slots__ = ("_content", "key")

    def __init__(self, key: str, content: Any = None) -> None:
        self.key, self._content = key, content

    @property
    def __answer_key__(self) -> str:
        return self.key

    @property
    def content(self) -> Any:
        """What the key names.

        Raises
        ------
        LookupError : it was named and not read
        """
        if self._content is None:
            raise LookupError(f"the content of {self.key} was not read")
        return self._content

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Named) and other.key == self.key

    def __hash__(self) -> int:
        return hash(self.key)
