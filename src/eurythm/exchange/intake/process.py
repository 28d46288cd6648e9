"""Reading a file in a process of its own, with a time and a memory limit: a crash or a hang ends the import, nothing else."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from eurythm.exchange.drawing import Drawing
from eurythm.exchange.ifc.requirements import Requirements
from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers import reader_of
from eurythm.model.errors import EurythmError

Progress = Callable[[float, str], None]
POLL_S = 0.05
MOST_READ_BYTES = 100_000_000
"""What a reader may write: all of it is held as objects."""


@dataclass(frozen=True)
class Limits:
    """What one import may take: seconds, and bytes of memory."""

    seconds: float = 600.0
    memory: int = 2_000_000_000


class Cancelled(Exception):
    """The import was called off."""


def read_apart(
    path: Path,
    name: str,
    ask: Mapping[str, str] | None = None,
    limits: Limits | None = None,
    progress: Progress = lambda share, what: None,
    stop: threading.Event | None = None,
) -> Received:
    """Read a model in another process; see `_apart` for what is raised."""
    reader_of(path, name)
    return Received.model_validate_json(_apart("model", path, name, ask or {}, limits or Limits(), progress, stop))


def read_plan_apart(path: Path, name: str, limits: Limits | None = None) -> Drawing:
    """Read a DXF plan, or a picture, in another process; see `_apart` for what is raised."""
    body = _apart("plan", path, name, {}, limits or Limits(seconds=120), lambda share, what: None, None)
    return Drawing.model_validate_json(body)


def check_apart(path: Path, name: str, specification: Path | None = None, limits: Limits | None = None) -> Requirements:
    """Check a model against an IDS file in another process; see `_apart` for what is raised."""
    ask = {} if specification is None else {"ids": str(specification.resolve())}
    body = _apart("requirements", path, name, ask, limits or Limits(seconds=300), lambda share, what: None, None)
    return Requirements.model_validate_json(body)


def _apart(
    task: str, path: Path, name: str, ask: Mapping[str, str], limits: Limits, progress: Progress, stop: threading.Event | None
) -> bytes:
    """Run a reader in another process and return what it wrote.

    Raises
    ------
    EurythmError
        What the reader found wrong, or ``import-took-too-long``, ``import-broke``.
    Cancelled
        When `stop` was set.
    """
    with tempfile.TemporaryDirectory(prefix="eurythm-import-") as folder:
        target = Path(folder) / "received.json"
        command = [
            sys.executable,
            "-m",
            "eurythm.exchange.intake.worker",
            task,
            str(path.resolve()),
            name,
            json.dumps(dict(ask)),
            str(target),
            str(limits.memory),
        ]
        with subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, text=True, cwd=folder
        ) as process:
            told: list[dict[str, object]] = []
            listener = threading.Thread(target=_listen, args=(process, told, progress), daemon=True)
            listener.start()
            try:
                _wait(process, limits, name, stop)
            finally:
                if process.poll() is None:
                    process.kill()
                    process.wait()
            listener.join(timeout=5)
        error = next((line["error"] for line in reversed(told) if "error" in line), None)
        if isinstance(error, dict):
            raise EurythmError(str(error["code"]), str(error["message"]), str(error["path"]))
        if process.returncode != 0 or not target.is_file():
            raise EurythmError("import-broke", f"Reading “{name}” broke off; the file may be damaged, or too large to be read here.", name)
        if target.stat().st_size > MOST_READ_BYTES:
            raise EurythmError(
                "too-large", f"What “{name}” holds comes to more than {MOST_READ_BYTES / 1e6:.0f} MB as an energy model.", name
            )
        return target.read_bytes()


def _wait(process: subprocess.Popen[str], limits: Limits, name: str, stop: threading.Event | None) -> None:
    started = time.monotonic()
    while process.poll() is None:
        if stop is not None and stop.is_set():
            raise Cancelled
        if time.monotonic() - started > limits.seconds:
            raise EurythmError("import-took-too-long", f"Reading “{name}” took longer than {limits.seconds:.0f} s and was ended.", name)
        time.sleep(POLL_S)


def _listen(process: subprocess.Popen[str], told: list[dict[str, object]], progress: Progress) -> None:
    assert process.stdout is not None
    for line in process.stdout:
        try:
            said = json.loads(line)
        except ValueError:
            continue
        if not isinstance(said, dict):
            continue
        if "share" in said:
            progress(float(said["share"]), str(said.get("what", "")))
        else:
            told.append(said)
