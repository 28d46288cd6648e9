"""What a year comes to, and how differences are worded."""

from __future__ import annotations

import copy

import numpy as np
import pytest

from eurythm.assess.compare import hour_in_words, in_words, sentences
from eurythm.assess.facts import MOST_FIELDS, Documents, facts, what_differs, zones_in_words
from eurythm.brief.resolve import Shelf
from eurythm.climate.statistics import hour_name
from eurythm.climate.year import MONTH_OF_HOUR
from eurythm.exchange.demo import demo_project
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.simulate import Run, prepare_case, run, run_many
from tests.conftest import make_scheme, run_scheme, volume


@pytest.fixture(scope="module")
def quay(merrowhaven) -> Run:
    project = demo_project()
    return run(project.place, project.library, project.scheme("quay"), project.factors, merrowhaven)


@pytest.mark.parametrize(
    ("value", "base", "said"),
    [
        (88, 100, "12% less"),
        (112, 100, "12% more"),
        (100.3, 100, "the same"),
        (100.8, 100, "0.8% more"),
        (99.2, 100, "0.8% less"),
        (350, 100, "3.5 times as much"),
        (299, 100, "199% more"),
        (0, 0, "the same"),
        (5, 0, ""),
        (-5, 10, "of the other sign"),
        (0, 10, "100% less"),
        (1, 233, "99.6% less"),
        (0.01, 233, "over 99.9% less"),
    ],
)
def test_differences_in_words(value: float, base: float, said: str) -> None:
    assert in_words(value, base) == said


def test_hours_in_words() -> None:
    assert hour_in_words("07-21T17") == "21 July 17:00"
    assert hour_in_words("01-01T00") == "1 January 00:00"
    assert hour_in_words(None) == "never"


def test_totals_are_sums_of_the_series(quay: Run) -> None:
    totals = quay.outcome.totals
    assert totals["heating_demand_kwh"] == pytest.approx(quay.demand.heating_w.sum() / 1000)
    assert totals["conditioned_floor_area_m2"] == pytest.approx(float(quay.arrays.floor_area.sum()))
    assert totals["conditioned_floor_area_m2"] < totals["gross_floor_area_m2"] == pytest.approx(56 * 17 * 3)
    assert totals["air_volume_m3"] < totals["gross_volume_m3"] == pytest.approx(56 * 17 * 3 * 3.8)
    assert totals["wall_m2"] == pytest.approx(2 * (56 + 17) * 3 * 3.8)
    assert totals["roof_m2"] == pytest.approx(56 * 17)
    by_zone = [sum(z[key] for z in quay.outcome.zones) for key in ("heating_demand_kwh", "cooling_demand_kwh", "floor_area_m2")]
    assert by_zone == pytest.approx([totals[k] for k in ("heating_demand_kwh", "cooling_demand_kwh", "conditioned_floor_area_m2")])


def test_months_add_up_and_fall_where_they_belong(quay: Run) -> None:
    months = quay.outcome.monthly
    assert [m["month"] for m in months] == list(range(1, 13))
    for use, total in quay.outcome.totals["energy_kwh"].items():
        assert sum(m["energy_kwh"][use] for m in months) == pytest.approx(total)
    july = quay.demand.cooling_w.sum(axis=0)[MONTH_OF_HOUR == 6].sum() / 1000
    assert months[6]["cooling_demand_kwh"] == pytest.approx(july)


def test_peaks_are_the_highest_hours_by_their_names(quay: Run) -> None:
    for kind, series in (("heating", quay.demand.heating_w), ("cooling", quay.demand.cooling_w)):
        total = series.sum(axis=0)
        assert quay.outcome.peaks[f"{kind}_w"] == pytest.approx(total.max())
        assert quay.outcome.peaks[f"{kind}_at"] == hour_name(int(total.argmax()))
    assert quay.outcome.peaks["substeps"] == 1


def test_hours_count_when_occupied_against_each_zone_s_limits(quay: Run) -> None:
    """Reading rooms by the project's limits, workshops, where people work standing, by their own lower one."""
    comfort = quay.outcome.comfort
    reading, workshop = comfort["limits"]
    assert (reading["too_warm_c"], reading["too_cold_c"], reading["adaptive"]) == (27.0, 19.0, False)
    assert (workshop["too_warm_c"], workshop["too_cold_c"], workshop["profiles"]) == (27.0, 16.0, ["Workshop"])
    assert reading["share"] + workshop["share"] == pytest.approx(1.0)
    occupied = np.stack([z.occupied for z in quay.arrays.zones])
    weight = quay.arrays.floor_area / quay.arrays.floor_area.sum()
    warm = (occupied & (quay.demand.operative_c > 27)).sum(axis=1) @ weight
    assert comfort["too_warm_h"] == pytest.approx(float(warm))
    below = np.array([[z.profile.comfort_low_c or 19.0] for z in quay.arrays.zones])
    assert comfort["too_cold_h"] == pytest.approx(float((occupied & (quay.demand.operative_c < below)).sum(axis=1) @ weight))
    assert 0 < comfort["occupied_h"] < 8760
    project = demo_project()
    strict = read_document(Factors, {"too_warm_c": 24.0})
    other = run(project.place, project.library, project.scheme("quay"), strict, quay.brief.climate).outcome.comfort
    assert other["too_warm_h"] > comfort["too_warm_h"]


