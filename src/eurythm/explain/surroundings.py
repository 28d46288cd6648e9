"""What each thing around hides from the building over a year, and what can be left out since it hides nothing."""

from __future__ import annotations

from dataclasses import dataclass, replace

from eurythm.explain.case import Case
from eurythm.simulate import Prepared, run_many

BATCH = 16
KINDS = ("boxes", "footprints", "trees")
NOTHING_KWH_M2 = 0.05
"""Below this much light a year per m2 of outdoor face, a thing hides nothing that counts: our own assumption."""


@dataclass(frozen=True)
class Hidden:
    """One thing around.

    Attributes
    ----------
    kind, id, name : as in the place
    kwh : light on all outdoor faces that comes in addition without it, a year, net of what it reflects
    share : the same of all light on them with everything standing
    energy_kwh_m2 : by how much the delivered energy changes without it, per m2 of floor
    counts : it counts now
    """

    kind: str
    id: str
    name: str
    kwh: float
    share: float
    energy_kwh_m2: float
    counts: bool


@dataclass(frozen=True)
class Surroundings:
    """All things around by what they hide, most first; and the change that comes when those that hide nothing are left out.

    Attributes
    ----------
    idle : ids of those that hide nothing that counts
    change_kwh_m2 : change of the delivered energy without all of these together
    """

    things: tuple[Hidden, ...]
    idle: tuple[str, ...]
    change_kwh_m2: float


def what_hides(case: Case) -> Surroundings:
    """Take each thing around away in turn and see what more falls on the building. Raises EurythmError."""
    base = _without(case, set())
    outdoor = {f.id: f.area for f in base.building.faces if f.boundary == "outdoors"}

    def light(made: Prepared) -> float:
        return sum(float(made.light[face].wall.sum()) / 1000 * area for face, area in outdoor.items())

    whole = light(base)
    energy = run_many([base])[0].totals["eui_kwh_per_m2"]
    around = [(kind, thing) for kind in KINDS for thing in getattr(case.place, kind)]
    things: list[Hidden] = []
    for start in range(0, len(around), BATCH):
        lot = around[start : start + BATCH]
        prepared = [_without(case, {(kind, thing.id)}) for kind, thing in lot]
        for (kind, thing), made, summary in zip(lot, prepared, run_many(prepared), strict=True):
            more, change = light(made) - whole, summary.totals["eui_kwh_per_m2"] - energy
            things.append(Hidden(kind, thing.id, thing.name or thing.id, more, more / whole if whole > 0 else 0.0, change, thing.counts))
    facade = sum(outdoor.values())
    idle = tuple(t.id for t in things if abs(t.kwh) < NOTHING_KWH_M2 * facade)
    change = 0.0
    if idle:
        left = _without(case, {(t.kind, t.id) for t in things if t.id in idle})
        change = run_many([left])[0].totals["eui_kwh_per_m2"] - energy
    return Surroundings(tuple(sorted(things, key=lambda t: -t.kwh)), idle, change)


def _without(case: Case, out: set[tuple[str, str]]) -> Prepared:
    """The case with everything around counting but some, ready for its heat balance."""
    counting = {kind: tuple(t.model_copy(update={"counts": (kind, t.id) not in out}) for t in getattr(case.place, kind)) for kind in KINDS}
    return replace(case, place=case.place.model_copy(update=counting)).prepared()
