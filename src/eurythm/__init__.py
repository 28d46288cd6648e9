"""Eurythm: from massing to a compared energy study.

For scripts and notebooks `open_project`, `demo` and `Project` stand here (`eurythm.script`, docs/scripting.md); nothing else is public.
The core (everything below `store`) knows nothing of HTTP, databases or screens.
"""

import os
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from eurythm.model.errors import EurythmError
    from eurythm.script import Project, demo, open_project

__version__ = "0.1.0"

os.environ.setdefault("OPENBLAS_THREAD_TIMEOUT", "4")
"""Threads of numpy's products sleep as soon as they are done. They else wait at full speed for the next one, some 30 ms each time, on a
processor that somebody needs; it is read when numpy is loaded."""

__all__ = ["EurythmError", "Project", "__version__", "demo", "open_project"]


def __getattr__(name: str) -> Any:
    """Import what scripts use when they ask for it: commands that do not need it start without."""
    if name == "EurythmError":
        from eurythm.model.errors import EurythmError

        return EurythmError
    if name in ("Project", "demo", "open_project"):
        from eurythm import script

        return getattr(script, name)
    raise AttributeError(f"module 'eurythm' has no attribute {name!r}")
