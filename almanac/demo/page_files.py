"""The demo's model pages, read from their files."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from almanac.core.parts.inheritance import whole_page
from almanac.exchange.pages.read import read_page

FOLDER = Path(__file__).parent / "pages"


def read_pages() -> dict[str, tuple[dict[str, Any], Mapping[str, Any]]]:
    """Every page by maker and name: as written, and whole.

    Raises
    ------
    ValueError : a file does not follow the format
    """
    own: dict[str, dict[str, Any]] = {}
    for path in sorted(FOLDER.glob("*.yaml")):
        found = read_page(path.read_bytes())
        if found.page is None:
            raise ValueError(f"{path.name}: {found.faults[0]}")
        own[f"{found.page['maker']} {found.page['name']}"] = found.page
    return {
        name: (page, whole_page(page, whole_page(own[page["inherits"]]) if page.get("inherits") else None)) for name, page in own.items()
    }
