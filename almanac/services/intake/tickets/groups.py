"""Tickets that say the same in nearly the same words: what one is, all are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from rapidfuzz import fuzz, process

from almanac.services.intake.columns import plain

ALIKE = 84
MOST = 3_000
"""Different texts that are compared with one another; the rest stand by themselves."""
SMALL = frozenset(
    plain(
        """the a an is are was of on in at to and or my his her its it this that with for since again please not no
        der die das ein eine ist sind war im am an zu und oder mein seit wieder bitte nicht kein mit bei auf von
        le la les un une est sont du de des au aux et ou mon sa ce cette avec pour depuis svp ne pas en"""
    ).split()
)


def essence(text: str) -> str:
    """A text without numbers, tags and small words: its key among the answers."""
    words = [word for word in plain(text).split() if not any(sign.isdigit() for sign in word)]
    return " ".join(word for word in words if word not in SMALL) or " ".join(words) or "-"


def grouped(texts: Sequence[str], known: Sequence[str] = ()) -> dict[str, str]:
    """The key of each text's group: the commonest of those that are nearly the same, one that was answered already before all.

    Parameters
    ----------
    texts : essences · known : keys that were answered
    """
    counts = Counter(texts)
    order = [*known, *(text for text, _ in counts.most_common() if text not in set(known))]
    heads: list[str] = list(known)
    found = {text: text for text in known}
    for text in order[len(known) :]:
        best = process.extractOne(text, heads[:MOST], scorer=fuzz.token_sort_ratio, score_cutoff=ALIKE) if heads else None
        if best is None:
            heads.append(text)
        found[text] = best[0] if best else text
    return found
