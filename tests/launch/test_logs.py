"""The log of a process: the file has all of it, the terminal what somebody has to see to."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

SAYING = """
import logging, sys
from almanac.launch.logs import log_to
from almanac.services.errors import Fault, Refused
log_to(sys.argv[1])
for error in (Refused(Fault("rule", "nothing to play yet")), ValueError("a true fault")):
    logging.getLogger("worker").error("work ended", exc_info=error)
"""


def test_an_answer_that_cannot_be_given_yet_is_kept_but_does_not_alarm_the_terminal(tmp_path: Path) -> None:
    said = subprocess.run([sys.executable, "-c", SAYING, str(tmp_path / "log")], capture_output=True, text=True, check=True)
    assert said.stderr.splitlines() == ["ERROR worker: work ended: a true fault"]
    assert "nothing to play yet" in (tmp_path / "log").read_text()
