"""Completing documents: schedules, profiles by zone, setpoints, remarks."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from eurythm.assess.outcome import Outcome
from eurythm.brief.edits import set_in_document
from eurythm.brief.readiness import document_remarks, odd_values
from eurythm.brief.resolve import ZoneBrief, climate_at, days_of, element_facts, resolve, zone_brief
from eurythm.brief.systems import zone_airs
from eurythm.climate.air import standard_pressure_pa
from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import sun_of
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.field import describe, limits, notes
from eurythm.model.library import Layer, Library
from eurythm.model.place import Box, Place
from eurythm.model.project import Bundle, Factors, Project
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme, Skin
from eurythm.model.units import IP_OF, to_ip
from eurythm.simulate import simulate
from tests.conftest import make_scheme, volume


def brief_of(zone: str = "v1/s0/all", library: Library | None = None, **use: object) -> ZoneBrief:
    made = resolve(Place(), library or Library(), make_scheme(volumes=[volume()], use=use), standin_year("merrowhaven"))
    return zone_brief(
        made.shelf, made.scheme, made.climate, days_of(made.place, made.climate), zone, zone, None, zone_airs(made.scheme.plant, [zone])[0]
    )


def test_later_zone_entries_stand_before_earlier_ones_and_all_before_the_scheme() -> None:
    zones = [{"id": "a", "zone": "*", "profile": "office"}, {"id": "b", "zone": "v1/s0/*", "profile": "workshop"}]
    assert brief_of(profile="dwelling", zones=zones).profile.id == "workshop"
    assert brief_of("v1/s1/all", profile="dwelling", zones=zones).profile.id == "office"
    assert brief_of(profile="dwelling").profile.id == "dwelling"


def test_values_of_the_scheme_stand_before_those_of_the_profile() -> None:
    plain, given_ = brief_of(), brief_of(heating_c=22.0, lighting_w_m2=15.0)
    assert plain.heating_c.max() == 20.5
    assert given_.heating_c.max() == 22.0
    assert given_.lighting.max() == pytest.approx(2 * plain.lighting.max())


def test_setpoints_are_set_back_when_nobody_comes_within_two_hours() -> None:
    one = brief_of(profile="office")
    monday = slice(0, 24)
    heat = one.heating_c[monday] if one.occupied[9] else one.heating_c[24:48]
    assert heat[3] == 16.0
    assert heat[6] == 21.0
    assert heat[5] == 16.0
    assert one.cooling_c.max() == 32.0


def test_setback_never_lies_above_the_setpoint() -> None:
    assert brief_of(heating_c=12.0).heating_c.max() == 12.0
    assert brief_of(cooling_c=40.0, heating_c=20.0).cooling_c.min() == 40.0


def test_fixed_air_and_gains_replace_those_of_the_profile() -> None:
    one = brief_of(zones=[{"id": "f", "zone": "*", "air_changes": 0.7, "gains_w": 300, "gains_schedule": {"weekday": [0.5] * 24}}])
    assert set(one.infiltration_ach) == {0.7}
    assert one.fresh_air.max() == 0
    assert one.gains_w is not None
    assert one.gains_w.max() == 150


@pytest.mark.parametrize(
    ("part", "path"),
    [
        ({"skin": {"wall": "none"}}, "scheme/skin/wall"),
        ({"skin": {"glazing": "none"}}, "scheme/skin/glazing"),
        ({"use": {"profile": "none"}}, "scheme/use/profile"),
        ({"skin": {"sill_m": 2.0, "head_m": 1.5}}, "scheme/skin/head_m"),
        ({"skin": {"wall": "wall-u", "wall_insulation_m": 0.2}}, "library/constructions/wall-u"),
    ],
)
def test_what_contradicts_itself_is_told_with_its_path(part: dict, path: str) -> None:
    library = read_document(Library, {"constructions": [{"id": "wall-u", "name": "U", "element": "wall", "u_value": 0.2}]})
    with pytest.raises(EurythmError) as fault:
        simulate(Place(), library, make_scheme(volumes=[volume()], **part), Factors(), standin_year("merrowhaven"))
    assert fault.value.path == path


def test_own_entries_stand_before_shipped_ones_of_the_same_id() -> None:
    own = {"glazings": [{"id": "double-lowe", "name": "Mine", "u_value": 1.0, "g_value": 0.3}]}
    made = resolve(Place(), read_document(Library, own), make_scheme(), standin_year("merrowhaven"))
    assert made.glazing.name == "Mine"


def test_facts_of_elements_follow_the_insulation() -> None:
    def facts(**skin: object) -> dict:
        return element_facts(resolve(Place(), Library(), make_scheme(skin=skin), standin_year("merrowhaven")))

    thin, thick = facts(wall_insulation_m=0.1)["wall"], facts(wall_insulation_m=0.3)["wall"]
    assert thick["thickness_m"] == pytest.approx(thin["thickness_m"] + 0.2)
    assert 1 / thick["u_value"] - 1 / thin["u_value"] == pytest.approx(0.2 / 0.035)


def test_latitude_of_the_place_stands_before_the_climate_s() -> None:
    year = standin_year("merrowhaven")
    made = resolve(read_document(Place, {"latitude_deg": 10.0}), Library(), make_scheme(), year)
    where = made.climate.location
    assert (where.latitude_deg, where.longitude_deg) == (10.0, year.location.longitude_deg)
    assert resolve(Place(), Library(), make_scheme(), year).climate is year


def test_altitude_and_time_zone_of_the_place_move_air_pressure_and_sun() -> None:
    year = standin_year("merrowhaven")
    given = read_document(Place, {"altitude_m": 1500.0, "time_zone_h": year.location.time_zone_h + 1})
    moved = climate_at(given, year)
    assert moved is climate_at(given, year)  # what is kept by it is found again
    fall = standard_pressure_pa(1500.0) / standard_pressure_pa(year.location.altitude_m)
    assert moved["pressure_pa"] == pytest.approx(year["pressure_pa"] * fall)
    assert moved.air_density < 0.87 * year.air_density
    assert moved.air_c is year.air_c
    noon = [int(sun_of(y.location).direction[4008:4032, 2].argmax()) for y in (year, moved)]
    assert noon[1] == noon[0] + 1  # clocks an hour ahead see the noon an hour later
    assert moved.digest != year.digest


def test_usual_ranges_question_given_values_only() -> None:
    assert odd_values(Skin(), "scheme/skin", "skin") == []
    found = odd_values(read_document(Skin, {"sill_m": 9.0}), "scheme/skin", "skin")
    assert [(r.code, r.object, r.weight) for r in found] == [("unusual-value", "scheme/skin/sill_m", "doubtful")]


@pytest.mark.parametrize(("value", "meant"), [(35.0, "3.5"), (0.0035, "0.035")])
def test_a_slipped_decimal_is_named(value: float, meant: str) -> None:
    found = odd_values(read_document(Layer, {"thickness_m": 0.1, "conductivity": value}), "layer", "skin")
    assert [r.object for r in found] == ["layer/conductivity"]
    assert f"Was {meant} W/mK meant?" in said(found[0].sentence)


def test_usual_values_are_left_alone() -> None:
    assert odd_values(read_document(Layer, {"thickness_m": 0.1, "conductivity": 0.04}), "layer", "skin") == []


def test_surroundings_are_questioned_too() -> None:
    place = read_document(Place, {"boxes": [{"id": "b", "x": 0, "y": 0, "length": 400, "depth": 10, "height": 10}]})
    remark = document_remarks(place, make_scheme(volumes=[volume()]))
    assert "place/boxes/b/length" in [r.object for r in remark]
    assert isinstance(place.boxes[0], Box)


def test_an_empty_scheme_waits_for_form_and_weather() -> None:
    missing = [r.code for r in document_remarks(Place(), make_scheme()) if r.weight == "missing"]
    assert missing == ["no-climate", "no-form"]
    with pytest.raises(EurythmError) as fault:
        simulate(Place(), Library(), make_scheme(), Factors(), standin_year("merrowhaven"))
    assert fault.value.code == "no-form"


def test_every_described_number_has_a_title_and_a_known_unit() -> None:
    for name, note in describe(Bundle, Project).items():
        assert note["title"], name
        if note.get("usual"):
            low, high = note["usual"]
            assert low < high, name
            assert low >= note.get("ge", note.get("gt", low)) - 1e-9, name
            assert high <= note.get("le", note.get("lt", high)) + 1e-9, name
        if note.get("unit") in IP_OF:
            assert note["ip"]["unit"] == IP_OF[note["unit"]].unit


def test_notes_are_shared_and_not_changed_by_describing() -> None:
    before = dict(notes(Skin, "sill_m"))
    describe(Scheme)
    assert dict(notes(Skin, "sill_m")) == before
    assert limits(Skin, "sill_m") == {"ge": 0.0, "le": 20.0}


@pytest.mark.parametrize(
    ("value", "unit", "expected"),
    [(1.0, "m", 3.28084), (20.0, "°C", 68.0), (10.0, "K", 18.0), (1.0, "W/m²K", 0.17611), (100.0, "kWh/m²", 31.6998), (1.0, "h", 1.0)],
)
def test_inch_pound_values(value: float, unit: str, expected: float) -> None:
    assert to_ip(value, unit)[0] == pytest.approx(expected, rel=1e-4)


numbers = st.one_of(st.floats(allow_nan=True, allow_infinity=True), st.floats(-1e7, 1e7), st.sampled_from([0.0, -0.0, 1e-12, 1e12]))
FIELDS = (
    "turn_deg", "skin/sill_m", "skin/head_m", "skin/glazing_ratio/south", "skin/overhang_depth_m/south", "skin/fin_depth_m/east",
    "skin/wall_insulation_m", "skin/roof_insulation_m", "use/heating_c", "use/cooling_c", "use/infiltration_ach", "use/lighting_w_m2",
    "use/equipment_w_m2", "plant/heating/efficiency", "plant/ventilation/heat_recovery", "plant/photovoltaics/roof_share",
    "plant/photovoltaics/tilt_deg", "volumes/v1/base_level_m", "volumes/v1/form/length", "volumes/v1/form/depth",
    "volumes/v1/storeys/s0/height_m", "volumes/v1/zoning/depth_m",
)  # fmt: skip


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from(FIELDS), numbers)
def test_any_number_anywhere_gives_a_finite_year_or_an_error_with_its_path(path: str, value: float) -> None:
    """Hostile numbers: an error that names the field, or a finite result whose balance closes."""
    data = {"id": "t", "name": "T", "volumes": [volume(zoning="perimeter_core")]}
    set_in_document(data, path, value)
    fault, outcome = attempted(data)
    if outcome is None:
        assert fault is not None
        assert fault.path
        return
    figures = [outcome.totals["eui_kwh_per_m2"], outcome.peaks["heating_w"], outcome.peaks["cooling_w"], outcome.totals["cost"]]
    assert np.isfinite(figures).all()
    assert outcome.closure < 1e-4


def attempted(data: dict) -> tuple[EurythmError | None, Outcome | None]:
    try:
        return None, simulate(Place(), Library(), read_document(Scheme, data, "scheme"), Factors(), standin_year("merrowhaven"))
    except EurythmError as fault:
        return fault, None
