"""Masses to volumes: upright bodies become volumes with storeys; where two overlap, the later one gives way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations, pairwise
from typing import Any

import numpy as np
import shapely

from eurythm.exchange.intake.checks import called, levels_of, plan_of
from eurythm.exchange.intake.received import Finding, ReceivedSpace
from eurythm.geometry.clean import polygons_of
from eurythm.model.amount import amount

SHARED_M2 = 0.05
THIN = 0.05


@dataclass
class Cut:
    """Rooms that overlapping masses came to, which masses they replace, and what is to be said."""

    rooms: list[dict[str, Any]] = field(default_factory=list)
    taken: set[str] = field(default_factory=set)
    findings: list[Finding] = field(default_factory=list)


def masses_to_volumes(masses: Sequence[ReceivedSpace], ids: Mapping[str, str]) -> tuple[list[dict[str, Any]], Cut]:
    """Return volumes for upright masses, and rooms storey by storey for those that another one shares space with."""
    cut = Cut()
    upright = [m for m in masses if m.rings]
    overlapping: set[str] = set()
    for a, b in combinations(masses, 2):
        low_a, high_a = levels_of(a)
        low_b, high_b = levels_of(b)
        if min(high_a, high_b) - max(low_a, low_b) > THIN:
            shared = float(plan_of(a).intersection(plan_of(b)).area)
            if shared > SHARED_M2:
                overlapping |= {a.id, b.id}
                both = bool(a.rings and b.rings)
                how = "the later one gives way" if both else "one of them is not upright, so it was left as it is"
                sentence = f"“{called(a)}” and “{called(b)}” share {amount(shared, 'm²', 1)} of plan between the same levels; {how}."
                cut.findings.append(Finding(code="masses-overlap", object=b.id, sentence=sentence, mended=both))
    volumes = []
    earlier: list[ReceivedSpace] = []
    for mass in upright:
        cut.taken.add(mass.id)
        if mass.id in overlapping:
            cut.rooms += _pieces(mass, earlier, ids[mass.id])
        else:
            volumes.append(_volume(mass, ids[mass.id]))
        earlier.append(mass)
    return volumes, cut


def _volume(mass: ReceivedSpace, name: str) -> dict[str, Any]:
    count = int(mass.properties.get("storeys", 1))
    each = round(mass.height / count, 5)
    form = {"kind": "polygon", "points": _points(mass.rings[0], 0)}
    at = len(mass.rings[0])
    courts = []
    for ring in mass.rings[1:]:
        courts.append(_points(ring, at))
        at += len(ring)
    storeys = [{"id": f"s{k}", "name": f"Storey {k}", "height_m": each} for k in range(count)]
    return {
        "id": name,
        "name": mass.name,
        "form": form | ({"courts": courts} if courts else {}),
        "base_level_m": mass.level,
        "storeys": storeys,
    }


def _points(ring: Sequence[tuple[float, float]], first: int) -> list[dict[str, Any]]:
    return [{"id": f"e{first + k + 1}", "x": x, "y": y} for k, (x, y) in enumerate(ring)]


def _pieces(mass: ReceivedSpace, earlier: Sequence[ReceivedSpace], name: str) -> list[dict[str, Any]]:
    """What is left of a mass beside earlier ones, cut at its own storeys and at their feet and tops."""
    low, high = levels_of(mass)
    count = int(mass.properties.get("storeys", 1))
    cuts = {round(low + (high - low) * k / count, 4) for k in range(count + 1)}
    for other in earlier:
        cuts |= {round(z, 4) for z in levels_of(other) if low + THIN < z < high - THIN and plan_of(other).intersects(plan_of(mass))}
    levels = sorted(cuts)
    rooms = []
    for number, (bottom, top) in enumerate(pairwise(levels)):
        middle = (bottom + top) / 2
        taken = [plan_of(o) for o in earlier if levels_of(o)[0] < middle < levels_of(o)[1]]
        rest = shapely.difference(plan_of(mass), shapely.union_all(taken)) if taken else plan_of(mass)
        for k, piece in enumerate(p for p in polygons_of(rest) if p.area > 0.5):
            turned = shapely.geometry.polygon.orient(piece)
            outline: dict[str, Any] = {"points": _points(_ring(turned.exterior), 0), "z": bottom, "height": round(top - bottom, 4)}
            if turned.interiors:
                outline["courts"] = [_points(_ring(r), 1000 * (n + 1)) for n, r in enumerate(turned.interiors)]
            label = f"{name}-{number}" + (f"-{k + 1}" if k else "")
            rooms.append({"id": label, "name": f"{mass.name}, level {number}", "outline": outline, "by_ratio": True})
    return rooms


def _ring(ring: Any) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in np.round(np.asarray(ring.coords)[:-1], 5)]


__all__ = ["Cut", "masses_to_volumes"]
