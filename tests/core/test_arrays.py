"""Arrays, inverters, battery and collectors: where they lie, and every figure by hand or by pvlib's own chain."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pandas as pd
import pvlib
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.geometry.loops import area_vector
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.model.renewables import Battery, Tank
from eurythm.plant.battery import battery_year
from eurythm.plant.collectors import TANK_ROOM_C, Field, solar_year
from eurythm.plant.panels import MODULE_M, ROW_M, WALL_CLEAR_M
from eurythm.plant.photovoltaics import handed_on
from eurythm.simulate import Run
from tests.conftest import make_scheme, run_scheme, volume


def built(plant: dict[str, Any], **more: Any) -> Run:
    place = read_document(Place, more.pop("place", {}))
    climate = more.pop("climate", None)
    return run_scheme(make_scheme(volumes=[volume()], plant=plant, **more), climate, place=place)


def array_of(**more: Any) -> dict[str, Any]:
    return {"arrays": [{"id": "a", **more}]}


def told(run: Run, id: str = "a") -> Any:
    return next(a for a in run.outcome.renewables["arrays"] if a["id"] == id)


def test_rows_keep_clear_of_edges_and_rooflights() -> None:
    """A roof of 20 x 12 m: rows of ten modules within half a metre of the edges; around a rooflight they break."""
    run = built(array_of(tilt_deg=10, pitch_m=2.0))
    runs = [loop for panel in run.panels for loop in panel.loops]
    low, high = np.concatenate(runs).min(axis=0), np.concatenate(runs).max(axis=0)
    assert (low[:2] >= 0.5 - 2e-3).all()
    assert (high[:2] <= [19.5 + 2e-3, 11.5 + 2e-3]).all()
    rows = int((11.0 - ROW_M * np.cos(np.radians(10))) / 2.0) + 1
    assert told(run)["area_m2"] == pytest.approx(rows * 10 * MODULE_M * ROW_M)
    lit = built(array_of(tilt_deg=10, pitch_m=2.0), skin={"rooflight_ratio": 0.05})
    assert told(lit)["area_m2"] < told(run)["area_m2"]
    roof = next(f for f in lit.building.faces if f.kind == "ceiling")
    upward = np.cross(roof.normal, roof.along)
    for w in roof.windows:
        corner = (roof.origin + roof.along * w.s + upward * w.z)[:2]
        across = np.abs(roof.along * w.width + upward * w.height)[:2]
        for loop in (loop for panel in lit.panels for loop in panel.loops):
            a, b = loop[:, :2].min(axis=0), loop[:, :2].max(axis=0)
            apart = np.maximum(np.minimum(corner, corner + across) - b, a - np.maximum(corner, corner + across))
            assert apart.max() > 0.5 - 5e-3


def test_rows_keep_clear_of_a_higher_volume() -> None:
    """A tower stands on a third of the roof: no module within half a metre of its foot, and its shadow takes light."""
    low = volume("low", form={"length": 20, "depth": 12})
    tower = volume("tower", form={"length": 6, "depth": 12}, storeys=3) | {"x": 20.0}
    on_top = volume("top", form={"length": 6, "depth": 12}) | {"base_level_m": 3.5}
    alone, beside = (
        run_scheme(make_scheme(volumes=v, plant=array_of(target="low", tilt_deg=0, pitch_m=1.2))) for v in ([low], [low, tower, on_top])
    )
    assert max(loop[:, 0].min() for p in beside.panels for loop in p.loops) < 20
    assert min(loop[:, 0].min() for p in beside.panels for loop in p.loops) >= 6.5 - 5e-3
    assert told(beside)["area_m2"] < told(alone)["area_m2"]
    assert told(beside)["shade_share"] > told(alone)["shade_share"] + 0.05


def test_a_rectangle_holds_its_modules_and_turns_with_the_scheme() -> None:
    rectangle = {"x": 2.0, "y": 3.0, "width_m": 8.0, "depth_m": 5.0, "tilt_deg": 0, "pitch_m": 1.2}
    run = built(array_of(**rectangle))
    corners = np.concatenate([loop for p in run.panels for loop in p.loops])
    assert (corners[:, :2].min(axis=0) >= np.array([2.0, 3.0]) - 5e-3).all()
    assert (corners[:, :2].max(axis=0) <= np.array([10.0, 8.0]) + 5e-3).all()
    assert told(run)["area_m2"] == pytest.approx(4 * 4 * MODULE_M * ROW_M)
    turned = built(array_of(**rectangle, azimuth_deg=270), turn_deg=90)
    assert told(turned)["area_m2"] == pytest.approx(told(run)["area_m2"])
    middle = np.concatenate([loop for p in turned.panels for loop in p.loops])[:, :2].mean(axis=0)
    by = corners[:, :2].mean(axis=0) - [10.0, 6.0]
    assert middle == pytest.approx(np.array([10.0, 6.0]) + [by[1], -by[0]], abs=0.5)  # clockwise about the middle of the footprint


def test_larger_than_its_roof_is_told_and_gives_what_fits() -> None:
    large = built(array_of(width_m=60, depth_m=40))
    assert told(large)["area_m2"] == pytest.approx(told(built(array_of()))["area_m2"])
    assert [r["object"] for r in large.outcome.remarks if r["code"] == "array-larger-than-place"] == ["scheme/plant/arrays/a/width_m"]


@pytest.mark.parametrize("lost", [{"on": "wall", "target": "gone/*"}, {"target": "v1/s9/*"}, {"width_m": 0.5}, {"on": "shade"}])
def test_an_array_without_a_place_counts_nothing_and_says_so(lost: dict[str, Any]) -> None:
    run = built(array_of(**lost))
    assert told(run)["kwh"] == 0
    assert [r["code"] for r in run.outcome.remarks if r["code"].startswith("array")] == ["array-without-place"]


def test_arrays_on_each_other_are_told() -> None:
    """Two on the same half of a roof; two on halves of their own; one beside a share of all roofs."""
    left, right = {"x": 0.0, "width_m": 10.0, "depth_m": 12.0}, {"x": 10.0, "width_m": 10.0, "depth_m": 12.0}

    def codes(*arrays: dict[str, Any], **more: Any) -> list[str]:
        run = built({"arrays": [{"id": f"a{k}", **a} for k, a in enumerate(arrays)], **more})
        return [r["object"] for r in run.outcome.remarks if r["code"] == "arrays-overlap"]

    assert codes(left, left) == ["scheme/plant/arrays/a1/x"]
    assert codes(left, right) == []
    assert codes(left, photovoltaics={"roof_share": 0.1}) == ["scheme/plant/arrays/a0/x"]


def test_a_wall_inside_holds_no_array() -> None:
    run = run_scheme(make_scheme(volumes=[volume("a"), volume("b") | {"x": 20.0}], plant=array_of(on="wall", target="a/s0/e2")))
    assert told(run)["area_m2"] == 0


def test_modules_on_a_wall_lie_beside_its_windows() -> None:
    run = built(array_of(on="wall", target="v1/*/e1"), skin={"glazing_ratio": {"south": 0.3}})
    wall = next(f for f in run.building.faces if f.edge == "v1/s0/e1")
    held = told(run)["area_m2"]
    assert 0.4 * (wall.area - wall.window_area) < held < wall.area - wall.window_area
    for loop in (loop for p in run.panels for loop in p.loops):
        s, z = loop[:, 0], loop[:, 2]
        for w in wall.windows:
            assert (
                s.max() < w.s - WALL_CLEAR_M + 5e-3
                or s.min() > w.s + w.width + WALL_CLEAR_M - 5e-3
                or (z.max() < w.z - WALL_CLEAR_M + 5e-3 or z.min() > w.z + w.height + WALL_CLEAR_M - 5e-3)
            )
    assert told(run)["kwh_per_kwp"] < told(built(array_of(tilt_deg=35)))["kwh_per_kwp"]


def test_an_array_on_overhangs_lies_on_them_and_the_lower_ones_are_shaded_by_the_upper() -> None:
    plant = array_of(on="shade", target="v1/*/e1")
    run = run_scheme(
        make_scheme(volumes=[volume(storeys=2)], skin={"overhang_depth_m": {"south": 1.2}, "fin_depth_m": {"south": 0.3}}, plant=plant)
    )
    assert len(run.panels) == 2  # no side fin among them
    assert told(run)["area_m2"] == pytest.approx(2 * 0.95 * 20 * 1.2)
    assert told(run)["shade_share"] > 0.1


def test_a_free_array_shades_what_lies_behind_it() -> None:
    """A large screen before the south windows: sun through them falls, and the array needs no roof."""
    free = {"on": "free", "x": 10.0, "y": -1.5, "level_m": 2.0, "width_m": 24.0, "depth_m": 4.0, "tilt_deg": 90}
    bare, screened = built({}), built(array_of(**free))
    assert told(screened)["area_m2"] == pytest.approx(96.0)
    assert screened.outcome.zones[0]["solar_kwh"] < 0.7 * bare.outcome.zones[0]["solar_kwh"]
    assert told(screened)["kwh"] > 0


def test_changed_arrays_leave_the_heat_balance_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    import eurythm.simulate as pipeline

    built(array_of())
    calls: list[int] = []
    monkeypatch.setattr(pipeline, "balance", lambda arrays: calls.append(1))
    for tilt, module in ((20, "mono"), (20, "thin_film")):
        built(array_of(tilt_deg=tilt, module=module) | {"battery": {"usable_kwh": tilt}})
    assert calls == []


def pvlib_chain(year: ClimateYear, tilt: float, azimuth: float) -> float:
    """Return kWh of 1 m² at 20% by functions of pvlib alone: its sun in the middle of the hour, sky, glass (for each part of the sky), heat, inverter."""
    at = year.location
    times = pd.date_range("2023-01-01 00:30", periods=HOURS, freq="h", tz="UTC") - pd.Timedelta(hours=at.time_zone_h)
    sun = pvlib.solarposition.get_solarposition(times, at.latitude_deg, at.longitude_deg)
    zenith, where = sun["zenith"].to_numpy(), sun["azimuth"].to_numpy()
    beam, level, even = (year[name] for name in ("direct_normal_wh_m2", "global_horizontal_wh_m2", "diffuse_horizontal_wh_m2"))
    extra = pvlib.irradiance.get_extra_radiation(times).to_numpy()
    airmass = np.nan_to_num(pvlib.atmosphere.get_relative_airmass(zenith), nan=40.0)
    sky = pvlib.irradiance.perez(tilt, azimuth, even, beam, extra, zenith, where, airmass, return_components=True)
    angle = pvlib.irradiance.aoi(tilt, azimuth, zenith, where)
    direct = beam * np.maximum(np.cos(np.radians(angle)), 0.0) * (zenith < 90)
    shares = pvlib.iam.marion_diffuse("physical", tilt)
    ground = pvlib.irradiance.get_ground_diffuse(tilt, level, 0.2)
    parts = {k: np.nan_to_num(np.asarray(sky[f"poa_{k}"], dtype=float)) for k in ("isotropic", "circumsolar", "horizon")}
    taken_in = (direct + parts["circumsolar"]) * np.nan_to_num(pvlib.iam.physical(angle)) + parts["isotropic"] * shares["sky"]
    taken_in = taken_in + parts["horizon"] * shares["horizon"] + ground * shares["ground"]
    cell = pvlib.temperature.faiman(taken_in, year.air_c, year["wind_speed_m_s"])
    made = pvlib.pvsystem.pvwatts_dc(taken_in, cell, 200.0, -0.0035)
    return float(np.nansum(pvlib.inverter.pvwatts(made, 200.0 / 1.1 / 0.965, eta_inv_nom=0.965))) / 1000


@pytest.mark.parametrize("climate", ["merrowhaven", "sorrel-flats"])
@pytest.mark.parametrize(("tilt", "azimuth"), [(35.0, 180.0), (15.0, 250.0)])
def test_an_unshaded_array_gives_what_the_chain_of_pvlib_gives(climate: str, tilt: float, azimuth: float) -> None:
    """Far from the building, high above open ground, within half a percent a year."""
    free = {"on": "free", "x": 400.0, "y": 400.0, "level_m": 60.0, "width_m": 2.0, "depth_m": 1.0, "tilt_deg": tilt, "azimuth_deg": azimuth}
    plain = {"efficiency": 0.2, "loss_per_k": 0.0035, "soiling": 0, "wiring": 0, "mismatch": 0}
    year = standin_year(climate)
    run = built(array_of(**free, **plain), climate=year)
    assert told(run)["shade_share"] == pytest.approx(0.0, abs=2e-3)
    assert told(run)["kwh"] / 2.0 == pytest.approx(pvlib_chain(year, tilt, azimuth), rel=5e-3)


def test_an_inverter_clips_by_hand() -> None:
    """10 kW at 96%: 4 kW in give 4 x 0.96 / 0.9637 x (0.9858 - 0.0162 x 0.384 - 0.0059 / 0.384); 15 kW give 10, 4.4 are clipped."""
    given_w, clipped = handed_on(np.array([0.0, 4000.0, 10000.0 / 0.96, 15000.0]), 10000.0, 0.96)
    part = 4000.0 * 0.96 / 10000.0
    assert given_w == pytest.approx([0.0, 4000 * 0.96 / 0.9637 * (0.9858 - 0.0162 * part - 0.0059 / part), 10000.0, 10000.0])
    assert clipped == pytest.approx([0.0, 0.0, 0.0, 4400.0], abs=1e-9)


def test_arrays_share_an_inverter_and_its_clipping() -> None:
    """Two arrays on one small inverter: together never above it, each loses its part, and what goes in comes out or is lost."""
    arrays = [{"id": "a", "tilt_deg": 20, "inverter": "i", "share": 0.2}, {"id": "w", "on": "wall", "target": "v1/*/e1", "inverter": "i"}]
    run = built({"arrays": arrays, "inverters": [{"id": "i", "rated_kw": 4.0}]}, skin={"glazing_ratio": {"south": 0.1}})
    inverter = run.outcome.renewables["inverters"][0]
    generation = run.delivered.sun.generation
    assert generation.output_w.max() == pytest.approx(4000.0)
    assert inverter["clipped_h"] > 100
    assert inverter["out_kwh"] == pytest.approx(sum(a["kwh"] for a in run.outcome.renewables["arrays"]))
    assert inverter["out_kwh"] == pytest.approx(generation.output_w.sum() / 1000)
    for one in run.outcome.renewables["arrays"]:
        lost = sum(one[k] for k in ("shade_share", "reflection_share", "heat_share", "losses_share", "inverter_share", "clipped_share"))
        assert one["kwh"] == pytest.approx(one["ideal_kwh"] * (1 - lost), rel=1e-9)
        assert one["clipped_share"] > 0.01


def test_an_unknown_inverter_is_refused_by_its_field() -> None:
    with pytest.raises(EurythmError) as told_:
        built(array_of(inverter="x"))
    assert (told_.value.code, told_.value.path) == ("no-such-inverter", "scheme/plant/arrays/a/inverter")


@pytest.mark.parametrize(
    "bad",
    [
        {"inverters": [{"id": "i", "rated_kw": 0}]}, {"arrays": [{"id": "a", "tilt_deg": 91}]}, {"arrays": [{"id": "a", "width_m": 0}]},
        {"battery": {"usable_kwh": -1}}, {"battery": {"efficiency": 0}}, {"collectors": [{"id": "c", "zero_loss": 1.2}]}, {"tank": {"litres": 0}},
    ],
)  # fmt: skip
def test_bad_figures_are_refused_by_their_field(bad: dict[str, Any]) -> None:
    with pytest.raises(EurythmError) as found:
        make_scheme(volumes=[volume()], plant=bad)
    assert found.value.path.startswith(f"plant/{next(iter(bad))}")


def test_upright_rows_on_a_roof_are_right_as_well() -> None:
    """At 90° no row shades the next at noon in midwinter, so they stand far apart and one row deep each."""
    run = built(array_of(tilt_deg=90))
    assert told(run)["area_m2"] > 0
    for a, b in pairwise(sorted({round(float(loop[0, 1]), 3) for p in run.panels for loop in p.loops})):
        assert b - a > 4.0


def test_a_battery_s_day_by_hand() -> None:
    """10 kWh, 4 kW, round trip 81%: 6, 3 and 3 kW left over fill it, 5 kW in the evening empty it at 4 kW."""
    surplus, lack = np.zeros(24), np.zeros(24)
    surplus[10:13], lack[18:21] = [6000, 3000, 3000], [5000, 5000, 5000]
    year = battery_year(surplus, lack, Battery(usable_kwh=8.0, power_kw=4.0, efficiency=0.81))
    assert year is not None
    left = 8000.0 - (4000 + 3000) * 0.9
    assert year.charged_w[10:13] == pytest.approx([4000, 3000, left / 0.9])
    assert year.discharged_w[18:21] == pytest.approx([4000, 8000 * 0.9 - 4000, 0])
    assert year.held_wh[[9, 10, 11, 12, 18, 20]] == pytest.approx([0, 3600, 6300, 8000, 8000 - 4000 / 0.9, 0], abs=1e-9)
    assert year.told["lost_kwh"] == pytest.approx((7000 + left / 0.9 - 7200) / 1000)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**31), st.floats(0.5, 60), st.floats(0.3, 1.0), st.floats(0.2, 40))
def test_a_battery_s_energy_closes(seed: int, usable: float, efficiency: float, power: float) -> None:
    made = np.random.default_rng(seed).normal(0, 8000, HOURS)
    surplus, lack = np.maximum(made, 0.0), np.maximum(-made, 0.0)
    year = battery_year(surplus, lack, Battery(usable_kwh=usable, power_kw=power, efficiency=efficiency))
    assert year is not None
    one_way = np.sqrt(efficiency)
    before = np.concatenate([[year.held_wh[-1]], year.held_wh[:-1]])
    assert year.held_wh - before == pytest.approx(year.charged_w * one_way - year.discharged_w / one_way, abs=1e-5)
    assert (year.charged_w <= np.minimum(surplus, power * 1000) + 1e-6).all()
    assert (year.discharged_w <= np.minimum(lack, power * 1000) + 1e-6).all()
    assert year.held_wh.min() >= 0
    assert year.held_wh.max() <= usable * 1000 + 1e-6


def test_no_battery_changes_nothing_and_one_moves_what_is_sold_into_the_evening() -> None:
    plant = array_of(tilt_deg=15)
    without, with_one = built(plant), built(plant | {"battery": {"usable_kwh": 20.0}})
    a, b = without.outcome.totals, with_one.outcome.totals
    made = sum(a["generation_kwh"].values())
    assert sum(b["generation_kwh"].values()) == pytest.approx(made)
    assert b["generation_kwh"]["used"] - a["generation_kwh"]["used"] == pytest.approx(
        with_one.outcome.renewables["battery"]["discharged_kwh"]
    )
    power = with_one.delivered.power_w.sum() / 1000
    assert b["covered_power_share"] == pytest.approx(b["generation_kwh"]["used"] / power)
    assert b["own_use_share"] == pytest.approx(1 - b["generation_kwh"]["exported"] / made)
    assert a["carrier_kwh"]["electricity"] - b["carrier_kwh"]["electricity"] == pytest.approx(
        b["generation_kwh"]["used"] - a["generation_kwh"]["used"]
    )
    assert sum(m["generation_used_kwh"] for m in with_one.outcome.monthly) == pytest.approx(b["generation_kwh"]["used"])


def still(light: float, area: float = 2.0) -> Field:
    even = np.full(HOURS, light)
    return Field(area, even, even, 0.8, 4.0, 0.0)


def test_collectors_heat_water_by_hand() -> None:
    """Under 500 W/m² always, water drawn evenly: the tank settles where 2 m² x (400 - 4 dT) = 60 W/K x (T - 10) + 3 W/K x (T - 15), at 15° air."""
    drawn = np.full(HOURS, 60.0 * 50.0)
    year = solar_year([still(500.0)], Tank(litres=100.0, loss_w_k=3.0), drawn, 50.0, np.full(HOURS, 15.0))
    assert year is not None
    settled = (2 * (400 + 4 * 15.0) + 60 * 10.0 + 3 * TANK_ROOM_C) / (2 * 4 + 60 + 3)
    assert year.tank_c[-1] == pytest.approx(settled, abs=1e-6)
    assert year.to_water_w[-1] == pytest.approx(60 * (settled - 10), rel=1e-6)
    assert year.told["share"] == pytest.approx((settled - 10) / 50, rel=1e-6)


def test_the_tank_s_energy_closes_and_it_never_boils() -> None:
    rng = np.random.default_rng(3)
    light = np.maximum(rng.normal(300, 300, HOURS), 0.0)
    collector = Field(20.0, light, light, 0.8, 3.0, 0.01)
    drawn = np.maximum(rng.normal(500, 800, HOURS), 0.0)
    year = solar_year([collector], Tank(litres=300.0), drawn, 50.0, rng.normal(10, 8, HOURS))
    assert year is not None
    before = np.concatenate([[year.tank_c[-1]], year.tank_c[:-1]])
    held = (year.tank_c - before) * 300 * 4186 / 3600
    assert year.given_w - year.tank_lost_w - year.to_water_w == pytest.approx(held, abs=1e-3)
    assert year.tank_c.max() <= 90 + 1e-6
    assert (year.to_water_w <= drawn + 1e-9).all()


@pytest.mark.parametrize("ready", ["seasonal", "gas-radiators"])
def test_collectors_spare_the_heater_what_they_give(ready: str) -> None:
    """What is asked of hot water falls by the sun's part, whatever heats it."""
    base = {"main": {"ready": ready}, "hot_water": {"carrier": "gas", "efficiency": 0.8}}
    collectors = {"collectors": [{"id": "c", "tilt_deg": 40, "share": 0.05}]}
    use = {"profile": "dwelling"}
    bare, sunny = built(base, use=use), built(base | collectors, use=use)
    heat = sunny.outcome.totals["solar_heat_kwh"]
    assert heat > 500
    if ready == "seasonal":
        saved = bare.outcome.totals["energy_kwh"]["hot_water"] - sunny.outcome.totals["energy_kwh"]["hot_water"]
        assert saved == pytest.approx(heat / 0.8)
    else:
        mine, base_ = sunny.outcome.systems[0], bare.outcome.systems[0]
        assert mine["water_sun_kwh"] == pytest.approx(heat)
        given_ = [sum(s["given_kwh"] for s in told_["water"]) for told_ in (base_, mine)]
        assert given_[0] - given_[1] == pytest.approx(heat)
    assert 0.2 < sunny.outcome.renewables["collectors"]["share"] < 0.9


