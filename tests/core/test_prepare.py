"""From a brief to arrays: sun shared out without loss, films, capacities, what each series counts."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import substep_shape
from eurythm.model.errors import EurythmError
from eurythm.model.project import Factors
from eurythm.model.reading import parse_json, path_in, read_document
from eurythm.model.scheme import Scheme
from eurythm.thermal.air import FURNITURE_J_M2K
from eurythm.thermal.demands import NO_COOLING, NO_HEATING, RADIANT_SHARE
from eurythm.thermal.elements import AIR_HEAT, ZONE
from tests.conftest import make_scheme, run_scheme, volume


@pytest.fixture(scope="module")
def made():
    return run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core", storeys=2)], skin={"glazing_ratio": {"south": 0.6}}))


def test_sun_that_enters_falls_on_surfaces_or_leaves_through_glass(made) -> None:
    """Per zone, the shares times areas add up to one less what goes out again; nothing is made of nothing."""
    named, zones = made.arrays.element, len(made.arrays.zone_ids)
    kept = np.zeros(zones)
    for i, spec in enumerate(made.arrays.elements):
        kept[spec.zone_in] += named["share_in"][i] * spec.area
        if spec.kind == ZONE:
            kept[spec.zone_out] += named["share_out"][i] * spec.area
    assert (kept <= 1 + 1e-9).all()
    glazed = np.zeros(zones, bool)
    for spec in made.arrays.elements:
        glazed[spec.zone_in] |= spec.glass
    assert (kept[glazed] < 1 - 1e-3).all()
    assert kept[~glazed] == pytest.approx(1.0)
    assert kept.min() > 0.8


def test_glass_keeps_no_sun_and_floors_take_most(made) -> None:
    named = made.arrays.element
    for i, spec in enumerate(made.arrays.elements):
        if spec.glass:
            assert named["share_in"][i] == 0
        elif spec.floor_of_in:
            assert named["share_in"][i] >= 0.6 / sum(s.area for s in made.arrays.elements if s.zone_in == spec.zone_in) - 1e-12


def test_elements_cover_every_face(made) -> None:
    opaque = {s.face for s in made.arrays.elements if not s.glass}
    assert opaque == {f.id for f in made.building.faces}
    area = sum(s.area for s in made.arrays.elements)
    assert area == pytest.approx(sum(f.area for f in made.building.faces))


def test_air_and_furniture_make_up_the_capacity(made) -> None:
    arrays, climate = made.arrays, made.brief.climate
    expected = arrays.air_volume * climate.air_density * AIR_HEAT + arrays.floor_area * FURNITURE_J_M2K
    assert arrays.zone["capacity"] == pytest.approx(expected)


def test_gains_are_divided_without_loss(made) -> None:
    asked = made.arrays.asked
    total = sum(asked.gains.values())
    assert asked.convective + asked.radiant == pytest.approx(total)
    radiant = sum(RADIANT_SHARE[kind] * asked.gains[kind] for kind in RADIANT_SHARE)
    assert asked.radiant == pytest.approx(radiant)


def test_what_is_not_conditioned_is_never_held() -> None:
    scheme = make_scheme(volumes=[volume(storeys=2)], use={"zones": [{"id": "f", "zone": "v1/s1/*", "conditioned": False}]})
    asked = run_scheme(scheme).arrays.asked
    assert set(asked.heat_c[1]) == {NO_HEATING}
    assert set(asked.cool_c[1]) == {NO_COOLING}
    assert asked.heat_c[0].max() < 30


def test_infiltration_and_fresh_air_by_hand(made) -> None:
    asked, zone = made.arrays.asked, made.arrays.zones[0]
    assert asked.leak_m3_s[0] == pytest.approx(0.15 * made.arrays.air_volume[0] / 3600)
    busiest = int(zone.fresh_air.argmax())
    people = made.arrays.floor_area[0] / zone.profile.person_area * 0.8
    expected = people * zone.profile.fresh_air_ls_person + made.arrays.floor_area[0] * zone.profile.fresh_air_ls_m2
    assert asked.fresh_m3_s[0, busiest] * 1000 == pytest.approx(expected)


def test_one_step_an_hour_leaves_radiation_as_it_is(made) -> None:
    assert (made.arrays.weather["shape"] == 1.0).all()
    fine = substep_shape(54.2, -2.6, 0.0, 6)
    assert fine.shape == (8760, 6)
    assert fine.max() < 6.0001


def test_a_place_without_a_sun_keeps_flat_hours() -> None:
    shape = substep_shape(85.0, 0.0, 0.0, 4)
    assert (shape[: 24 * 20] == 1.0).all()


def test_a_zone_without_faces_is_named() -> None:
    scheme = {"id": "t", "name": "T", "zones": [{"id": "void", "faces": []}]}
    with pytest.raises(EurythmError) as fault:
        run_scheme(read_document(Scheme, scheme))
    assert "void" in fault.value.path


@pytest.mark.parametrize(
    ("loc", "path"),
    [
        (("volumes", 0, "storeys", 1, "height_m"), "volumes/bar/storeys/top/height_m"),
        (("volumes", 0, "form", "rectangle", "length"), "volumes/bar/form/length"),
        (("skin", "sill_m"), "skin/sill_m"),
        (("volumes", 9, "x"), "volumes/9/x"),
    ],
)
def test_paths_spell_ids_in_place_of_positions(loc: tuple, path: str) -> None:
    data = {"volumes": [{"id": "bar", "form": {"kind": "rectangle"}, "storeys": [{"id": "low"}, {"id": "top"}]}], "skin": {}}
    assert path_in(data, loc) == path


@pytest.mark.parametrize("text", ['{"a": Infinity}', '{"a": -Infinity}', "[1,", "nul", b"\xff\xfe", "[" * 100_000])
def test_text_that_is_no_document_is_told(text: str | bytes) -> None:
    with pytest.raises(EurythmError) as fault:
        parse_json(text, "file.json")
    assert fault.value.code in ("not-json", "not-a-number")


def test_more_faults_than_one_are_counted() -> None:
    with pytest.raises(EurythmError, match="There are 2 more faults"):
        read_document(Factors, {"too_warm_c": "hot", "too_cold_c": "cold", "export_price": "dear"})


def test_weather_is_shared_by_all_cases_of_a_year() -> None:
    year = standin_year("vallarena")
    assert year.sky_c is year.sky_c
    assert year.monthly_air_c[6] == pytest.approx(float(year.air_c[181 * 24 : 212 * 24].mean()), abs=1e-5)
