"""What a worker has at hand before its first case.

Importing this simulates a small room, so that everything compiled is there. The process that workers are forked from imports it once
(`pool`), and each worker begins with it. That process ends with the one that started it: it else lived as long as a worker that stands still.
"""

import sys

from eurythm.study.runner import load
from eurythm.study.watching import end_with_parent_by_alarm

load()
if sys.platform == "linux":
    end_with_parent_by_alarm()
