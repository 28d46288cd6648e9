"""Plans, runners and levers on a small scheme."""

from __future__ import annotations

import csv
import io
import sys
import textwrap
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pytest

from eurythm.climate.standin import standin_epw
from eurythm.climate.year import HOURS
from eurythm.exchange.bundle import cases_csv
from eurythm.exchange.demo import demo_project
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import ClimateRef, Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.study import StudySpec
from eurythm.simulate import building_of, simulate
from eurythm.study import levers, runner
from eurythm.study.levers import LEVERS, CaseInputs
from eurythm.study.plan import Case, case, casting, check, count, in_order, inputs_of
from eurythm.study.pool import Pool
from eurythm.study.runner import CaseResult, InProcess, Job, climate_of, expected_seconds, run_case
from tests.conftest import make_scheme, volume


def spec(*levers: dict, **more: object) -> StudySpec:
    return read_document(StudySpec, {"name": "S", "levers": list(levers), **more})


def inputs() -> CaseInputs:
    place = Place(climate=ClimateRef(kind="stand-in", id="merrowhaven"))
    scheme = make_scheme(volumes=[volume()])
    return CaseInputs(place, Library(), Factors(), scheme, (scheme, scheme.model_copy(update={"id": "other", "name": "Other"})))


GLASS = {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.5]}
HEAT = {"kind": "field", "path": "use/heating_c", "steps": [20, 28]}
SETPOINTS = spec(GLASS, HEAT)


def job(study: StudySpec = SETPOINTS) -> Job:
    return Job(study, inputs(), {}, "test")


def test_every_case_runs_once_and_failures_keep_their_reason() -> None:
    told: list[int] = []
    results = [r for lot in InProcess().run(job(), in_order(SETPOINTS), told.extend) for r in lot]
    assert sorted(r.number for r in results) == [0, 1, 2, 3] == sorted(told)
    by_number = {r.number: r for r in results}
    assert [by_number[n].status for n in range(4)] == ["done", "failed", "done", "failed"]
    assert "stands above cooling" in by_number[1].reason
    assert by_number[1].figures is None
    assert all(r.seconds >= 0 for r in results)


def test_a_case_is_its_documents_simulated() -> None:
    one = run_case(job(), case(SETPOINTS, 2))
    made = inputs_of(SETPOINTS, case(SETPOINTS, 2), inputs())
    outcome = simulate(made.place, made.library, made.scheme, made.factors, climate_of(made.place, {}))
    assert one.figures is not None
    assert one.figures["totals"] == outcome.totals
    assert made.scheme.skin.glazing_ratio.south == 0.5


