"""bin/load as it is called: a product of its own, people on it, and no error."""

from __future__ import annotations

import re

from click.testing import CliRunner

from almanac.bench.load import main


def test_a_few_people_load_a_product_that_is_started_for_them() -> None:
    result = CliRunner().invoke(main, ["--sessions", "3", "--seconds", "5", "--web", "1"])
    assert result.exit_code == 0, result.output
    assert re.search(r"1 web, 1 workers: outlook after [\d.]+ s, all of it after [\d.]+ s", result.output)
    runs = re.findall(r"([\d,]+) requests, \d+ a second, (\d+) errors", result.output)
    assert len(runs) == 2
    assert all(int(count.replace(",", "")) > 5 and errors == "0" for count, errors in runs), result.output
    assert "GET /api/v1/outlook" in result.output
