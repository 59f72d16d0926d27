"""Acts on stock that one person does at one shelf: what each moves from where to where, and who may."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from almanac.core.life.outcomes import Bucket


@dataclass(frozen=True)
class Act:
    """One act. source, goal : buckets, None from or to outside the stores · cause : of its moves · lead : only a lead may

    words : said of it in the record
    """

    name: str
    source: Bucket | None
    goal: Bucket | None
    cause: str
    lead: bool
    words: str


ACTS: Mapping[str, Act] = {
    act.name: act
    for act in (
        Act("found", None, Bucket.ON_HAND, "found", False, "found, not from a shelf"),
        Act("set_aside", Bucket.ON_HAND, Bucket.QUARANTINE, "quarantined", False, "set aside in quarantine"),
        Act("release", Bucket.QUARANTINE, Bucket.ON_HAND, "released", True, "released from quarantine"),
        Act("dispose", Bucket.QUARANTINE, Bucket.SCRAPPED, "disposed", True, "disposed of from quarantine"),
        Act("send_back", Bucket.ON_HAND, Bucket.RETURNED, "returned", False, "sent back to the supplier"),
        Act("send_back_set_aside", Bucket.QUARANTINE, Bucket.RETURNED, "returned", False, "sent back to the supplier from quarantine"),
        Act("credited", Bucket.RETURNED, Bucket.SCRAPPED, "scrapped", True, "credited by the supplier"),
        Act("came_back", Bucket.RETURNED, Bucket.ON_HAND, "arrived", False, "came back from the supplier"),
        Act("expire", Bucket.ON_HAND, Bucket.SCRAPPED, "expired", True, "scrapped, expired"),
        Act("scrap", Bucket.ON_HAND, Bucket.SCRAPPED, "scrapped", True, "scrapped"),
        Act("scrap_harvested", Bucket.HARVESTED, Bucket.SCRAPPED, "scrapped", True, "scrapped, harvested"),
    )
}
