"""The command line as tests call it."""

from __future__ import annotations

import io
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from unittest.mock import patch

from eurythm.cli.main import main


def eurythm(*arguments: object) -> subprocess.CompletedProcess[str]:
    """Run a command in this process, which spares it from loading everything anew; `in_a_process` does as a shell would."""
    words = ["eurythm", *map(str, arguments)]
    said, told, code = io.StringIO(), io.StringIO(), 0
    with patch.object(sys, "argv", words), redirect_stdout(said), redirect_stderr(told):
        try:
            main()
        except SystemExit as end:
            code = int(end.code or 0)
    return subprocess.CompletedProcess(words, code, said.getvalue(), told.getvalue())


def in_a_process(*arguments: object) -> subprocess.CompletedProcess[str]:
    """Run a command in a process of its own."""
    call = [sys.executable, "-m", "eurythm.cli.main", *map(str, arguments)]
    return subprocess.run(call, capture_output=True, text=True, timeout=250, check=False)