def test_a_zone_that_is_not_cooled_is_judged_by_the_adaptive_band() -> None:
    """EN 16798-1: 0.33 times the running mean plus 18.8, and 3 K above it; alone and side by side in the batch kernel."""
    cooled = make_scheme(volumes=[volume()])
    free = make_scheme(volumes=[volume()], plant={"cooling": {"most_w_m2": 0}})
    made = run_scheme(free)
    (limit,) = made.outcome.comfort["limits"]
    assert limit["adaptive"]
    assert limit["too_warm_c"] is None
    running = np.clip(made.brief.climate.running_mean_c, 10, 30)
    above = made.demand.operative_c[0] > 0.33 * running + 18.8 + 3
    assert made.outcome.comfort["too_warm_h"] == pytest.approx(float((above & made.arrays.zones[0].occupied).sum()))
    assert not run_scheme(cooled).outcome.comfort["limits"][0]["adaptive"]
    place, library, factors = Place(), Library(), Factors()
    many = run_many([prepare_case(place, library, free, factors, made.brief.climate)] * 5)
    assert many[0].comfort["too_warm_h"] == pytest.approx(made.outcome.comfort["too_warm_h"], abs=1.0)


def test_unheated_zones_do_not_count_as_conditioned() -> None:
    scheme = make_scheme(volumes=[volume(storeys=2)], use={"zones": [{"id": "a", "zone": "v1/s1/*", "conditioned": False}]})
    outcome = run_scheme(scheme).outcome
    upper, lower = outcome.zones[1], outcome.zones[0]
    assert (upper["conditioned"], upper["heating_demand_kwh"], upper["cooling_demand_kwh"]) == (False, 0, 0)
    assert outcome.totals["conditioned_floor_area_m2"] == pytest.approx(lower["floor_area_m2"])


def other(totals: dict | None = None, peaks: dict | None = None) -> tuple[dict, dict]:
    base = {
        "totals": {
            "eui_kwh_per_m2": 100.0,
            "conditioned_floor_area_m2": 1000.0,
            "energy_kwh": {"heating": 50_000.0, "cooling": 20_000.0, "lighting": 30_000.0},
            "generation_kwh": {"used": 0.0, "exported": 0.0},
        },
        "peaks": {"heating_w": 50_000.0, "heating_at": "01-10T07", "cooling_w": 40_000.0, "cooling_at": "07-21T17"},
    }
    mine = copy.deepcopy(base)
    mine["totals"] |= totals or {}
    mine["peaks"] |= peaks or {}
    return mine, base


def test_sentences_name_the_part_behind_a_difference() -> None:
    mine, base = other(
        {"eui_kwh_per_m2": 92.0, "energy_kwh": {"heating": 40_000.0, "cooling": 22_000.0, "lighting": 30_000.0}},
        {"cooling_w": 45_000.0, "cooling_at": "08-09T15"},
    )
    said = sentences(mine, base, "Quay")
    assert said[0] == "Heating is 10.0 kWh/m² lower than in Quay; cooling takes 2.0 of it back."
    assert "The peak of cooling is 5.0 kW higher and moves from 21 July 17:00 to 9 August 15:00." in said
    assert not any("heating is" in s and "peak" in s for s in said)


def test_sentences_say_when_nothing_differs() -> None:
    mine, base = other()
    assert sentences(mine, base, "Quay") == ["It needs as much energy as Quay."]


def test_sentences_tell_of_generation() -> None:
    mine, base = other({"generation_kwh": {"used": 12_000.0, "exported": 5.0}})
    assert "Own generation covers 12.0 kWh/m² of its use: 12.0 more." in sentences(mine, base, "Quay")
    mine["totals"]["covered_power_share"] = 0.4
    assert "Own generation covers 12.0 kWh/m² of its use, 40% of its electricity: 12.0 more." in sentences(mine, base, "Quay")


def test_sentences_are_said_in_the_reader_s_units() -> None:
    mine, base = other(
        {"eui_kwh_per_m2": 90.0, "energy_kwh": {"heating": 40_000.0, "cooling": 20_000.0, "lighting": 30_000.0}}, {"heating_w": 40_000.0}
    )
    said = sentences(mine, base, "Quay", "IP")
    assert said[0] == "Heating brings 3.2 of the 3.2 kBtu/ft² saved against Quay."
    assert "The peak of heating is 34.1 kBtu/h lower, at the same hour." in said
    assert not any("kW" in s for s in said)


