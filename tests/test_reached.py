"""A rule nobody calls is no rule: every public name of core is reached from product code, or listed with the act that will call it."""

from __future__ import annotations

import ast
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = sorted((ROOT / "almanac" / "core").rglob("*.py"))
ASIDE = ("core", "bench", "attack", "demo")
PRODUCT = sorted(path for path in (ROOT / "almanac").rglob("*.py") if path.relative_to(ROOT / "almanac").parts[0] not in ASIDE)
LISTED = {line.split()[0] for line in (ROOT / "tests" / "unreached.txt").read_text().splitlines() if line and not line.startswith("#")}


def named_in(node: ast.AST) -> Iterator[str]:
    for inner in ast.walk(node):
        if isinstance(inner, ast.Name):
            yield inner.id
        elif isinstance(inner, ast.Attribute):
            yield inner.attr


def declared_in(tree: ast.Module) -> Iterator[tuple[str, ast.stmt, bool]]:
    """Names of a module, what each is made of, and whether it is a function or a class."""
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            yield node.name, node, True
        elif isinstance(node, ast.Assign | ast.AnnAssign):
            for target in node.targets if isinstance(node, ast.Assign) else [node.target]:
                if isinstance(target, ast.Name):
                    yield target.id, node, False


def unreached() -> set[str]:
    uses: dict[str, set[str]] = defaultdict(set)
    public = set()
    for path in CORE:
        for name, node, is_rule in declared_in(ast.parse(path.read_text())):
            uses[name] |= set(named_in(node)) - {name}
            if is_rule and not name.startswith("_"):
                public.add(name)
    waiting = {name for path in PRODUCT for name in named_in(ast.parse(path.read_text())) if name in uses}
    reached: set[str] = set()
    while waiting:
        name = waiting.pop()
        reached.add(name)
        waiting |= {inner for inner in uses[name] if inner in uses} - reached
    return public - reached


def test_every_rule_is_called_or_listed() -> None:
    assert unreached() - LISTED == set(), "wire it, delete it, or list it with the act that will call it"


def test_the_list_only_shrinks() -> None:
    assert LISTED - unreached() == set(), "these are called now: take them off tests/unreached.txt"
    assert len(LISTED) <= 30
