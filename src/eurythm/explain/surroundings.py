"""What each thing around hides from the building over a year, and what can be left out since it hides nothing."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.explain.case import Case
from eurythm.model.place import Place
from eurythm.simulate import Prepared, run_many

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
    place = _counting(case.place, None)
    base = _prepared(case, place)
    outdoor = {f.id: f.area for f in base.building.faces if f.boundary == "outdoors"}

    def light(one: Case) -> float:
        made = one.prepared()
        return sum(float(made.light[face].wall.sum()) / 1000 * area for face, area in outdoor.items())

    whole = light(_case(case, place))
    named = [(kind, thing.id, thing.name, thing.counts) for kind in KINDS for thing in getattr(case.place, kind)]
    without = [_case(case, _counting(case.place, {(kind, id)})) for kind, id, _, _ in named]
    summaries = run_many([base, *(c.prepared() for c in without)])
    energy = [s.totals["eui_kwh_per_m2"] for s in summaries]
    things = []
    for (kind, id, name, counts), other, now in zip(named, without, energy[1:], strict=True):
        more = light(other) - whole
        things.append(Hidden(kind, id, name or id, more, more / whole if whole > 0 else 0.0, now - energy[0], counts))
    facade = sum(outdoor.values())
    idle = tuple(t.id for t in things if abs(t.kwh) < NOTHING_KWH_M2 * facade)
    change = 0.0
    if idle:
        left = _counting(case.place, {(t.kind, t.id) for t in things if t.id in idle})
        change = run_many([_prepared(case, left)])[0].totals["eui_kwh_per_m2"] - energy[0]
    return Surroundings(tuple(sorted(things, key=lambda t: -t.kwh)), idle, change)


def _counting(place: Place, out: set[tuple[str, str]] | None) -> Place:
    """The place with everything counting but some."""
    return place.model_copy(
        update={
            kind: tuple(t.model_copy(update={"counts": (kind, t.id) not in (out or set())}) for t in getattr(place, kind)) for kind in KINDS
        }
    )


def _case(case: Case, place: Place) -> Case:
    return Case(place, case.library, case.scheme, case.factors, case.climate)


def _prepared(case: Case, place: Place) -> Prepared:
    return _case(case, place).prepared()
