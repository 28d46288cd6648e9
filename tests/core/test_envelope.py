"""The envelope cases on three climates: order and sign of their differences, where the climate gives reason for them."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from eurythm.climate.standin import standin_epw, standin_year
from eurythm.climate.year import ClimateYear
from eurythm.exchange.bundle import open_bundle
from eurythm.exchange.demo import write_examples
from eurythm.exchange.envelope import CASES, PUBLISHED, check_envelope, envelope_bundle, envelope_table
from eurythm.fabric.opaque import u_value
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import run
from tests.command import eurythm

CLIMATES = ("karsk-basin", "merrowhaven", "sorrel-flats")


@pytest.fixture(scope="module", params=CLIMATES)
def found(request: pytest.FixtureRequest) -> dict[str, dict[str, float]]:
    return {"climate": request.param, **check_envelope(standin_year(request.param))}


def test_all_cases_are_there_with_all_figures(found: dict) -> None:
    assert set(found) - {"climate"} == set(CASES) == set(PUBLISHED)
    keys = {"heating_kwh", "cooling_kwh", "peak_heating_w", "peak_cooling_w", "air_min_c", "air_mean_c", "air_max_c"}
    assert all(set(found[name]) == keys for name in CASES)


@pytest.mark.parametrize("light", ["600", "610", "620", "630", "640"])
def test_mass_saves_heating_and_cooling(found: dict, light: str) -> None:
    heavy = f"9{light[1:]}"
    assert found[heavy]["heating_kwh"] <= found[light]["heating_kwh"]
    assert found[heavy]["cooling_kwh"] < found[light]["cooling_kwh"]
    assert found[heavy]["peak_cooling_w"] < found[light]["peak_cooling_w"]


@pytest.mark.parametrize("mass", ["6", "9"])
def test_an_overhang_saves_cooling_and_costs_a_little_heat(found: dict, mass: str) -> None:
    plain, shaded = found[f"{mass}00"], found[f"{mass}10"]
    assert shaded["cooling_kwh"] < plain["cooling_kwh"]
    if found["climate"] == "sorrel-flats":  # in the desert it hides the cold sky of the night as much as the winter's sun
        assert shaded["heating_kwh"] == pytest.approx(plain["heating_kwh"], rel=0.02, abs=20)
    else:
        assert shaded["heating_kwh"] > plain["heating_kwh"]
    assert shaded["heating_kwh"] < 1.1 * plain["heating_kwh"] + 20


@pytest.mark.parametrize("mass", ["6", "9"])
def test_shades_on_east_and_west_save_cooling(found: dict, mass: str) -> None:
    assert found[f"{mass}30"]["cooling_kwh"] < found[f"{mass}20"]["cooling_kwh"]
    assert found[f"{mass}30"]["heating_kwh"] > found[f"{mass}20"]["heating_kwh"] or found[f"{mass}20"]["heating_kwh"] < 1000


def test_east_and_west_windows_cool_less_than_south_in_the_light_box_of_a_temperate_climate(found: dict) -> None:
    """In the hot-dry climate the high summer sun stands on east and west: there they cost more, and in a heavy box anywhere."""
    if found["climate"] == "sorrel-flats":
        assert found["620"]["cooling_kwh"] > 0.97 * found["600"]["cooling_kwh"]
    else:
        assert found["620"]["cooling_kwh"] < found["600"]["cooling_kwh"]
    assert found["620"]["heating_kwh"] >= found["600"]["heating_kwh"] - 5


@pytest.mark.parametrize("mass", ["6", "9"])
def test_set_back_saves_heat_and_raises_its_peak(found: dict, mass: str) -> None:
    assert found[f"{mass}40"]["heating_kwh"] < found[f"{mass}00"]["heating_kwh"]
    assert found[f"{mass}40"]["peak_heating_w"] > found[f"{mass}00"]["peak_heating_w"]
    assert found[f"{mass}40"]["cooling_kwh"] == pytest.approx(found[f"{mass}00"]["cooling_kwh"], rel=0.08)


@pytest.mark.parametrize("mass", ["6", "9"])
def test_night_air_needs_no_heating_and_saves_cooling(found: dict, mass: str) -> None:
    assert found[f"{mass}50"]["heating_kwh"] == 0
    assert found[f"{mass}50"]["cooling_kwh"] < found[f"{mass}00"]["cooling_kwh"]


def test_mass_narrows_what_floats_and_night_air_lowers_it(found: dict) -> None:
    def span(name: str) -> float:
        return found[name]["air_max_c"] - found[name]["air_min_c"]

    assert span("900FF") < 0.75 * span("600FF")
    assert found["900FF"]["air_mean_c"] == pytest.approx(found["600FF"]["air_mean_c"], abs=0.3)
    for mass in ("6", "9"):
        assert found[f"{mass}50FF"]["air_mean_c"] < found[f"{mass}00FF"]["air_mean_c"] - 2
        assert found[f"{mass}00FF"]["heating_kwh"] == found[f"{mass}00FF"]["cooling_kwh"] == 0


def test_shapes_are_those_of_the_published_box() -> None:
    bundle = envelope_bundle("600")
    shelf = {c.id: c for c in bundle.library.constructions}
    by_hand = 1 / (0.04 + 0.009 / 0.14 + 0.066 / 0.04 + 0.012 / 0.16 + 0.13)
    assert u_value(shelf["140-wall-light"]) == pytest.approx(by_hand)
    outcome = run(bundle.place, bundle.library, bundle.scheme, Factors(), standin_year("karsk-basin")).outcome
    assert outcome.totals["window_m2"] == 12
    assert outcome.totals["conditioned_floor_area_m2"] == 48
    assert outcome.zones[0]["air_volume_m3"] == pytest.approx(129.6)
    assert outcome.closure < 1e-5


def test_bundles_written_as_examples_give_the_same_figures(tmp_path: Path) -> None:
    written = write_examples(tmp_path)
    assert {f"envelope/{name}.eurythm.json" for name in CASES} <= set(written)
    opened = open_bundle(tmp_path / "envelope" / "950.eurythm.json")
    assert dump(opened.bundle.scheme) == dump(envelope_bundle("950").scheme)
    assert opened.climate.location.city == "Merrowhaven"


def test_the_command_prints_table_and_json(tmp_path: Path) -> None:
    epw = tmp_path / "site.epw"
    epw.write_text(standin_epw("karsk-basin"))
    table = eurythm("check", "envelope", "--climate", epw).stdout
    figures = json.loads(eurythm("check", "envelope", "--climate", epw, "--json").stdout)
    assert "standard's own weather" in table
    assert "unverified" in table
    assert f"{figures['600']['heating_kwh'] / 1000:7.2f} [4.3 to 5.71]" in table
    assert len(figures) == 16
    wrong = eurythm("check", "envelope", "--climate", "/nowhere.epw")
    assert wrong.returncode == 2
    assert json.loads(wrong.stderr)["code"] == "no-such-file"


def test_the_table_names_its_climate() -> None:
    year = standin_year("merrowhaven")
    empty = {
        name: dict.fromkeys(("heating_kwh", "cooling_kwh", "peak_heating_w", "peak_cooling_w", "air_min_c", "air_mean_c", "air_max_c"), 0.0)
        for name in CASES
    }
    text = envelope_table(empty, year)
    assert text.startswith("Envelope cases on Merrowhaven (54.2°, 12 m), 4 steps an hour")
    assert text.count("\n600FF") == 1


def test_scheduled_air_changes_follow_their_hours() -> None:
    use = {"id": "r", "zone": "*", "air_changes": 2.0, "air_schedule": {"weekday": [0.0] * 12 + [1.0] * 12}, "gains_w": 0.0}
    scheme = read_document(
        Scheme, {"id": "t", "name": "T", "zones": [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}}], "use": {"zones": [use]}}
    )
    made = run(Place(), Library(), scheme, Factors(), standin_year("karsk-basin"))
    leak = made.arrays.asked.leak_m3_s[0]
    assert leak[11] == 0
    assert leak[12] == pytest.approx(2.0 * 144 / 3600)


def test_floors_lie_on_cold_ground_and_fins_stand_beside_the_windows(merrowhaven: ClimateYear) -> None:
    """The floor meets 10 °C; fins of 1 m stand at a window's own sides, so that they hide more sun than at the room's corners."""
    bundle = envelope_bundle("630")
    east = [s for s in bundle.scheme.shades if s.id.startswith("east-fin")]
    assert sorted({c[1] for s in east for c in s.corners}) == [1.5, 4.5]
    assert {c[0] for s in east for c in s.corners} == {8.0, 9.0}
    assert {round(c[2], 3) for s in east for c in s.corners} == {0.0, 2.7}
    made = run(bundle.place, bundle.library, bundle.scheme, Factors(), merrowhaven)
    floor = next(f for f in made.building.faces if f.kind == "floor")
    assert (floor.boundary, floor.boundary_c) == ("fixed", 10.0)
    sun = made.arrays.solar.sum()
    at_corners = bundle.scheme.model_copy(
        update={"shades": tuple(s.model_copy(update={"corners": tuple((x, 0.0 if y < 3 else 6.0, z) for x, y, z in s.corners)})
                                for s in bundle.scheme.shades if "fin" in s.id)}
    )  # fmt: skip
    assert run(bundle.place, bundle.library, at_corners, Factors(), merrowhaven).arrays.solar.sum() > 1.1 * sun
