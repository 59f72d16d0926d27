"""A computed thing: a frozen input that holds all its computation may read, and the pure computation."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
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

    @classmethod
    def compute_many(cls, questions: Sequence[Any]) -> list[Any]:
        """Answers of several in their order. Where computing them together costs less a class does so, with the same answers."""
        return [question.compute() for question in questions]

    @property
    def key(self) -> str:
        """Names the input's content under this version of the computation."""
        known: str | None = self.__dict__.get("_key")
        if known is None:
            known = key_of((self.NAME, self.VERSION, self))
            object.__setattr__(self, "_key", known)  # an input is frozen, so its key is too
        return known


class Named:
    """Content that is known by a key made from it before, so that it need not be hashed, or even fetched, to be named.

    It stands in a question's input as its key alone; `content` is there where something is computed, fetched when first wanted.
    """

    __slots__ = ("_content", "_fetch", "key")

    def __init__(self, key: str, content: Any = None, *, fetch: Callable[[], Any] | None = None) -> None:
        self.key, self._content, self._fetch = key, content, fetch

    @classmethod
    def of(cls, content: Any) -> Named:
        """Content named by itself."""
        return cls(key_of(content), content)

    @property
    def __answer_key__(self) -> str:
        return self.key

    @property
    def content(self) -> Any:
        """What the key names.

        Raises
        ------
        LookupError : it was named and cannot be fetched
        """
        if self._content is None and self._fetch is not None:
            self._content = self._fetch()
        if self._content is None:
            raise LookupError(f"the content of {self.key} was not read")
        return self._content

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Named) and other.key == self.key

    def __hash__(self) -> int:
        return hash(self.key)