def test_facts_of_a_scheme_follow_its_documents() -> None:
    project = demo_project()
    of = {f.title: f for f in facts(project.place, project.library, project.scheme("terraces"))}
    assert of["Form"].text == "bar + bar + bar, 2 storeys"
    assert of["Glass south"].text == "50%"
    assert (of["Overhang south"].value, of["Overhang south"].unit) == (1.0, "m")
    assert of["Heating setpoint"].text == "as the profile"
    thick = project.scheme("terraces").model_copy(
        update={"skin": project.scheme("terraces").skin.model_copy(update={"wall_insulation_m": 0.4})}
    )
    thicker = {f.title: f for f in facts(project.place, project.library, thick)}
    assert (thicker["Wall U-value"].value or 9) < (of["Wall U-value"].value or 0)


def differing(*skins: dict, **more: dict) -> list[dict[str, object]]:
    """The facts in which schemes with these skins differ."""
    cases = [Documents(Place(), Library(), make_scheme(volumes=[volume()], skin=skin, **more)) for skin in skins]
    return [{f.title: f.text if f.value is None else (f.value, f.unit) for f in told} for told in what_differs(cases)]


def test_a_system_that_differs_is_told_by_its_name() -> None:
    cases = [
        Documents(Place(), Library(), make_scheme(volumes=[volume()], plant={"main": {"ready": r}}))
        for r in ("seasonal", "ground-pump-floor")
    ]
    first, other = ({f.title: f.text for f in told} for told in what_differs(cases))
    assert (first["System"], other["System"]) == ("seasonal figures", "Ground heat pump, floor heating, free cooling")


def test_every_field_that_differs_is_told_by_its_own_words() -> None:
    plain, other = differing(
        {},
        {
            "louvre_depth_m": {"south": 0.2}, "rooflight_ratio": 0.05, "blinds": {"place": "outside", "closes_w_m2": 250},
            "thermal_bridges": {"surcharge_w_m2k": 0.1}, "overhang_depth_m": {"south": 1.0}, "window_pattern": "ribbon",
        },
    )  # fmt: skip
    assert list(plain) == list(other)
    assert (plain["Rooflights"], plain["Blinds"]) == ("0%", "none")
    assert other == {
        "Overhang south": (1.0, "m"), "Louvres south": (0.2, "m"), "Rooflights": "5%", "Windows as": "ribbon",
        "Blinds": "outside", "Blinds, close above": (250.0, "W/m²"), "Surcharge on U": (0.1, "W/m²K"),
    }  # fmt: skip


def test_what_stands_in_one_case_only_is_told_and_many_values_are_counted() -> None:
    rule = {"id": "r", "name": "North", "orientation": "north", "construction": "wall-old"}
    bare, ruled = differing({}, {"rules": [rule]})
    assert (bare, ruled) == ({"Rule North": "none"}, {"Rule North": "yes"})
    _, other = differing({"rules": [rule]}, {"rules": [rule | {"construction": "wall-good"}]})
    assert other == {"Rule North, construction": Shelf(Library()).construction("wall-good", "").name}
    some, more = ([{"id": f"o{k}", "face": f"v1/s{k}/e1", "sill_m": 0.1 * k, "head_m": k + by} for k in range(1, 20)] for by in (2, 2.5))
    counts, counted = differing({"overrides": some}, {"overrides": more})
    assert (counts["And more"], counted["And more"]) == ("", "3 further values differ")
    assert len(counted) == MOST_FIELDS + 1


def test_where_forms_differ_their_single_measures_are_left_out() -> None:
    bar, ell = make_scheme(volumes=[volume()]), make_scheme(volumes=[volume(kind="l")])
    longer = make_scheme(volumes=[volume(form={"length": 30})])
    told = what_differs([Documents(Place(), Library(), s) for s in (bar, ell)])
    assert [[f.title for f in facts] for facts in told] == [["Form"], ["Form"]]
    told = what_differs([Documents(Place(), Library(), s) for s in (bar, longer)])
    assert [(f.title, f.value) for f in told[1]] == [("v1, length", 30.0)]


def test_facts_of_rooms_do_not_tell_ratios_that_do_not_hold() -> None:
    project = demo_project()
    told = {name: {f.title: f.text for f in facts(project.place, project.library, project.scheme(name))} for name in ("quay", "court")}
    assert told["quay"]["Form"] == "bar, 3 storeys"
    assert told["court"]["Form"] == "30 rooms, 2 storeys"
    assert told["quay"]["Glass south"] == "45%"
    assert told["court"]["Glass south"] == told["court"]["Window"] == told["court"]["Wall U-value"] == "by face, as drawn"


@pytest.mark.parametrize(
    ("pattern", "words"),
    [
        ("*", "all zones"),
        ("v1/*", "Long bar, all zones"),
        ("v1/s1/*", "Long bar, storey 1, all zones"),
        ("v1/s0/core", "Long bar, storey 0, core"),
        ("*/core", "*/core"),
        ("v1/attic/*", "v1/attic/*"),
    ],
)
def test_zones_of_a_rule_are_told_as_people_say_them(pattern: str, words: str) -> None:
    scheme = make_scheme(volumes=[volume("v1", storeys=2) | {"name": "Long bar"}])
    assert zones_in_words(pattern, scheme) == words
