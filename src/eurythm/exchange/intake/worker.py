"""The process that reads one file: ``python -m eurythm.exchange.intake.worker TASK FILE NAME ASK OUT MEMORY``.

TASK is ``model`` (anything that a scheme can be made of), ``plan`` (a DXF to trace over) or ``requirements`` (IFC against IDS).

It tells how far it is as JSON lines on standard output; the last line is the error, where there was one.
"""

from __future__ import annotations

import json
import re
import resource
import sys
from pathlib import Path

from pydantic import BaseModel


def main() -> None:
    """Read the file, write what it holds; exit 0 when done, 2 for bad input."""
    task, source, name, ask, target, memory = sys.argv[1:7]
    limit = int(memory)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, limit))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    def tell(**line: object) -> None:
        print(json.dumps(line), flush=True)

    from eurythm.study.watching import end_with_parent

    end_with_parent()
    from eurythm.exchange.readers import read
    from eurythm.model.errors import EurythmError

    def progress(share: float, what: str) -> None:
        tell(share=round(share, 3), what=what)

    found: BaseModel
    try:
        if task == "plan":
            from eurythm.exchange.dxf import read_dxf
            from eurythm.exchange.picture import ENDINGS, read_picture

            if name.lower().endswith(ENDINGS):
                found = read_picture(Path(source).read_bytes(), name)
            else:
                found = read_dxf(Path(source), name, progress)
        elif task == "requirements":
            from eurythm.exchange.ifc.requirements import check_requirements

            asked = json.loads(ask).get("ids")
            found = check_requirements(Path(source), name, Path(asked) if asked else None)
        else:
            found = read(Path(source), name, json.loads(ask), progress)
    except EurythmError as fault:
        tell(error=fault.as_dict())
        sys.exit(2)
    except MemoryError:
        tell(error={"code": "too-large", "path": name, "message": f"“{name}” needs more memory than an import may take."})
        sys.exit(2)
    Path(target).write_text(_shown(found.model_dump_json()), encoding="utf-8")


def _shown(text: str) -> str:
    """JSON without escaped control characters, which files hold by mistake and no name of ours may; a pair of backslashes is none of them."""
    return re.sub(r"(\\\\)|\\u00[01][0-9a-f]|[\x7f-\x9f]", lambda found: found[1] or " ", text)


if __name__ == "__main__":
    main()
