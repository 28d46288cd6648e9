"""Eurythm: from massing to a compared energy study.

The core (everything below `store`) knows nothing of HTTP, databases or screens.
"""

import os

__version__ = "0.1.0"

os.environ.setdefault("OPENBLAS_THREAD_TIMEOUT", "4")
"""Threads of numpy's products sleep as soon as they are done. They else wait at full speed for the next one, some 30 ms each time, on a
processor that somebody needs; it is read when numpy is loaded."""
