"""The world around the application, as the environment tells of it: names it is reached by, how mail goes, who signs people in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from almanac.exchange.provider import Provider, fault_of_address
from almanac.services.provided import Allowed, groups_of

BACK = "/api/v1/session/provider/back"
NEEDED = ("ALMANAC_PROVIDER_CLIENT", "ALMANAC_PROVIDER_SECRET", "ALMANAC_URL", "ALMANAC_PROVIDER_GROUPS")


@dataclass(frozen=True)
class Through:
    """The identity provider people sign in through, and what its groups may do here."""

    provider: Provider
    may: Mapping[str, Allowed]


@dataclass(frozen=True)
class Outside:
    """What is around the application.

    Parameters
    ----------
    hosts : names it may be reached by, beside loopback · mail : how mail goes, see `almanac.exchange.mail.Way`
    encrypted : browsers reach it by https, so that no cookie travels without · through : None where people have passwords alone
    """

    hosts: tuple[str, ...] = ()
    mail: str = ""
    encrypted: bool = False
    through: Through | None = None


def outside_of(environment: Mapping[str, str]) -> Outside:
    """What the environment tells.

    Raises
    ------
    ValueError : a variable that is missing or cannot be used, by its name
    """
    url = environment.get("ALMANAC_URL", "").strip()
    if url and (fault := fault_of_address(url)):
        raise ValueError(f"ALMANAC_URL: {fault}")
    hosts = tuple(environment.get("ALMANAC_HOSTS", "").replace(",", " ").split())
    return Outside(hosts, environment.get("ALMANAC_MAIL", ""), url.startswith("https:"), _through(environment, url))


def _through(environment: Mapping[str, str], url: str) -> Through | None:
    issuer = environment.get("ALMANAC_PROVIDER", "").strip()
    if not issuer:
        return None
    if missing := [name for name in NEEDED if not environment.get(name, "").strip()]:
        raise ValueError(f"ALMANAC_PROVIDER is set and {', '.join(missing)} is not: see docs/operations.md, signing in")
    provider = Provider(
        issuer,
        environment.get("ALMANAC_PROVIDER_NAME", "").strip() or "the identity provider",
        environment["ALMANAC_PROVIDER_CLIENT"].strip(),
        environment["ALMANAC_PROVIDER_SECRET"].strip(),
        environment.get("ALMANAC_PROVIDER_CLAIM", "").strip() or "groups",
        url.rstrip("/") + BACK,
    )
    return Through(provider, groups_of(environment["ALMANAC_PROVIDER_GROUPS"]))
