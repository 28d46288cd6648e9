"""What a report of compared cases says: every figure as on the screens, in the units of its reader, ready to be set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from eurythm.assess.attribution import attribution
from eurythm.assess.compare import USE_NAMES, Units, hour_in_words, in_words, sentences
from eurythm.assess.facts import Documents, what_differs
from eurythm.assess.figures import Figure, figures_of
from eurythm.assess.worth import held_against
from eurythm.explain.case import Case
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.units import IP_OF, to_ip
from eurythm.report.compared.pictures import Bar, bars, form, stacked
from eurythm.simulate import run

SUBSTEPS = 4
"""Steps an hour of a report's figures, as those of Findings."""
MOST_CASES = 20
MOST_ASSUMED = 12
"""So many assumed values are named; all are counted."""
SOURCES_SHOWN = 7
"""The largest parts of a load that a picture names; the others are summed up."""
METHOD = (
    "Every case is an hourly heat balance of all zones over a climate year, with the sun and its shadows cast for each hour, "
    "windows by angle, mass by layers, and plant and prices after it. Peaks are from four steps an hour. "
    "Figures are meant to be held against each other: what all cases share, such as use and weather, moves each of them, but rarely their order."
)
LIMITS = "It compares early designs; it is no compliance calculation, no sizing of plant and no forecast of bills."


@dataclass(frozen=True, eq=False)
class Asked:
    """A case of the report: documents, what it is called, a note; or why it has none."""

    title: str
    subtitle: str
    case: Case | None
    note: str = ""
    fault: str = ""


@dataclass(frozen=True)
class StillAssumed:
    """A value that nobody gave: its name, the value, and how far the year moves over its usual range, kWh/m²; None where that is not known."""

    title: str
    value: str
    moves: float | None


@dataclass(frozen=True)
class StudyTold:
    """A study in the report: its question in words, effects as title and amount, the alternatives as rows of text, and a chart."""

    name: str
    question: str
    effects: Sequence[tuple[str, float, str]] = ()
    head: Sequence[str] = ()
    rows: Sequence[Sequence[str]] = ()
    chart: str = ""
    words: Sequence[str] = field(default_factory=list)


def content(
    project: str,
    asked: Sequence[Asked],
    units: Units = "SI",
    *,
    assumed: Sequence[StillAssumed] | None = None,
    study: StudyTold | None = None,
    title: str = "",
    today: date | None = None,
) -> dict[str, Any]:
    """Return what a report says, as plain data; the first case is the reference.

    Parameters
    ----------
    assumed : all values of the reference that nobody gave, in the order in which they are named; None where that is not told

    Raises
    ------
    EurythmError
        ``no-cases``, ``too-many-cases``; a case that cannot be worked out stands in it with its reason.
    """  # fmt: skip
    if not asked:
        raise EurythmError("no-cases", "Choose at least one case for the report.", "cases")
    if len(asked) > MOST_CASES:
        raise EurythmError("too-many-cases", f"A report holds at most {MOST_CASES} cases; {len(asked)} were asked for.", "cases")
    told = [_told(one, units) for one in asked]
    _differ(asked, told, units)
    figures = _figures([t.pop("outcome") for t in told], units)
    told_energy = [(t["title"], t["uses"]) for t in told if t["uses"]]
    return {
        "project": project,
        "title": title or "Comparison",
        "date": f"{(today or date.today()):%d %B %Y}".lstrip("0"),
        "units": units,
        "cases": told,
        "energy": {"picture": stacked(told_energy), "unit": shown(0.0, "kWh/m²", 1, units)[1]},
        "figures": figures,
        "study": None if study is None else _study(study),
        "assumed": None if assumed is None else _assumed(assumed, units),
        "method": METHOD,
        "limits": LIMITS,
    }


def shown(value: float, unit: str, digits: int, units: Units) -> tuple[str, str]:
    """Return an amount and its unit as its reader sees them."""
    if units == "IP" and unit in IP_OF:
        value, unit = to_ip(value, unit)[0], IP_OF[unit].unit
        digits = max(0, digits + IP_OF[unit].digits) if unit in IP_OF else digits
    return f"{value:,.{digits}f}".replace("-", "−"), unit


def _told(one: Asked, units: Units) -> dict[str, Any]:
    base: dict[str, Any] = {
        "title": one.title, "subtitle": one.subtitle, "note": one.note, "fault": said(one.fault, units), "outcome": None, "form": "",
        "remarks": [], "why": [], "facts": [], "sentences": [], "uses": [], "place": "",
    }  # fmt: skip
    if one.case is None or one.fault:
        return base
    case = one.case
    try:
        made = run(case.place, case.library, case.scheme, case.factors, case.climate, SUBSTEPS)
        taken = case.taken_apart(SUBSTEPS)
    except EurythmError as fault:
        return base | {"fault": said(fault.message, units)}
    outcome = made.outcome.as_dict()
    parts = attribution(taken.prepared.building, taken.prepared.arrays, taken.parts)
    area = outcome["totals"]["conditioned_floor_area_m2"]
    uses = [
        {"id": use, "name": USE_NAMES[use], "value": kwh / area, "text": shown(kwh / area, "kWh/m²", 1, units)[0]}
        for use, kwh in outcome["totals"]["energy_kwh"].items()
        if kwh > 0
    ]
    return base | {
        "outcome": outcome,
        "place": case.climate.location.city,
        "form": form(taken.prepared.building),
        "uses": uses,
        "remarks": [said(r["sentence"], units) for r in outcome["remarks"]],
        "why": [w for kind in ("heating", "cooling") if (w := _why(kind, parts, units))],
    }


