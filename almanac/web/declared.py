"""What is declared once in Python, written out for the interface and the docs: kinds, their colours, facts, holds and grades."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterable
from pathlib import Path

from almanac.core.parts.declared.facts import FACTS, FactSpec
from almanac.core.parts.declared.kinds import FORECAST_KINDS, KINDS, TOLD_BY
from almanac.core.parts.declared.values import FactType
from almanac.core.parts.kinds import Grade, Serviceability
from almanac.core.parts.skeleton import SKELETONS, all_bones

MADE = "Made by bin/schema from almanac/core/parts: change it there."


def typescript() -> str:
    """Kinds and facts as constants the compiler knows."""
    kinds = [{"kind": spec.kind.value, "name": spec.name, "forecast": spec.forecast is not None} for spec in KINDS]
    facts = [_fact(spec) for spec in FACTS]
    bones = [{"label": one.label, "kind": one.kind.value, "several": one.several} for one in all_bones()]
    skeletons = {form: [one.label for one in its] for form, its in SKELETONS.items()}
    signs = [{"words": spec.signs, "kind": spec.kind.value} for spec in TOLD_BY]
    return "\n".join(
        (
            f"// {MADE}",
            f"export const KINDS = {_json(kinds)} as const;",
            f"export const FACTS = {_json(facts)} as const;",
            f"export const SIGNS = {_json(signs)} as const;",
            f"export const BONES = {_json(bones)} as const;",
            f"export const SKELETONS = {_json(skeletons)} as const;",
            f"export const HELD = {_json([held.value for held in Serviceability])} as const;",
            f"export const GRADES = {_json([grade.value for grade in Grade])} as const;",
            "",
        )
    )


def _fact(spec: FactSpec) -> dict[str, object]:
    kinds = [kind.value for kind in spec.kinds]
    return {
        "name": spec.name,
        "label": spec.label,
        "unit": spec.unit,
        "kinds": kinds,
        "of": [subject.value for subject in spec.of],
        "values": [_shown(value) for value in spec.type.allowed],
        "wanted": spec.type.words,
        "decides": spec.decides,
    }


def _shown(value: object) -> str:
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _json(value: object) -> str:
    return json.dumps(value, indent=2, ensure_ascii=False)


def stylesheet() -> str:
    """The hue of each kind that is forecast, on paper and in the dark."""
    shown = [(spec.kind.value, spec.forecast) for spec in KINDS if spec.forecast is not None]
    paper = "".join(f"  --{kind}: {forecast.colour};\n" for kind, forecast in shown)
    lamp = "".join(f"  --{kind}: {forecast.lamp};\n" for kind, forecast in shown)
    return f"/* {MADE} */\n:root {{\n{paper}}}\n\n.lamp {{\n{lamp}}}\n"


def page() -> str:
    """Every fact a page, a part or an import may state, for people."""
    rows = ["# Facts", "", MADE, "", *_intro()]
    for kind in (None, *(spec.kind for spec in KINDS)):
        facts = [spec for spec in FACTS if (kind in spec.kinds if kind is not None else not spec.kinds)]
        if facts:
            name = next(spec.name for spec in KINDS if spec.kind == kind) if kind is not None else "The machine"
            rows += ["", f"## {name}", "", "| fact | of | is | decides |", "|---|---|---|---|", *map(_row, facts)]
    return "\n".join([*rows, ""])


def _intro() -> Iterable[str]:
    forecast = ", ".join(kind.value for kind in FORECAST_KINDS)
    return (
        "A fact is read the same way wherever it is typed: in a page file, the survey, a label, at the bench, in an import.",
        "Harmless spellings (`nvme`, `SODIMM`, `Gen4`, `2.5 in`, `11,4`) are understood and shown as understood; a name or a",
        "value that cannot be is a fault with the nearest that can. What nobody knows is left out, or written `unknown`.",
        "A fact of your own is written `other_` and a name: it is kept and shown, and no rule reads it.",
        "",
        f"Kinds: {', '.join(f'`{spec.kind.value}`' for spec in KINDS)}. Forecast are {forecast}.",
        "`takes` is said of the place in the machine, `fitted` of the part that is in it or on a shelf.",
    )


def _row(spec: FactSpec) -> str:
    return f"| `{spec.name}` | {', '.join(subject.value for subject in spec.of)} | {_words(spec.type)} | {spec.decides} |"


def _words(of: FactType) -> str:
    return of.words.replace("|", "\\|")


def write(root: Path) -> None:
    """Write all three where they belong."""
    source = root / "frontend" / "src"
    (source / "api" / "declared.ts").write_text(typescript())
    (source / "app" / "kinds.css").write_text(stylesheet())
    (root / "docs" / "facts.md").write_text(page())


if __name__ == "__main__":
    write(Path(sys.argv[1]))
