"""Hostile numbers: an error that names the field, or a finite right answer; never NaN, never a hang."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.epw import read_epw
from eurythm.climate.standin import standin_epw, standin_year
from eurythm.model.errors import EurythmError
from tests.conftest import make_scheme, run_scheme, steady_year, volume

HOLD = {"weekday": [20.0] * 24}


def finite(made) -> None:
    for name in ("air_c", "operative_c", "heating_w", "cooling_w", "vapour_kg_kg"):
        assert np.isfinite(getattr(made.demand, name)).all(), name
    assert made.demand.closure.max() < 1e-5


@pytest.mark.parametrize(
    ("parts", "path"),
    [
        ({"use": {"zones": [{"id": "a", "zone": "*", "air_changes": 8000}]}}, "use/zones"),
        ({"use": {"infiltration_ach": float("nan")}}, "use/infiltration_ach"),
        ({"use": {"airing": {"openable_share": 1.5}}}, "use/airing/openable_share"),
        ({"use": {"permeability_m3_hm2": -1}}, "use/permeability_m3_hm2"),
        ({"skin": {"thermal_bridges": {"surcharge_w_m2k": float("inf")}}}, "skin/thermal_bridges/surcharge_w_m2k"),
        ({"skin": {"blinds": {"place": "sideways"}}}, "skin/blinds/place"),
        ({"plant": {"ventilation": {"economiser": 0.5}}}, "plant/ventilation/economiser"),
        ({"air_paths": [{"id": "p", "zone_a": "a", "zone_b": "b", "opening_m2": 1e9}]}, "air_paths"),
        ({"merged": [{"id": "m", "zones": ["only-one"]}]}, "merged"),
        ({"volumes": [volume(form={"length": 0})]}, "volumes"),
        ({"volumes": [volume(height=-3.0)]}, "volumes"),
    ],
)
def test_impossible_numbers_name_their_field(parts: dict[str, Any], path: str) -> None:
    with pytest.raises(EurythmError) as fault:
        make_scheme(**({"volumes": [volume()]} | parts))
    assert path in fault.value.path


def test_crossed_setpoints_name_the_field() -> None:
    with pytest.raises(EurythmError) as fault:
        run_scheme(make_scheme(volumes=[volume()], use={"heating_c": 30.0, "cooling_c": 20.0}))
    assert fault.value.code == "setpoints-crossed"


def test_an_all_glass_zone_and_one_without_outside_faces() -> None:
    windows = [{"x": 0, "z": 0, "width": 8, "height": 3}], [{"x": 0, "z": 0, "width": 6, "height": 3}]
    faces = [{"id": s, "side": s, "windows": windows[s in ("east", "west")]} for s in ("south", "east", "north", "west")]
    faces.append({"id": "roof", "side": "roof", "windows": [{"x": 0, "z": 0, "width": 8, "height": 6}]})
    glass = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": faces}]
    finite(run_scheme(make_scheme(zones=glass)))
    sides = [{"id": s, "side": s, "boundary": "adiabatic"} for s in ("south", "east", "north", "west", "roof", "floor")]
    inner = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": sides}]
    made = run_scheme(make_scheme(zones=inner, use={"infiltration_ach": 0.0}))
    finite(made)
    assert made.outcome.totals["window_m2"] == 0


def test_a_sealed_dark_box_without_anyone_stays_where_it_is() -> None:
    sides = [{"id": s, "side": s, "boundary": "adiabatic"} for s in ("south", "east", "north", "west", "roof", "floor")]
    zone = {"id": "z", "zone": "*", "gains_w": 0.0, "air_changes": 0.0, "conditioned": False}
    box = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": sides}]
    made = run_scheme(make_scheme(zones=box, use={"zones": [zone]}), steady_year(-20.0))
    assert made.demand.air_c == pytest.approx(20.0, abs=1e-6)


def test_weather_at_absolute_zero_is_refused_by_record_and_field() -> None:
    lines = standin_epw("merrowhaven").splitlines()
    cells = lines[8 + 100].split(",")
    cells[6] = "-273.15"
    lines[8 + 100] = ",".join(cells)
    with pytest.raises(EurythmError) as fault:
        read_epw("\n".join(lines) + "\n")
    assert fault.value.path == "line 109"
    assert "dry_bulb_c is -273.15" in fault.value.message


def test_ten_kilometre_walls_are_refused_and_two_kilometre_ones_reckoned() -> None:
    with pytest.raises(EurythmError) as fault:
        make_scheme(volumes=[volume(form={"length": 10_000, "depth": 10})])
    assert fault.value.path == "volumes/v1/form/length"
    finite(run_scheme(make_scheme(volumes=[volume(form={"length": 2000, "depth": 2000}, zoning="perimeter_core")])))


@settings(max_examples=25, deadline=None)
@given(
    length=st.floats(1.5, 400), depth=st.floats(1.5, 400), height=st.floats(0.31, 60), glass=st.floats(0, 0.95),
    insulation=st.floats(1e-4, 1.0), people=st.floats(0, 100), setpoint=st.floats(-20, 40), gap=st.floats(0, 20),
    wind=st.floats(0, 40), air=st.floats(-60, 55), zoning=st.sampled_from(["one", "perimeter_core"]),
)  # fmt: skip
def test_any_allowed_numbers_give_finite_answers_that_close(
    length, depth, height, glass, insulation, people, setpoint, gap, wind, air, zoning
) -> None:
    scheme = make_scheme(
        volumes=[volume(form={"length": length, "depth": depth}, height=height, zoning=zoning)],
        skin={"glazing_ratio": {"south": glass, "north": glass}, "wall_insulation_m": insulation, "sill_m": 0.0, "head_m": 40.0},
        use={"heating_c": setpoint, "cooling_c": max(setpoint + gap, 0.0), "lighting_w_m2": people, "humidity_most_pct": 60, "humidity_least_pct": 30},
        method={"run_in_days": 2},
    )  # fmt: skip
    finite(run_scheme(scheme, steady_year(air, wind)))


def test_a_hot_and_windy_year_with_everything_open() -> None:
    use = {"airing": {"openable_share": 1.0, "hours": "always", "two_sided": True, "night_purge": True}, "permeability_m3_hm2": 200}
    finite(run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core", storeys=2)], use=use), standin_year("sorrel-flats"), substeps=4))


def room(**given: Any) -> dict[str, Any]:
    corners = {"e1": (0, 0), "e2": (6, 0), "e3": (6, 4), "e4": (0, 4)}
    outline = {"points": [{"id": k, "x": x, "y": y} for k, (x, y) in corners.items()]}
    return {"id": "z-7", "number": "1.04", "name": "Reading room", "outline": outline, **given}


def crossed() -> dict[str, Any]:
    points = [{"id": f"e{k}", "x": x, "y": y} for k, (x, y) in enumerate([(0, 0), (6, 4), (6, 0), (0, 4)])]
    return {"outline": {"points": points}}


def on_side(side: str, **window: float) -> dict[str, Any]:
    return {"faces": [{"id": "f-9", "side": side, "windows": [{"x": 1, "z": 1, "width": 2, "height": 1, **window}]}]}


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (crossed(), "The outline of “1.04 Reading room” crosses or touches itself"),
        (on_side("e9"), "A face of “1.04 Reading room” is for the side “e9”, which its outline does not have."),
        (on_side("e1", width=9), "A window of “1.04 Reading room” reaches beyond its wall."),
        (
            {"outline": None, "faces": [{"id": "f", "corners": [[0, 0, 0], [1, 0, 0]]}]},
            "A face of “1.04 Reading room” has fewer than three",
        ),
        (
            {"outline": None, "faces": [{"id": "f", "corners": [[0, 0, 0], [5, 0, 0], [5, 0, 3]]}]},
            "The faces of “1.04 Reading room” do not close",
        ),
    ],
)
def test_a_refused_room_is_called_by_its_name(given: dict[str, Any], says: str) -> None:
    with pytest.raises(EurythmError) as fault:
        run_scheme(make_scheme(zones=[room(**given)]))
    assert str(fault.value).startswith(says)
    assert "z-7" in fault.value.path


@pytest.mark.parametrize(
    ("own", "says"),
    [
        ({"sill_m": 2.0, "head_m": 1.0}, "The window head (1 m) is not above the sill (2 m) of the south wall of “Long bar, storey 0”."),
        ({"windows": [{"id": "w", "x": 30, "z": 1, "width": 9, "height": 1}]}, "A window reaches"),
        ({"windows": [{"id": k, "x": 1, "z": 1, "width": 2, "height": 1} for k in "ab"]}, "Windows placed on the south wall of “Long bar, storey 0” overlap."),
    ],
)  # fmt: skip
def test_a_refused_wall_is_called_by_its_side_and_zone(own: dict[str, Any], says: str) -> None:
    whole = volume(zoning="one") | {"name": "Long bar"}
    with pytest.raises(EurythmError) as fault:
        run_scheme(make_scheme(volumes=[whole], skin={"overrides": [{"id": "o", "face": "v1/*/e1", **own}]}))
    assert str(fault.value).startswith(says)
    assert "v1" not in fault.value.message
