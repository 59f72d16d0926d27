"""Side words in the user's frame, whichever way the machine lies (rule F8)."""

from __future__ import annotations

from almanac.core.errors import ContractError

SIDES = ("hinge", "front", "left", "right")
MIRROR = {"left": "right", "right": "left", "hinge": "hinge", "front": "front"}
REFUSED = ("towards me", "toward me", "away from me", "towards you", "up", "down")


def side(word: str) -> str:
    """A side word of the user's frame.

    Parameters
    ----------
    word : hinge, front, left or right, as the user sits before the machine

    Returns
    -------
    str : the word in small letters

    Raises
    ------
    ContractError : a word of the technician's own frame, or no side
    """
    plain = word.strip().lower()
    if plain in SIDES:
        return plain
    why = "depends on where you stand" if plain in REFUSED else "is no side"
    raise ContractError(f"side: {', '.join(SIDES)} (as the user sits) was wanted; {word!r} {why}")


def seen_from_below(word: str, *, hinge_away: bool) -> str:
    """How a side of the user's frame lies when the machine is turned over: hinge away left and right swap, hinge near they stay.

    Parameters
    ----------
    word : a side · hinge_away : the hinge edge lies away from the technician

    Returns
    -------
    str : the side of the bench it lies on: away, near, left or right

    Raises
    ------
    ContractError : no side
    """
    plain = side(word)
    if plain in ("hinge", "front"):
        return "away" if (plain == "hinge") == hinge_away else "near"
    return MIRROR[plain] if hinge_away else plain


def on_plan(word: str, seen: str) -> str:
    """Which edge of the drawn plan a side lies at: its hinge edge is at the top.

    Parameters
    ----------
    word : a side as the user sits, or centre · seen : from above, from below or from behind

    Returns
    -------
    str : top, bottom, left, right or centre

    Raises
    ------
    ContractError : no side
    """
    if word == "centre":
        return word
    lies = side(word) if seen == "from above" else seen_from_below(word, hinge_away=True)
    return {"hinge": "top", "front": "bottom", "away": "top", "near": "bottom"}.get(lies, lies)


def recorded_from_below(bench_word: str, *, hinge_away: bool) -> str:
    """The user's side of something seen left or right on the bench; the reverse of seen_from_below.

    Raises
    ------
    ContractError : neither left nor right
    """
    plain = bench_word.strip().lower()
    if plain not in ("left", "right"):
        raise ContractError(f"side: left or right was wanted, got {bench_word!r}")
    return MIRROR[plain] if hinge_away else plain