def test_a_fault_of_ours_fails_one_case_and_says_so(monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError("oops")

    monkeypatch.setattr("eurythm.study.runner.prepare_case", broken)
    result = run_case(job(), case(SETPOINTS, 0))
    assert (result.status, result.figures) == ("failed", None)
    assert "A fault of ours" in result.reason
    assert "oops" in caplog.text


def test_a_pool_agrees_with_this_process() -> None:
    pool = Pool(2)
    try:
        pool.warm()
        wide = {r.number: r for lot in pool.run(job(), in_order(SETPOINTS)) for r in lot}
    finally:
        pool.close()
    near = {r.number: r for lot in InProcess().run(job(), in_order(SETPOINTS)) for r in lot}
    assert wide.keys() == near.keys()
    for number, one in near.items():
        assert (wide[number].status, wide[number].reason) == (one.status, one.reason)
        assert wide[number].figures == one.figures


def test_order_of_running_keeps_form_and_shades_together() -> None:
    study = spec(GLASS, {"kind": "turn", "steps": [0, 30]}, {"kind": "overhang", "steps": [0, 1]})
    order = [c.steps for c in in_order(study)]
    turns = [s[1] for s in order]
    assert turns == sorted(turns)
    assert len(order) == count(study) == 8
    assert [s[2] for s in order[:4]] == [0, 0, 1, 1]


def test_expected_time_grows_with_the_number_of_cases(monkeypatch: pytest.MonkeyPatch) -> None:
    """On a clock that gives every lot 0.02 s a case, and half a second more for each form that it meets first."""
    now, met = 0.0, set[str]()

    def lot(one: Job, cases: Sequence[Case]) -> list[CaseResult]:
        nonlocal now
        forms = {repr(c.steps[0]) for c in cases} if one.study.levers[0].kind == "turn" else {""}
        now += 0.02 * len(cases) + 0.5 * len(forms - met)
        met.update(forms)
        return []

    monkeypatch.setattr(runner, "run_lot", lot)
    monkeypatch.setattr(runner.time, "perf_counter", lambda: now)
    alike = spec(HEAT | {"steps": list(range(100))})
    assert expected_seconds(job(alike), in_order(alike), 1) == pytest.approx(2.0)
    assert expected_seconds(job(alike), in_order(alike), 2) == pytest.approx(1.0)
    met.clear()
    turned = spec({"kind": "turn", "steps": [0, 10, 20, 30]}, HEAT | {"steps": list(range(25))})
    assert expected_seconds(job(turned), in_order(turned), 1) == pytest.approx(4 * 0.5 + 2.0)


def test_expected_time_is_given_up_once_nobody_wants_it(monkeypatch: pytest.MonkeyPatch) -> None:
    lots: list[Sequence[Case]] = []

    def lot(_: Job, cases: Sequence[Case]) -> list[CaseResult]:
        lots.append(cases)
        return []

    monkeypatch.setattr(runner, "run_lot", lot)
    assert expected_seconds(job(spec(HEAT)), in_order(spec(HEAT)), 1, lambda: False) is None
    assert lots == []
    assert expected_seconds(job(spec(HEAT)), in_order(spec(HEAT)), 1, lambda: not lots) is None
    assert len(lots) == 1


@pytest.mark.parametrize("kind", ["turn", "glazing_ratio", "overhang", "fins"])
def test_levers_on_the_whole_building_know_where_it_stands(kind: str) -> None:
    lever, base = LEVERS[kind], inputs()
    one = spec({"kind": kind, "steps": [0.5]}).levers[0]
    assert lever.title(one, base)
    moved = lever.apply(one, 0.5, base)
    assert lever.current(one, moved) == 0.5
    assert lever.current(one, base) != 0.5
    with pytest.raises(EurythmError):
        lever.apply(one, "east", base)
    with pytest.raises(EurythmError):
        lever.apply(one, True, base)


@pytest.mark.parametrize(
    ("lever", "labels"),
    [
        ({"kind": "turn", "steps": [-30, 0]}, ("-30°", "0°")),
        ({"kind": "overhang", "steps": [0, 1.2]}, ("none", "1.2 m")),
        ({"kind": "glazing_ratio", "steps": [0.25]}, ("25%",)),
        ({"kind": "climate", "steps": ["merrowhaven"]}, ("Merrowhaven",)),
        ({"kind": "scheme", "steps": ["other"]}, ("Other",)),
        ({"kind": "field", "path": "skin/glazing", "steps": ["triple-clear"]}, ("Triple, low-emissive",)),
        ({"kind": "field", "path": "use/infiltration_ach", "steps": [0.3]}, ("0.3 1/h",)),
        ({"kind": "field", "path": "plant/photovoltaics/roof_share", "steps": [0.5]}, ("50%",)),
        ({"kind": "field", "path": "volumes/v1/form/length", "steps": [25]}, ("25 m",)),
        ({"kind": "factor", "path": "electricity/price", "steps": [0.3]}, ("0.3 €/kWh",)),
        ({"kind": "factor", "path": "money/discount_rate", "steps": [0.03]}, ("3%",)),
    ],
)
def test_steps_are_labelled_as_people_say_them(lever: dict, labels: tuple[str, ...]) -> None:
    assert check(spec(lever), inputs())[0].labels == labels


def test_a_price_as_a_lever_takes_the_place_of_bands_and_moves_money_alone() -> None:
    bands = {"electricity": {"price_hours": {"weekday": [0.1] * 12 + [0.4] * 12}}}
    base = replace(inputs(), factors=read_document(Factors, bands))
    study = spec({"kind": "factor", "path": "electricity/price", "steps": [0.2, 0.4]})
    low, high = (run_case(Job(study, base, {}, "t"), case(study, n)).figures["totals"] for n in (0, 1))  # type: ignore[index]
    bought = low["carrier_kwh"]["electricity"]
    assert low["eui_kwh_per_m2"] == high["eui_kwh_per_m2"]
    assert high["carrier_cost"]["electricity"] - low["carrier_cost"]["electricity"] == pytest.approx(0.2 * bought)
    assert low["carrier_cost"]["electricity"] == pytest.approx(0.2 * bought)
    assert [o.path for o in LEVERS["factor"].offers(base)][:2] == ["electricity/price", "electricity/growth"]
    assert casting(study) == []


def test_forms_are_changed_by_name() -> None:
    base = inputs()
    (before,) = base.scheme.volumes
    counted = spec({"kind": "storey_count", "path": "v1", "steps": [1, 4]})
    assert [v.title for v in check(counted, base)] == [f"Storeys, {before.name}"]
    one, four = (inputs_of(counted, c, base).scheme.volumes[0] for c in (case(counted, 0), case(counted, 1)))
    assert (len(one.storeys), len(four.storeys)) == (1, 4)
    assert len({s.id for s in four.storeys}) == 4
    assert four.storeys[: len(before.storeys)] == before.storeys
    high = inputs_of(spec({"kind": "storey_height", "steps": [4.2]}), case(spec({"kind": "storey_height", "steps": [4.2]}), 0), base)
    assert {s.height_m for v in high.scheme.volumes for s in v.storeys} == {4.2}
    wide = spec({"kind": "stretch", "steps": [1.25]})
    form = inputs_of(wide, case(wide, 0), base).scheme.volumes[0].form
    assert (form.length, form.depth) == (25.0, 9.6)  # type: ignore[union-attr]
    floors = [run_case(Job(s, base, {}, "t"), case(s, 0)).figures["totals"]["gross_floor_area_m2"] for s in (wide, spec(HEAT))]  # type: ignore[index]
    assert floors[0] == pytest.approx(floors[1], rel=1e-6)
    for wrong, code in (
        ({"kind": "storey_count", "path": "v1", "steps": [1.5]}, "wrong-storeys"),
        ({"kind": "storey_count", "path": "tower", "steps": [2]}, "no-such-volume"),
        ({"kind": "stretch", "steps": [40]}, "wrong-stretch"),
        ({"kind": "storey_height", "steps": [0]}, "wrong-field"),
    ):
        with pytest.raises(EurythmError) as fault:
            check(spec(wrong), base)
        assert fault.value.code == code
    with pytest.raises(EurythmError, match=r"“Storeys, .*” goes by steps"):
        check(spec({"kind": "storey_count", "path": "v1", "low": 1, "high": 4}, kind="sample"), base)
    with pytest.raises(EurythmError, match="set the same value"):
        check(spec({"kind": "stretch", "steps": [1.1]}, {"kind": "field", "path": "volumes/v1/form/length", "steps": [12]}), base)


@pytest.mark.parametrize("path", [None, "electricity/standing_charge", "costs", "nothing/price"])
def test_factors_that_are_no_levers_are_refused(path: str | None) -> None:
    with pytest.raises(EurythmError) as fault:
        check(spec({"kind": "factor", "path": path, "steps": [1]}), inputs())
    assert fault.value.code == "no-lever"


def test_a_climate_lever_takes_a_file_of_the_project() -> None:
    from eurythm.climate.epw import read_epw

    text = standin_epw("karsk-basin")
    digest = read_epw(text).digest
    study = spec({"kind": "climate", "steps": ["merrowhaven", digest]})
    own = replace(inputs(), climates={digest: "karsk.epw"})
    (offer,) = LEVERS["climate"].offers(own)
    assert (offer.choices[0], offer.steps[0]) == ({"id": digest, "name": "karsk.epw"}, digest)
    assert check(study, own)[0].labels == ("Merrowhaven", "karsk.epw")
    both = Job(study, inputs(), {digest: text}, "t")
    mild, cold = (run_case(both, case(both.study, n)).figures for n in (0, 1))
    assert mild is not None
    assert cold is not None
    assert cold["totals"]["heating_demand_kwh"] > 1.5 * mild["totals"]["heating_demand_kwh"]
    lost = run_case(Job(study, inputs(), {}, "t"), case(study, 1))
    assert (lost.status, "not in this project" in lost.reason) == ("failed", True)


def test_without_a_climate_there_is_an_error_not_a_guess() -> None:
    with pytest.raises(EurythmError) as fault:
        climate_of(Place(), {})
    assert (fault.value.code, fault.value.path) == ("no-climate", "place/climate")
    with pytest.raises(EurythmError):
        climate_of(Place(climate=ClimateRef(kind="stand-in", id="atlantis")), {})


def test_a_climate_moves_the_sun_with_it() -> None:
    base = inputs()
    hot = LEVERS["climate"].apply(spec({"kind": "climate", "steps": ["sorrel-flats"]}).levers[0], "sorrel-flats", base)
    year = climate_of(hot.place, {})
    assert year.location.latitude_deg < climate_of(base.place, {}).location.latitude_deg
    assert len(year.air_c) == HOURS


def test_table_of_cases_cannot_turn_into_formulas() -> None:
    views = check(SETPOINTS, inputs())
    nasty = CaseResult(0, "failed", None, "=HYPERLINK(1)", 0.1)
    rows = list(csv.reader(io.StringIO(cases_csv(views, [((0.2, 20), nasty), (("@x", 20), run_case(job(), case(SETPOINTS, 0)))]))))
    assert rows[0][:3] == ["id", "skin/glazing_ratio/south", "use/heating_c"]
    assert rows[1][-2:] == ["failed", "'=HYPERLINK(1)"]
    assert rows[2][1] == "'@x"
    assert len(rows[1]) == len(rows[2]) == len(rows[0])


def test_the_demo_study_covers_its_own_reference() -> None:
    project = demo_project()
    quay = project.scheme("quay")
    from eurythm.exchange.demo import demo_study

    study = demo_study()
    base = CaseInputs(project.place, project.library, project.factors, quay, project.schemes)
    stands = tuple(view.current for view in check(study, base))
    number = next(n for n in range(count(study)) if case(study, n).steps == stands)
    made = run_case(Job(study, base, {}, "t"), case(study, number))
    plain = simulate(project.place, project.library, quay, project.factors, climate_of(project.place, {}))
    assert made.figures is not None
    assert made.figures["totals"]["eui_kwh_per_m2"] == pytest.approx(plain.totals["eui_kwh_per_m2"], rel=1e-9)


def test_a_lever_made_as_contributing_says_is_found_and_runs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    text = Path("docs/contributing/lever.md").read_text(encoding="utf-8")
    recipe = textwrap.dedent(text[text.index("   ```python") : text.rindex("   ```")]).split("\n", 1)[1]
    (tmp_path / "storeys.py").write_text(recipe, encoding="utf-8")
    monkeypatch.setattr(levers, "__path__", [*levers.__path__, str(tmp_path)])
    monkeypatch.delitem(sys.modules, "eurythm.study.levers.storeys", raising=False)
    lever = next(lever for lever in levers.found() if lever.kind == "storeys")
    monkeypatch.setitem(LEVERS, lever.kind, lever)
    try:
        (offer,) = lever.offers(inputs())
        study = spec({"kind": "turn", "steps": [0, 20]}, HEAT | {"steps": [19, 20]}, {"kind": offer.kind, "steps": offer.steps})
        assert [v.current for v in check(study, inputs())] == [0.0, None, 3.5]
        order = in_order(study)
        changes = [c.steps[1] for c in order]
        assert changes == [19, 20] * 6  # forms outermost, the setpoint innermost
        results = {r.number: r for lot in InProcess().run(Job(study, inputs(), {}, "recipe"), order[:6]) for r in lot}
        assert len({r.figures["totals"]["eui_kwh_per_m2"] for r in results.values() if r.figures}) == 6
        with pytest.raises(EurythmError, match=r"“Height of storeys” and “Length.*” set the same value"):
            check(spec({"kind": "storeys", "steps": [3]}, {"kind": "field", "path": "volumes/v1/form/length", "steps": [12]}), inputs())
    finally:
        sys.modules.pop("eurythm.study.levers.storeys", None)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ({"kind": "overhang", "steps": [1]}, {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0]}),
        ({"kind": "turn", "steps": [10]}, {"kind": "field", "path": "turn_deg", "steps": [0]}),
    ],
)
def test_levers_that_set_the_same_value_are_refused(one: dict, other: dict) -> None:
    with pytest.raises(EurythmError, match="set the same value"):
        check(spec(one, other), inputs())


