"""Kinds of study against known answers: what their cases are, and what they say of outcomes that are known."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import permutations, product
from typing import Any

import numpy as np
import pytest

from eurythm.assess.figures import figure_by, figures_of
from eurythm.climate.standin import standin_year
from eurythm.model.errors import EurythmError
from eurythm.model.reading import read_document
from eurythm.model.study import StudySpec
from eurythm.simulate import building_of, simulate
from eurythm.study.answers import answer
from eurythm.study.drivers import shares_of
from eurythm.study.kinds import KINDS
from eurythm.study.kinds.search import covered, generations
from eurythm.study.levers import CaseInputs
from eurythm.study.matters import unbettered
from eurythm.study.plan import case, check, count, in_order, inputs_of, rows_of, shown, step_labels
from eurythm.study.runner import InProcess, Job
from eurythm.study.table import CaseTable, lever_columns
from eurythm.study.whole import run_study
from tests.conftest import make_scheme, volume
from tests.core.test_study import inputs

SIDES = ("north", "east", "south", "west")
GLASS = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "low": 0.0, "high": 0.9} for side in SIDES]
STEPS = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": [0.1, 0.3, 0.5, 0.7]} for side in SIDES]
HEAT = {"kind": "field", "path": "use/heating_c", "steps": [18, 19, 20, 21]}
ENERGY, COST = "eui_kwh_per_m2", "cost_per_m2"


def asked(kind: str, levers: Sequence[dict], **more: Any) -> StudySpec:
    return read_document(StudySpec, {"name": "S", "kind": kind, "levers": list(levers), **more})


def known(
    study: StudySpec, function: Callable[[np.ndarray], np.ndarray], other: Callable[[np.ndarray], np.ndarray] | None = None
) -> CaseTable:
    """A table whose outcomes are functions of the values that its cases take, read from their documents as a simulation would."""
    cases = in_order(study)
    taken = {}
    for one in cases:
        skin = inputs_of(study, one, inputs()).scheme.skin
        taken[one.number] = [getattr(skin.glazing_ratio, side) for side in SIDES]
    x = np.array([taken[n] for n in range(len(taken))])
    table = CaseTable(lever_columns(study), rows_of(study), (ENERGY, COST))
    for number, (a, b) in enumerate(zip(function(x), (other or function)(x), strict=True)):
        table.finish(number, {ENERGY: float(a), COST: float(b)})
    return table


def linear(x: np.ndarray) -> np.ndarray:
    return 100.0 + 50.0 * x[:, 0] - 20.0 * x[:, 1] + 5.0 * x[:, 2]


def ishigami(x: np.ndarray) -> np.ndarray:
    """Ishigami and Homma 1990, a = 7, b = 0.1, on glazing ratios of 0 to 0.9 as -pi to pi."""
    z = (x / 0.9 * 2 - 1) * math.pi
    return np.sin(z[:, 0]) + 7 * np.sin(z[:, 1]) ** 2 + 0.1 * z[:, 2] ** 4 * np.sin(z[:, 0])


def test_elementary_effects_of_a_linear_function_are_its_slopes() -> None:
    study = asked("sensitivity", GLASS, size=6)
    told = answer(study, known(study, linear), ENERGY, COST)
    by_lever = {e.lever.rpartition("/")[2]: e.figures for e in told.effects}
    for side, slope in zip(SIDES, (50.0, -20.0, 5.0, 0.0), strict=True):
        assert by_lever[side]["mean"] == pytest.approx(slope * 0.9, abs=1e-9)
        assert by_lever[side]["mean_size"] == pytest.approx(abs(slope) * 0.9, abs=1e-9)
        assert by_lever[side]["spread"] == pytest.approx(0.0, abs=1e-9)
    assert [e.lever.rpartition("/")[2] for e in told.effects][:2] == ["north", "east"]
    assert count(study) == len(rows_of(study)) == 6 * 5


def test_variance_of_the_ishigami_function_is_shared_as_its_closed_form_says() -> None:
    study = asked("sensitivity", GLASS, size=1024, method="variance")
    told = answer(study, known(study, ishigami), ENERGY, COST)
    by_lever = {e.lever.rpartition("/")[2]: e.figures for e in told.effects}
    whole = 49 / 8 + 0.1 * math.pi**4 / 5 + 0.01 * math.pi**8 / 18 + 0.5
    first = {"north": 0.5 * (1 + 0.1 * math.pi**4 / 5) ** 2 / whole, "east": 49 / 8 / whole, "south": 0.0, "west": 0.0}
    both = 8 * 0.01 * math.pi**8 / 225 / whole
    total = {"north": first["north"] + both, "east": first["east"], "south": both, "west": 0.0}
    for side in SIDES:
        assert by_lever[side]["first"] == pytest.approx(first[side], abs=0.03)
        assert by_lever[side]["total"] == pytest.approx(total[side], abs=0.03)


def test_a_sample_tells_the_slopes_of_a_linear_function_and_the_order_of_its_levers() -> None:
    study = asked("sample", GLASS, size=64)
    told = answer(study, known(study, linear), ENERGY, COST)
    assert told.fit == pytest.approx(1.0)
    assert [(e.lever.rpartition("/")[2], pytest.approx(e.figures["slope"], abs=1e-6)) for e in told.effects] == [
        ("north", 45.0),
        ("east", -18.0),
        ("south", 4.5),
        ("west", 0.0),
    ]
    apart = [e.figures["distribution"] for e in told.effects]
    assert apart[0] == max(apart)
    north = told.effects[0].means
    assert None not in north
    assert np.corrcoef(np.arange(10), np.array(north, dtype=float))[0, 1] > 0.9


def test_a_larger_sample_begins_with_the_smaller_one() -> None:
    levers = [*GLASS[:2], HEAT]
    for method in ("sobol", "halton"):
        small, large = (rows_of(asked("sample", levers, size=size, seed=7, method=method)) for size in (40, 300))
        assert np.array_equal(large[:40], small)
        assert not np.array_equal(rows_of(asked("sample", levers, size=40, seed=8, method=method)), small)
    assert large[:, 2].astype(int).tolist().count(0) == pytest.approx(75, abs=8)  # every step about as often
    assert 0.0 <= large[:, 0].min() < 0.02
    assert 0.88 < large[:, 0].max() <= 0.9


def test_what_is_left_out_is_neither_combined_nor_drawn() -> None:
    out = [{"when": [{"lever": "skin/glazing_ratio/north", "steps": [0.7]}, {"lever": "skin/glazing_ratio/east", "steps": [0.5, 0.7]}]}]
    study = asked("every", STEPS[:2], left_out=out)
    steps = {c.steps for c in in_order(study)}
    assert count(study) == len(steps) == 14
    assert steps == {pair for pair in product([0.1, 0.3, 0.5, 0.7], repeat=2) if pair not in {(0.7, 0.5), (0.7, 0.7)}}
    drawn = asked("sample", STEPS[:2], left_out=out, size=100)
    assert {c.steps for c in in_order(drawn)} == steps
    assert len(rows_of(drawn)) == 100
    with pytest.raises(EurythmError, match="leave every combination out"):
        check(asked("every", STEPS[:1], left_out=[{"when": [{"lever": STEPS[0]["path"], "steps": STEPS[0]["steps"]}]}]), inputs())


def test_tied_levers_take_their_steps_together() -> None:
    tied = [lever | {"tied": "sides"} for lever in STEPS[:2]] + [HEAT]
    study = asked("every", tied)
    check(study, inputs())
    assert count(study) == 16
    assert all(one.steps[0] == one.steps[1] for one in in_order(study))
    drawn = asked("sample", [lever | {"tied": "sides"} for lever in GLASS[:2]] + [HEAT], size=50)
    assert all(one.steps[0] == one.steps[1] for one in in_order(drawn))
    effects = answer(drawn, known(drawn, linear), ENERGY, COST).effects
    assert (effects[0].lever, effects[0].tied) == ("skin/glazing_ratio/north", ("skin/glazing_ratio/east",))
    assert effects[0].figures["slope"] == pytest.approx(30 * 0.9, abs=1e-6)


MEASURES = [
    {"id": "glass", "name": "Triple glass", "changes": [{"kind": "field", "path": "skin/glazing", "step": "triple-clear"}], "cost": 9000},
    {"id": "heat", "name": "Cooler winters", "changes": [{"kind": "field", "path": "use/heating_c", "step": 19}]},
    {
        "id": "shades",
        "name": "Shades and less glass",
        "changes": [{"kind": "overhang", "step": 1.0}, {"kind": "field", "path": "skin/glazing_ratio/west", "step": 0.2}],
    },
]


def test_measures_are_run_alone_together_and_in_every_mix() -> None:
    study = asked("measures", [], measures=MEASURES)
    views = check(study, inputs())
    assert [v.title for v in views] == ["Triple glass", "Cooler winters", "Shades and less glass"]
    rows = rows_of(study)
    assert rows.tolist()[:4] == [[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]]
    assert len({tuple(row) for row in rows.tolist()}) == count(study) == 8
    cases = {c.number: c for c in in_order(study)}
    assert step_labels(study, views, cases[0], inputs()) == ["baseline"]
    assert step_labels(study, views, cases[3], inputs()) == ["Shades and less glass"]
    made = inputs_of(study, cases[3], inputs()).scheme
    assert (made.skin.overhang_depth_m.south, made.skin.glazing_ratio.west) == (1.0, 0.2)
    assert made.skin.glazing == inputs().scheme.skin.glazing


def test_more_than_six_measures_are_run_with_and_without_each() -> None:
    many = [{"id": f"m{k}", "name": f"M{k}", "changes": [{"kind": "field", "path": path, "step": 0.2}]} for k, path in enumerate(
        [*(f"skin/glazing_ratio/{s}" for s in SIDES), *(f"skin/overhang_depth_m/{s}" for s in SIDES)]
    )]  # fmt: skip
    study = asked("measures", [], measures=many, bundles=[["m0", "m1"], ["m7"]])
    check(study, inputs())
    sums = rows_of(study).sum(axis=1).astype(int).tolist()
    assert sums == [0] + [1] * 8 + [7] * 8 + [8, 2]
    assert all(math.isnan(s) for s in shares_of(rows_of(study), np.arange(19.0))[2])


@pytest.mark.parametrize("seed", range(4))
def test_shares_are_the_mean_over_all_orders(seed: int) -> None:
    k = 4
    rows = np.array(list(product((0.0, 1.0), repeat=k)))
    value = {tuple(row): v for row, v in zip(rows.tolist(), np.random.default_rng(seed).normal(size=2**k), strict=True)}
    told = np.zeros(k)
    for order in permutations(range(k)):
        taken = [0.0] * k
        for i in order:
            before = value[tuple(taken)]
            taken[i] = 1.0
            told[i] += (value[tuple(taken)] - before) / math.factorial(k)
    alone, last, shares = shares_of(rows, np.array(list(value.values())))
    assert shares == pytest.approx(told)
    assert shares.sum() == pytest.approx(value[(1.0,) * k] - value[(0.0,) * k])
    assert alone[0] == pytest.approx(value[(1.0, 0.0, 0.0, 0.0)] - value[(0.0,) * k])
    assert last[0] == pytest.approx(value[(1.0,) * k] - value[(0.0, 1.0, 1.0, 1.0)])


def searched(study: StudySpec, functions: dict[str, Callable[[np.ndarray], float]]) -> np.ndarray:
    """Run a search on functions of its rows; return all rows that it asked for."""
    ran: list[np.ndarray] = []

    def came_to(numbers: range) -> list[dict[str, float | None]]:
        return [{name: f(ran[n]) for name, f in functions.items()} for n in numbers]

    for rows in generations(study, came_to):
        ran.extend(rows)
    return np.array(ran)


FIVE = [{"kind": "field", "path": f"skin/{name}/south", "steps": list(range(6 - k))} for k, name in enumerate("abcde")]
GOALS = [{"outcome": ENERGY}, {"outcome": COST}]


def bent(row: np.ndarray) -> float:
    return float(sum((v - k) ** 2 * (k + 1) for k, v in enumerate(row)) + 3 * math.sin(row[0] * row[1]))


def held(row: np.ndarray) -> float:
    return float(sum((v - 4) ** 2 for v in row) + 2 * math.cos(row[2] + row[3]))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_search_finds_the_front_of_a_full_factorial_with_a_fifth_of_its_cases(seed: int) -> None:
    sizes = [len(lever["steps"]) for lever in FIVE]
    every = np.array(list(product(*(range(n) for n in sizes))), dtype=float)
    study = asked("search", FIVE, goals=GOALS, size=600, seed=seed)
    ran = searched(study, {ENERGY: bent, COST: held})
    assert len(ran) == len({tuple(r) for r in ran.tolist()}) < len(every) / 5 * 4  # no case twice
    points = np.array([[bent(r), held(r)] for r in every])
    front = points[unbettered(points)]
    low, span = front.min(axis=0), np.ptp(front, axis=0)
    first = np.array([[bent(r), held(r)] for r in ran[: len(every) // 5]])
    found = first[unbettered(first)]
    assert covered((found - low) / span) >= 0.99 * covered((front - low) / span)


def test_a_search_keeps_to_its_limits_and_is_the_same_again() -> None:
    study = asked("search", FIVE, goals=GOALS, limits=[{"outcome": COST, "at_most": 20.0}], size=200)
    ran = searched(study, {ENERGY: bent, COST: held})
    assert np.array_equal(ran, searched(study, {ENERGY: bent, COST: held}))
    assert not np.array_equal(ran[:50], searched(study.model_copy(update={"seed": 2}), {ENERGY: bent, COST: held})[:50])
    within = [r for r in ran if held(r) <= 20]
    assert len(within) > 3 * len(ran) * sum(held(r) <= 20 for r in every_row()) / len(every_row())
    assert min(bent(r) for r in within) == min(bent(r) for r in every_row() if held(r) <= 20)


def every_row() -> list[np.ndarray]:
    return [np.array(r, dtype=float) for r in product(*(range(len(lever["steps"])) for lever in FIVE))]


def test_a_search_on_ranges_and_under_conditions_asks_for_nothing_left_out() -> None:
    out = [{"when": [{"lever": HEAT["path"], "steps": [21]}]}]
    study = asked("search", [*GLASS[:2], HEAT], goals=[{"outcome": ENERGY}], left_out=out, size=150)
    check(study, inputs())
    ran = searched(study, {ENERGY: lambda r: float((r[0] - 0.4) ** 2 + (r[1] - 0.1) ** 2 + r[2])})
    assert not (ran[:, 2] == 3).any()
    best = ran[np.argmin((ran[:, 0] - 0.4) ** 2 + (ran[:, 1] - 0.1) ** 2 + ran[:, 2])]
    assert best == pytest.approx([0.4, 0.1, 0.0], abs=0.05)


def test_the_nearest_case_is_told_where_none_keeps_the_limits() -> None:
    study = asked("search", GLASS, goals=GOALS, limits=[{"outcome": ENERGY, "at_most": 10.0}], size=64)
    table = known(study, linear)
    told = answer(study, table, ENERGY, COST)
    least = int(np.argmin(table.figures[ENERGY]))
    assert (told.best, told.nearest) == ([], least)
    assert told.missed[0].by == pytest.approx(table.figures[ENERGY][least] - 10.0)


@pytest.mark.parametrize(
    ("study", "code"),
    [
        (("every", []), "no-levers"),
        (("every", GLASS), "range-without-steps"),
        (("sample", GLASS, {"size": 1}), "wrong-size"),
        (("sample", GLASS, {"size": 10**6}), "wrong-size"),
        (("sensitivity", GLASS[:1]), "one-lever"),
        (("sensitivity", GLASS, {"method": "variance", "size": 100}), "no-power-of-two"),
        (("search", GLASS), "no-goals"),
        (("search", GLASS, {"goals": [{"outcome": ENERGY}, {"outcome": ENERGY}]}), "goal-twice"),
        (("search", GLASS, {"goals": [{"outcome": "beauty"}]}), "no-such-figure"),
        (("search", GLASS, {"goals": [{"outcome": "conditioned_floor_area_m2"}]}), "no-sense"),
        (("search", GLASS, {"goals": GOALS, "limits": [{"outcome": "noise", "at_most": 1}]}), "no-such-figure"),
        (("every", [STEPS[0] | {"tied": "t"}, HEAT | {"tied": "t", "steps": [19, 20]}]), "tied-unlike"),
        (("every", STEPS[:1], {"left_out": [{"when": [{"lever": "turn", "steps": [0]}]}]}), "no-such-lever"),
        (("every", STEPS[:1], {"left_out": [{"when": [{"lever": STEPS[0]["path"], "steps": [0.2]}]}]}), "no-such-step"),
        (("sample", [{"kind": "field", "path": "skin/glazing", "low": 0, "high": 1}]), "wrong-field"),
        (("measures", []), "no-measures"),
        (("measures", STEPS[:1], {"measures": MEASURES}), "levers-beside-measures"),
        (("measures", [], {"measures": [*MEASURES, MEASURES[0]]}), "measure-twice"),
        (("measures", [], {"measures": MEASURES, "bundles": [["paint"]]}), "no-such-measure"),
        (("measures", [], {"measures": [*MEASURES, {"id": "g", "name": "G", "changes": MEASURES[0]["changes"]}]}), "levers-collide"),
        (("measures", [], {"measures": [MEASURES[0], MEASURES[0] | {"id": "again"}]}), "levers-collide"),
        (("measures", [], {"measures": [MEASURES[0] | {"changes": MEASURES[0]["changes"] * 2}]}), "levers-collide"),
        (("every", STEPS[:1], {"outcomes": ["noise"]}), "no-such-figure"),
        (("every", STEPS[:1], {"outcomes": ["zone_too_warm_h"]}), "no-such-figure"),
        (("every", STEPS[:1], {"outcomes": ["zone_too_warm_h@cellar"]}), "no-such-zone"),
        (("search", GLASS, {"goals": [{"outcome": "zone_solar_kwh@*"}]}), "no-sense"),
    ],
)  # fmt: skip
def test_questions_that_cannot_be_answered_are_refused(study: tuple[Any, ...], code: str) -> None:
    kind, levers, *more = study
    with pytest.raises(EurythmError) as fault:
        check(asked(kind, levers, **(more[0] if more else {})), inputs())
    assert fault.value.code == code


@pytest.mark.parametrize("lever", [{"low": 0.5, "high": 0.2}, {"low": 0.5}, {"steps": []}, {"steps": [0.1], "low": 0, "high": 1}])
def test_a_lever_has_steps_or_a_range_that_goes_upward(lever: dict) -> None:
    with pytest.raises(EurythmError, match=r"range|steps"):
        asked("sample", [{"kind": "field", "path": "skin/glazing_ratio/south", **lever}])


def test_a_lever_whose_field_a_scheme_lacks_is_named() -> None:
    lost = {"kind": "field", "path": "volumes/tower/form/length", "steps": [1]}
    with pytest.raises(EurythmError, match="volumes/tower/form/length"):
        check(asked("every", [lost]), inputs())


def test_every_kind_runs_through_the_engine_and_tells_by_its_own_method() -> None:
    made = {
        "every": asked("every", [HEAT | {"steps": [19, 20]}]),
        "measures": asked("measures", [], measures=MEASURES[:2]),
        "sample": asked("sample", GLASS[:2], size=6),
        "elementary": asked("sensitivity", GLASS[:2], size=2),
        "search": asked("search", STEPS[:2], goals=[{"outcome": ENERGY}, {"outcome": "peak_cooling_w"}], size=32),
    }
    for method, study in made.items():
        check(study, inputs())
        ran = run_study(InProcess(), Job(study, inputs(), {}, "t"))
        assert all(r.status == "done" for r in ran.results)
        told = answer(study, ran.table(), ENERGY, COST)
        assert (told.method, told.why) == ("sample" if method == "search" else method, "")
        assert {e.lever for e in told.effects} == {v.key for v in shown(study, inputs())}
        assert told.best
        if method == "measures":
            alone = {e.lever: e.figures for e in told.effects}
            base, glass, _, both = (float(v) for v in ran.table().figures[ENERGY])
            assert alone["glass"]["alone"] == pytest.approx(glass - base)
            assert alone["heat"]["last"] == pytest.approx(both - glass)
            assert alone["heat"]["share"] + alone["glass"]["share"] == pytest.approx(both - base)


def test_every_kind_of_the_model_has_its_class() -> None:
    assert set(KINDS) == {"every", "measures", "sample", "sensitivity", "search"}
    assert figure_by(ENERGY).sense == "less"


def test_outcomes_of_single_zones_are_those_of_a_run_alone() -> None:
    four = scheme_of_cores()
    zones = [z.id for z in building_of(four.place, four.scheme).zones]
    wanted = [f"{figure.id}@{zone}" for figure in figures_of("zone") for zone in (zones[0], "*")]
    study = asked("every", STEPS[:2], outcomes=wanted)
    check(study, four)
    ran = run_study(InProcess(), Job(study, four, {}, "zones"))
    table = ran.table()
    for one in (3, 12):
        made = inputs_of(study, case(study, one), four)
        alone = simulate(made.place, made.library, made.scheme, made.factors, standin_year("merrowhaven"))
        for figure in figures_of("zone"):
            told = figure.each(alone)
            mine, most = table.column(f"{figure.id}@{zones[0]}")[one], table.column(f"{figure.id}@*")[one]
            assert mine == pytest.approx(told[zones[0]], rel=1e-5, abs=1.0 if figure.unit == "h" else 1e-4)
            assert most == pytest.approx(max(told.values()), rel=1e-5, abs=1.0 if figure.unit == "h" else 1e-4)


def test_a_search_can_mind_the_worst_zone() -> None:
    four = scheme_of_cores()
    worst = "zone_too_warm_h@*"
    study = asked("search", STEPS[:3], goals=[{"outcome": ENERGY}, {"outcome": worst}], size=32)
    check(study, four)
    ran = run_study(InProcess(), Job(study, four, {}, "worst"))
    table = ran.table()
    told = answer(study, table, ENERGY, worst)
    assert min(told.best, key=lambda n: table.column(worst)[n]) == int(np.lexsort((table.column(ENERGY), table.column(worst)))[0])


def scheme_of_cores() -> CaseInputs:
    base = inputs()
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core", form={"length": 30, "depth": 20})])
    return CaseInputs(base.place, base.library, base.factors, scheme, (scheme,))
