"""The process that reads one file: ``python -m eurythm.exchange.intake.worker FILE NAME ASK OUT MEMORY``.

It tells how far it is as JSON lines on standard output; the last line is the error, where there was one.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path


def main() -> None:
    """Read the file, write what it holds; exit 0 when done, 2 for bad input."""
    source, name, ask, target, memory = sys.argv[1:6]
    limit = int(memory)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, limit))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    def tell(**line: object) -> None:
        print(json.dumps(line), flush=True)

    from eurythm.exchange.intake.readers import read
    from eurythm.model.errors import EurythmError

    try:
        received = read(Path(source), name, json.loads(ask), lambda share, what: tell(share=round(share, 3), what=what))
    except EurythmError as fault:
        tell(error=fault.as_dict())
        sys.exit(2)
    except MemoryError:
        tell(error={"code": "too-large", "path": name, "message": f"“{name}” needs more memory than an import may take."})
        sys.exit(2)
    Path(target).write_text(received.model_dump_json(), encoding="utf-8")


if __name__ == "__main__":
    main()
