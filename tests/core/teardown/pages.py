"""Pages as hypothesis draws them, and a small one to reason about."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

TOOLS = (None, "PH0", "PH1", "T5")


def step(name: str, needs: list[Any] | None = None, **more: Any) -> dict[str, Any]:
    """One operation with minutes, by default one minute."""
    minutes = more.pop("minutes", 1)
    return {
        "id": name,
        "text": f"Do {name}",
        "needs": needs or [],
        "minutes": {"low": minutes, "likely": minutes, "high": minutes},
        **more,
    }


def part(key: str, kind: str = "other", held: str = "screwed", **more: Any) -> dict[str, Any]:
    return {"key": key, "label": key, "kind": kind, "serviceability": held, **more}


@st.composite
def pages(draw: st.DrawFn) -> dict[str, Any]:
    """A sound page: steps need earlier ones, some with alternatives; each frees one position; some pages cut the power."""
    size = draw(st.integers(2, 9))
    names = [f"s{i}" for i in range(size)]
    isolation = draw(st.integers(0, size - 1)) if draw(st.booleans()) else None
    operations = []
    for place, name in enumerate(names):
        earlier = names[:place]
        groups = draw(st.lists(st.lists(st.sampled_from(earlier), min_size=1, max_size=2, unique=True), max_size=2)) if earlier else []
        needs = [group[0] if len(group) == 1 else {"any": group} for group in groups]
        operations.append(
            step(
                name,
                needs,
                tool=draw(st.sampled_from(TOOLS)),
                minutes=draw(st.integers(1, 9)),
                frees=[f"p{draw(st.integers(0, size - 1))}"],
                live=isolation is not None and place < isolation,
                isolates=place == isolation,
                plugs=[{"name": f"lead {name}", "kind": "slide"}] if draw(st.booleans()) else [],
                fasteners=[{"group": draw(st.sampled_from(("long", "short"))), "count": 2, "captive": draw(st.booleans())}],
            )
        )
    return {"positions": [part(f"p{i}") for i in range(size)], "operations": operations}