def _why(kind: str, parts: Mapping[str, Any], units: Units) -> dict[str, str] | None:
    peak = parts["building"][kind]["peak"]
    if peak["at"] is None:
        return None
    names = {s["id"]: s["name"] for s in parts["sources"]}
    ranked = sorted(((names[k], v / 1000.0) for k, v in peak["parts_w"].items() if abs(v) > 1.0), key=lambda p: -abs(p[1]))
    rows = [Bar(name, value, *shown(value, "kW", 1, units)) for name, value in ranked[:SOURCES_SHOWN]]
    if rest := ranked[SOURCES_SHOWN:]:
        total = sum(v for _, v in rest)
        rows.append(Bar(f"{len(rest)} others", total, *shown(total, "kW", 1, units)))
    load, unit = shown(peak["load_w"] / 1000.0, "kW", 1, units)
    said_of = f"Peak {kind} {load} {unit}, {hour_in_words(peak['at'])}: what it is made of"
    return {"title": said_of, "picture": bars(rows)}


def _differ(asked: Sequence[Asked], told: list[dict[str, Any]], units: Units) -> None:
    sound = [k for k, t in enumerate(told) if t["outcome"] is not None]
    documents = [Documents(c.place, c.library, c.scheme) for k in sound if (c := asked[k].case) is not None]
    for k, facts in zip(sound, what_differs(documents), strict=True):
        told[k]["facts"] = [{"title": f.title, "text": _fact(f.text, f.value, f.unit, units)} for f in facts]
    base = told[0]["outcome"]
    first = asked[0]
    for k in sound[1:] if base is not None else []:
        mine, factors = told[k]["outcome"], first.case.factors if first.case else None
        told[k]["sentences"] = [said(s, units) for s in sentences(mine, base, first.title, units)]
        if factors is not None:
            told[k]["sentences"].append(held_against(mine, base, factors, first.title)["sentence"])


def _fact(text: str, value: float | None, unit: str, units: Units) -> str:
    if value is None:
        return text
    amount, name = to_ip(value, unit) if units == "IP" and unit in IP_OF else (value, unit)
    return f"{amount:.3g} {name}".strip()


def _figures(outcomes: Sequence[Mapping[str, Any] | None], units: Units) -> list[dict[str, Any]]:
    rows = []
    for f in figures_of("building"):
        if not f.findings and f.id != "conditioned_floor_area_m2":
            continue
        values = [None if o is None else f.known(o) for o in outcomes]
        if all(v is None or (f.needs and abs(v) < 1e-9) for v in values):
            continue
        base = values[0]
        unit = shown(0.0, f.shown_unit or f.unit, 0, units)[1]
        cells = [_cell(f, o, v, base if k else None, units) for k, (o, v) in enumerate(zip(outcomes, values, strict=True))]
        rows.append({"title": f.title, "unit": unit, "how": f.how, "cells": cells})
    return rows


def _cell(f: Figure, outcome: Mapping[str, Any] | None, value: float | None, base: float | None, units: Units) -> dict[str, Any]:
    if value is None or outcome is None:
        return {"text": "–", "hour": "", "than": "", "value": None}
    hour = hour_in_words(f.hour_of(outcome)) if f.hour and f.hour_of(outcome) else ""
    text, _ = shown(value / f.per, f.shown_unit or f.unit, f.digits, units)
    return {"text": text, "hour": hour, "than": in_words(value, base) if base is not None else "", "value": value / f.per}


def _assumed(values: Sequence[StillAssumed], units: Units) -> dict[str, Any]:
    def row(one: StillAssumed) -> dict[str, str]:
        moves = "" if one.moves is None else " ".join(shown(one.moves, "kWh/m²", 1, units))
        return {"title": one.title, "value": said(one.value, units), "moves": moves}

    ranked = any(one.moves is not None for one in values)
    count = f"{len(values)} {'value' if len(values) == 1 else 'values'}"
    if not values:
        sentence = "Nothing of the reference is assumed."
    elif ranked:
        sentence = f"{count} of the reference nobody gave. Those that move its energy most, over their usual ranges:"
    else:
        sentence = f"{count} of the reference nobody gave; how far they move its energy was not asked. Among them:"
    return {"sentence": sentence, "ranked": ranked, "rows": [row(one) for one in values[:MOST_ASSUMED]]}


def _study(study: StudyTold) -> dict[str, Any]:
    return {
        "name": study.name,
        "question": study.question,
        "effects": bars([Bar(name, value, text, "") for name, value, text in study.effects]) if study.effects else "",
        "head": list(study.head),
        "rows": [list(row) for row in study.rows],
        "chart": study.chart,
        "words": list(study.words),
    }
