"""What a worker has at hand before its first case.

Importing this simulates a small room, so that everything compiled is there. The process that workers are forked from imports it once
(`pool`), and each worker begins with it.
"""

from eurythm.study.runner import load

load()
