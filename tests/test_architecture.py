"""Rules of the house as tests: the tree, the contract of core functions, and that every module says what it is."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
MODULES = sorted((ROOT / "almanac").rglob("*.py"))
CORE = sorted((ROOT / "almanac" / "core").rglob("*.py"))
LONGEST_FILE, LONGEST_FUNCTION = 400, 75

WITHOUT_CONTRACT: set[str] = set()
"""Public core functions whose docstring names no errors although they check arguments. This list only shrinks."""


def _functions(path: Path) -> list[ast.FunctionDef]:
    tree = ast.parse(path.read_text())
    return [node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)]


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(ROOT)))
def test_a_module_says_what_it_is_and_is_short(path: Path) -> None:
    source = path.read_text()
    assert len(source.splitlines()) <= LONGEST_FILE
    if source.strip():
        assert ast.get_docstring(ast.parse(source)), f"{path} has no docstring"


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(ROOT)))
def test_functions_are_small(path: Path) -> None:
    for function in _functions(path):
        assert (function.end_lineno or 0) - function.lineno <= LONGEST_FUNCTION, f"{path}: {function.name}"


def test_public_core_functions_that_check_arguments_say_what_they_raise() -> None:
    silent = set()
    for path in CORE:
        for function in _functions(path):
            body, doc = ast.unparse(function), ast.get_docstring(function) or ""
            checks = "checks." in body.split('"""')[-1] and any(
                f"checks.{name}(" in body for name in ("vector", "number", "positive", "probability")
            )
            if checks and not function.name.startswith("_") and "Raises" not in doc and "raises" not in doc:
                silent.add(f"{path.relative_to(ROOT)}:{function.name}")
    assert silent == WITHOUT_CONTRACT


def test_every_public_core_function_has_a_docstring() -> None:
    missing = [
        f"{path.relative_to(ROOT)}:{function.name}"
        for path in CORE
        for function in ast.parse(path.read_text()).body
        if isinstance(function, ast.FunctionDef) and not function.name.startswith("_") and not ast.get_docstring(function)
    ]
    assert missing == []


def test_only_the_edges_commit() -> None:
    """Services and store flush; web, the command line and the launcher commit, once."""
    inner = [path for path in MODULES if path.parts[-2] in ("store", "services") or "services" in path.parts or "store" in path.parts]
    assert [path for path in inner if ".commit()" in path.read_text()] == []


def test_the_front_end_fetches_in_one_place_and_features_do_not_mix() -> None:
    source = ROOT / "frontend" / "src"
    files = [path for path in source.rglob("*.ts*") if path.name != "schema.d.ts"]
    assert [str(path) for path in files if re.search(r"\bfetch\(", path.read_text()) and path.parent.name != "api"] == []
    for path in (source / "features").rglob("*.ts*"):
        own = path.relative_to(source / "features").parts[0]
        for other in {"outlook", "models", "bench", "ledger", "rates", "imports", "session", "calibration", "scenarios"} - {own}:
            assert f"@/features/{other}/" not in path.read_text(), f"{path} imports from {other}"


def test_lock_files_name_no_hosts() -> None:
    assert "http" not in (ROOT / "requirements.lock").read_text()
    assert '"resolved"' not in (ROOT / "frontend" / "package-lock.json").read_text()


def test_schemas_have_names_of_their_own() -> None:
    """The client's types are named after the schema alone: two of one name would be one type."""
    names = [
        node.name
        for path in (ROOT / "almanac" / "web" / "schemas").glob("*.py")
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.ClassDef)
    ]
    assert sorted({name for name in names if names.count(name) > 1}) == []


def test_views_have_names_of_their_own() -> None:
    """A view's name is its operation in the API's description, and so a type of the client."""
    names = [
        node.name
        for path in (ROOT / "almanac" / "web" / "views").glob("*.py")
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.FunctionDef) and any("endpoint" in ast.unparse(item) for item in node.decorator_list)
    ]
    assert sorted({name for name in names if names.count(name) > 1}) == []


PACKAGE = ROOT / "almanac"
REMEMBERS = re.compile(r"^@cache\b|\b(?:lru_cache|LRUCache|TTLCache|functools\.cache)\b", re.MULTILINE)
CONSTANTS = {"services/accounts.py", "exchange/diagnosis/read.py", "services/intake/tickets/phrases.py"}
"""What is remembered here never changes while the program runs: a hash of nobody's password, files that ship with it."""


def test_nothing_remembers_but_the_cache_of_answers() -> None:
    found = {str(file.relative_to(PACKAGE)) for file in PACKAGE.rglob("*.py") if REMEMBERS.search(file.read_text())}
    assert found == {"services/answers/cache.py", *CONSTANTS}


def test_a_kept_reply_knows_nothing_of_who_asks() -> None:
    """It is made from its arguments alone: by a worker, for whoever asks."""
    from almanac.web import app  # noqa: F401 - registers every view
    from almanac.web.api import KEPT

    assert len(KEPT) > 10
    for view in KEPT.values():
        used = set(view.view.__code__.co_names)
        assert not used & {"current_user", "author_id", "request", "commit"}, view.name
