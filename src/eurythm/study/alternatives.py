"""Measures as alternatives: what each brings against the baseline in energy, comfort, carbon and money, alone, together and on top of the others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from eurythm.assess.figures import flat
from eurythm.assess.lifetime import Against, Bought, Years, against, said
from eurythm.assess.worth import years_told
from eurythm.model.errors import EurythmError
from eurythm.model.project import Factors
from eurythm.model.study import MeasureSpec, StudySpec
from eurythm.study.kinds import Rows

Told = Mapping[str, Any]
"""What a case came to, with its ``worth``."""


@dataclass(frozen=True)
class Alternative:
    """A case of a study of measures.

    Attributes
    ----------
    number : of the case
    taken : ids of the measures in it
    figures : by their ids; nothing of a case that failed or has not run
    held : over the years against the baseline; None of the baseline itself
    avoided_kg : carbon avoided over all years, products among it
    sentence : money in words
    without_cost : parts whose cost nobody knows, so that sums lack them
    """

    number: int
    taken: tuple[str, ...]
    figures: Mapping[str, float | None]
    held: Against | None
    avoided_kg: float
    sentence: str
    without_cost: tuple[str, ...]


def alternatives(study: StudySpec, rows: Rows, told: Sequence[Told | None], factors: Factors) -> list[Alternative]:
    """Return every case against the baseline, in the order of their numbers.

    A measure with a stated cost is paid with that, with its own life and upkeep, in place of what the cost table makes of the parts that it
    alone changes; of measures that change the same parts together, the difference stays with the cost table (our own assumption).

    Raises
    ------
    EurythmError
        ``no-baseline`` where the case without measures failed or has not run.
    """
    if not len(told) or told[0] is None:
        raise EurythmError("no-baseline", "The case without any measure has no result, so nothing can be held against it.", "cases")
    base = told[0]
    horizon, rate = factors.money.horizon_years, factors.money.discount_rate
    alone = {int(row.argmax()): one for row, one in zip(rows, told, strict=True) if row.sum() == 1}
    reference = years_told(base, factors)
    found = []
    for number, (row, one) in enumerate(zip(rows, told, strict=True)):
        members = [k for k, on in enumerate(row) if on]
        taken = tuple(study.measures[k].id for k in members)
        if one is None or number == 0:
            found.append(Alternative(number, taken, flat(one), None, 0.0, "", ()))
            continue
        years = _paid(study, members, one, base, alone, factors)
        avoided = base["worth"]["whole_life_kg"] - one["worth"]["whole_life_kg"]
        held = against(years, reference, rate, avoided)
        lacking = tuple(dict.fromkeys([*one["worth"]["without_cost"], *base["worth"]["without_cost"]]))
        found.append(Alternative(number, taken, flat(one), held, avoided, said(held, horizon, "the baseline"), lacking))
    return found


def _paid(study: StudySpec, members: Sequence[int], one: Told, base: Told, alone: Mapping[int, Told | None], factors: Factors) -> Years:
    """What is paid for a case in each year, stated costs of its measures in place of what the cost table says of the parts these change alone."""
    extra: list[Bought] = []
    for k in members:
        measure = study.measures[k]
        own = alone.get(k)
        if measure.cost is None:
            if measure.upkeep:
                extra.append(_stated(measure, 0.0))
            continue
        extra.append(_stated(measure, measure.cost))
        if own is not None:
            extra += [_bought(p, -1.0) for p in own["worth"]["parts"]] + [_bought(p, 1.0) for p in base["worth"]["parts"]]
    return years_told(one, factors, extra)


def _stated(measure: MeasureSpec, cost: float) -> Bought:
    """A measure as something bought; upkeep stands for itself where nothing is paid at first."""
    return Bought(measure.name, cost, None, measure.life_years, 0.0, upkeep=measure.upkeep)


def _bought(part: Mapping[str, Any], sign: float) -> Bought:
    cost = None if part["cost"] is None else sign * part["cost"]
    return Bought(part["name"], cost, None, part["life_years"], 0.0, upkeep=sign * part["upkeep"])