def test_a_whole_scheme_goes_with_a_lever_on_a_part_of_it() -> None:
    assert len(check(spec({"kind": "scheme", "steps": ["t", "other"]}, {"kind": "turn", "steps": [0, 10]}), inputs())) == 2


def test_a_facade_and_a_zone_can_differ_without_an_entry_of_their_own() -> None:
    scheme = make_scheme(volumes=[volume("bar", zoning="perimeter_core", storeys=2, form={"length": 30, "depth": 20})])
    base = replace(inputs(), scheme=scheme, schemes=(scheme,))
    offers = {o.path: o for kind in ("facade", "zone") for o in LEVERS[kind].offers(base)}
    south = next(path for path, o in offers.items() if o.title.startswith("Glazing ratio") and o.title.endswith(", south"))
    assert offers["bar/s0/core/profile"].title.endswith("storey 0, core")
    study = spec(
        {"kind": "facade", "path": south, "steps": [0.2, 0.6]},
        {"kind": "facade", "path": south.replace("glazing_ratio", "sill_m").replace("*", "s1"), "steps": [0.3]},
        {"kind": "zone", "path": "bar/s0/core/profile", "steps": ["office"]},
    )
    views = check(study, base)
    assert [v.labels[0] for v in views] == ["20%", "0.3 m", "Office, open"]
    made = inputs_of(study, case(study, 1), base)
    faces = {f.id: f for f in building_of(made.place, made.scheme).faces}
    glass = {edge: faces[f"bar/{edge}"].window_area / faces[f"bar/{edge}"].area for edge in ("s0/e1", "s1/e1", "s0/e3")}
    assert glass["s0/e1"] == pytest.approx(0.6, abs=0.01)
    assert glass["s0/e3"] == pytest.approx(scheme.skin.glazing_ratio.north, abs=0.01)
    assert min(w.z for w in faces["bar/s1/e1"].windows) == pytest.approx(0.3, abs=1e-6)
    assert [(z.zone, z.profile) for z in made.scheme.use.zones] == [("bar/s0/core", "office")]
    again = replace(made, schemes=(made.scheme,))  # an entry that is there is changed, not doubled
    twice = LEVERS["zone"].apply(study.levers[2], "library", again).scheme.use.zones
    assert [(z.id, z.profile) for z in twice] == [(made.scheme.use.zones[0].id, "library")]
    assert LEVERS["facade"].current(study.levers[0], made) == 0.6
