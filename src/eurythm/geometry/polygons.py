"""Faces as plain polygons, for formats that know no holes."""

from __future__ import annotations

import numpy as np

from eurythm.geometry.building import Face, Vec
from eurythm.geometry.facing import flat_of
from eurythm.geometry.loops import without_holes


def loops_of(face: Face) -> list[Vec]:
    """Return a face as loops (n, 3) without holes, counter-clockwise seen from outside, m."""
    if len(face.loops) == 1:
        return [face.loops[0]]
    flat = flat_of(face, False)
    return [flat.out(np.asarray(p.exterior.coords)[:-1][:: 1 if p.exterior.is_ccw else -1]) for p in without_holes(flat.rest)]


def window_loops(face: Face) -> list[Vec]:
    """Return the windows of a face as loops (4, 3), m."""
    upward = np.cross(face.normal, face.along)
    loops = []
    for w in face.windows:
        corner = face.origin + face.along * w.s + upward * w.z
        across, up = face.along * w.width, upward * w.height
        loops.append(np.array([corner, corner + across, corner + across + up, corner + up]))
    return loops
