"""A study as part of a report: its question in words, what matters, alternatives, and its cases by two figures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from eurythm.assess.compare import Units
from eurythm.assess.figures import Figure, figure_by
from eurythm.model.project import Factors
from eurythm.model.study import StudySpec
from eurythm.report.compared.content import StudyTold, shown
from eurythm.report.compared.pictures import scatter
from eurythm.study.alternatives import alternatives
from eurythm.study.answers import answer
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import shown as levers_shown
from eurythm.study.plan import zones_named
from eurythm.study.table import DONE, FAILED, CaseTable

KINDS = {
    "every": "Every combination of {levers}",
    "measures": "Measures: {levers}; every one alone, together and on top of the others",
    "sample": "A sample of {levers}",
    "sensitivity": "The sensitivity to {levers}",
    "search": "A search among {levers}",
}
SHOWN = ("eui_kwh_per_m2", "peak_cooling_w", "carbon_kg_per_m2")
MOST_POINTS = 3000
"""More cases than these are drawn as so many, taken evenly."""


def study_told(study: StudySpec, inputs: CaseInputs, table: CaseTable, told: Sequence[Mapping[str, Any] | None], units: Units) -> StudyTold:
    """Return what a report says of a study that was asked of some documents; `told` is what its cases came to, needed of measures alone."""
    views = levers_shown(study, inputs)
    titles = {v.key: v.title for v in views}
    x, y = _axes(study, zones_named(study, inputs))
    found = answer(study, table, y.id, x.id)
    done, failed = int((table.status == DONE).sum()), int((table.status == FAILED).sum())
    question = KINDS[study.kind].format(levers=", ".join(v.title for v in views))
    question += f": {done:,} cases" + (f", {failed:,} failed" if failed else "") + "."
    share = found.method == "variance"
    effects = [
        _effect(" with ".join(titles.get(k, k) for k in (e.lever, *e.tied)), e.figures, e.span, y, units, share) for e in found.effects
    ]
    unit = shown(0.0, y.shown_unit or y.unit, 0, units)[1]
    words = [found.why] if found.why else [f"Bars: how far {y.title.lower()} moves, {'share of its variance' if share else unit}."]
    head, rows = _alternatives(study, table, told, inputs.factors, titles, units) if study.kind == "measures" else ([], [])
    return StudyTold(study.name, question, effects, head, rows, _cases(table, x, y, found.best, units), words)


def _axes(study: StudySpec, zones: Mapping[str, str]) -> tuple[Figure, Figure]:
    goals = [g.outcome for g in study.goals]
    return figure_by(goals[1] if len(goals) > 1 else SHOWN[1], zones), figure_by(goals[0] if goals else SHOWN[0], zones)


def _effect(name: str, figures: Any, span: float, f: Figure, units: Units, share: bool) -> tuple[str, float, str]:
    value = float(next((figures[k] for k in ("share", "slope", "total", "mean") if k in figures), span))
    if share:
        return name, value, f"{value * 100:.0f}%"
    return name, value / f.per, shown(value / f.per, f.shown_unit or f.unit, f.digits, units)[0]


def _cases(table: CaseTable, x: Figure, y: Figure, best: list[int], units: Units) -> str:
    def axis(f: Figure) -> tuple[Any, str]:
        factor = float(shown(1e6, f.shown_unit or f.unit, 6, units)[0].replace(",", "")) / 1e6
        unit = shown(0.0, f.shown_unit or f.unit, 0, units)[1]
        return table.column(f.id) / f.per * factor, f"{f.title}, {unit}"

    (across, x_name), (up, y_name) = axis(x), axis(y)
    shown_of = np.arange(len(across))
    if len(across) > MOST_POINTS:
        kept = np.union1d(np.linspace(0, len(across) - 1, MOST_POINTS).astype(int), np.array(best, dtype=int))
        across, up, shown_of = across[kept], up[kept], kept
    at = {int(n): k for k, n in enumerate(shown_of)}
    return scatter(across, up, [at[n] for n in best if n in at], x_name, y_name)


def _alternatives(
    study: StudySpec,
    table: CaseTable,
    told_of: Sequence[Mapping[str, Any] | None],
    factors: Factors,
    titles: Mapping[str, str],
    units: Units,
) -> tuple[list[str], list[list[str]]]:
    found = alternatives(study, table.rows, told_of, factors)
    figures = [figure_by(name) for name in SHOWN]
    units_of = [shown(0.0, f.shown_unit or f.unit, 0, units)[1] for f in figures]
    head = ["Measure", *(f"{f.title}, {u}" for f, u in zip(figures, units_of, strict=True))]
    head += ["more to build, €", "saves a year, €", "paid back, years", f"gain in {factors.money.horizon_years} years, €", "€ a tonne"]
    told = []
    for one in found:
        if 1 < len(one.taken) < len(titles):
            continue
        name = "Baseline" if not one.taken else "All together" if len(one.taken) == len(titles) > 1 else titles[one.taken[0]]
        cells = [name]
        for f in figures:
            value = one.figures.get(f.id)
            cells.append("–" if value is None else shown(value / f.per, f.shown_unit or f.unit, f.digits, units)[0])
        held = one.held
        if held is None:
            told.append([*cells, *[""] * 5])
            continue
        back = held.discounted_payback_years
        cells += [f"{held.extra:,.0f}", f"{held.saving:,.0f}", "never" if back is None else f"{back:.1f}", f"{held.net_present_value:,.0f}"]
        told.append([*cells, "–" if held.cost_per_tonne is None else f"{held.cost_per_tonne:,.0f}"])
    return head, told
