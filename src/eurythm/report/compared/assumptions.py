"""What a report says of values that nobody gave."""

from __future__ import annotations

from collections.abc import Sequence

from eurythm.brief.assumed import Assumed, assumed_values
from eurythm.explain.ranking import Ranked
from eurythm.model.amount import amount
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme
from eurythm.report.compared.content import StillAssumed


def still_assumed(project: Project, scheme: Scheme, ranked: Sequence[Ranked] | None) -> tuple[StillAssumed, ...]:
    """Return every assumed value of a scheme, those first that move its energy most; in the register's order where they were not ranked."""
    if ranked is None:
        return tuple(_told(one, None) for one in assumed_values(project, scheme))
    found = sorted(ranked, key=lambda r: -r.span["eui_kwh_per_m2"])
    known = {r.assumed.path for r in found}
    rest = [one for one in assumed_values(project, scheme) if one.path not in known]
    return (*(_told(r.assumed, r.span["eui_kwh_per_m2"]) for r in found), *(_told(one, None) for one in rest))


def _told(one: Assumed, moves: float | None) -> StillAssumed:
    """An assumed value with what it belongs to, and the value as people say it."""
    known = isinstance(one.value, (int, float)) and not isinstance(one.value, bool)
    value = one.label or (amount(float(one.value), one.unit, one.digits) if known else str(one.value).replace("_", " "))
    return StillAssumed(", ".join(part for part in (one.title, one.part) if part), value, moves)