def test_an_array_and_collectors_may_have_the_same_id() -> None:
    collectors = {"id": "a", "on": "free", "x": 5.0, "y": -8.0, "width_m": 3.0, "depth_m": 2.0}
    alone, beside = built(array_of(share=0.2)), built(array_of(share=0.2) | {"collectors": [collectors]}, use={"profile": "dwelling"})
    assert told(beside)["area_m2"] == told(alone)["area_m2"]
    assert beside.outcome.renewables["collectors"]["area_m2"] == pytest.approx(6.0)


def test_modules_lie_flat_in_a_slope() -> None:
    gable = volume(form={"length": 20, "depth": 10}, roof={"kind": "gable", "pitch_deg": 35, "eaves": "e1"})
    run = run_scheme(make_scheme(volumes=[gable], plant=array_of(tilt_deg=5)))
    assert len(run.panels) == 2
    for panel in run.panels:
        assert panel.pitch == 0
        for loop in panel.loops:
            vector = area_vector(loop)
            assert vector / np.linalg.norm(vector) == pytest.approx(panel.face.normal, abs=1e-6)


def test_ageing_costs_in_later_years_only() -> None:
    """What is saved falls by half a percent a year: the first year's cost stays, what is paid over the years grows."""
    young, old = (built(array_of(tilt_deg=15, ageing=a)).outcome for a in (0.0, 0.02))
    assert young.totals["cost"] == old.totals["cost"]
    assert old.worth["energy"] > young.worth["energy"]
    saved = old.worth["fading"][0]["saved"]
    missing = saved * (1 - 0.98 ** (np.arange(30) % 25))
    assert old.worth["energy"] - young.worth["energy"] == pytest.approx(
        float(missing @ (1 + old.worth["discount_rate"]) ** -np.arange(1, 31)), rel=1e-9
    )
    assert old.totals["whole_life_kg"] > young.totals["whole_life_kg"]
