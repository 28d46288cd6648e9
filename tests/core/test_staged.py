"""Systems with all their stages: each stage's energy closes, and hours worked by hand."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.brief.systems import (
    BY_ID,
    READY,
    AirBrief,
    ColdBrief,
    EmissionBrief,
    HeatBrief,
    SystemBrief,
    WaterBrief,
    completed,
    idle_figures,
    system_at,
    systems_of,
    zone_airs,
)  # fmt: skip
from eurythm.climate.standin import standin_year
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.plant import Plant, SystemFigures
from eurythm.model.reading import read_document
from eurythm.plant.air_side import Outdoors, ZonesWanted, beside_rooms, by_air, design_flow
from eurythm.plant.generation import carnot, cold_from, heat_from, heat_in_order, part_load, soil_c
from eurythm.plant.hot_water import hot_water_year
from eurythm.plant.outdoors import wet_bulb_c
from eurythm.plant.water_side import distribute, heating_curve
from eurythm.simulate import Run
from tests.conftest import make_scheme, run_scheme, volume

AIR_M3 = 1200.0
"""Heat capacity of air, J/m³K."""


def one(*values: float) -> np.ndarray:
    return np.array([values], dtype=float)


def outdoors(*air_c: float, humidity: float = 50.0) -> Outdoors:
    air = np.array(air_c, dtype=float)
    return Outdoors(air, np.full_like(air, 0.005), air - 3.0, np.full_like(air, humidity))


def wanted(heating: np.ndarray, cooling: np.ndarray, vented: np.ndarray, air: np.ndarray, fresh: np.ndarray) -> ZonesWanted:
    return ZonesWanted(heating, cooling, vented, air, fresh)


BALANCED = AirBrief("balanced", heat_recovery=0.8, frost_c=2.0, fan_w_ls=1.5)
ALL_AIR = AirBrief(
    "all_air", heat_recovery=0.0, fan_w_ls=0.0, supply_c=16.0, reset="fixed", most_supply_c=35.0, least_share=0.3, economiser="none"
)  # fmt: skip


# -- air side


def test_frost_protection_by_hand() -> None:
    """Room 20 °C, recovery 80%, exhaust not below 2 °C: outdoor air must come at 20 - 18 / 0.8 = -2.5 °C; at -12.5 °C that is 10 K of 100 W/K."""
    ask = wanted(one(3000.0), one(0.0), one(-650.0), one(20.0), one(100.0))
    made = beside_rooms(ask, BALANCED, outdoors(-12.5), AIR_M3)
    assert made.preheat_w[0] == pytest.approx(1000.0)
    assert made.heat_w[0] == pytest.approx(3000.0 - 0.2 * 1000.0 + 1000.0)
    assert made.fan_w[0] == pytest.approx(100.0 / AIR_M3 * 1000.0 * 1.5)
    assert made.recovered_w[0] == pytest.approx(100.0 * 0.8 * 32.5)
    warm = beside_rooms(ask, BALANCED, outdoors(0.0), AIR_M3)
    assert warm.preheat_w[0] == 0
    assert warm.heat_w[0] == 3000.0


def test_a_reheat_hour_by_hand() -> None:
    """Two rooms at 24 °C: one needs 1,600 W of cold, 200 W/K at 16 °C; one needs 100 W, at its least flow of 60 W/K: reheat of 380 W."""
    ask = wanted(np.zeros((2, 1)), np.array([[1600.0], [100.0]]), np.zeros((2, 1)), np.full((2, 1), 24.0), np.full((2, 1), 20.0))
    made = by_air(ask, ALL_AIR, outdoors(30.0), np.array([200.0, 200.0]), AIR_M3)
    assert made.moved_wk[0] == pytest.approx(260.0)
    assert made.reheat_w[0] == pytest.approx(60.0 * 8.0 - 100.0)
    mixed = (40.0 * 30.0 + 220.0 * 24.0) / 260.0
    assert made.cold_w[0] == pytest.approx(260.0 * (mixed - 16.0))
    assert made.supply_c[0] == pytest.approx(16.0)
    assert made.preheat_w[0] == 0


def test_a_recovery_hour_by_hand() -> None:
    """40 W/K of 200 from outdoors at -5 °C, room 22 °C, recovery 70%, 16 °C supplied: the mix of 16.6 °C needs no help, at -15 °C 14.6 needs 1.4 K."""
    air = replace(ALL_AIR, heat_recovery=0.7)
    for outside, helped in ((-5.0, 0.0), (-15.0, 200.0 * 1.4)):
        ask = wanted(one(0.0), one(1200.0), one(0.0), one(22.0), one(40.0))
        made = by_air(ask, air, outdoors(outside), np.array([200.0]), AIR_M3)
        assert made.moved_wk[0] == pytest.approx(200.0)
        assert made.recovered_w[0] == pytest.approx(helped)
        assert made.preheat_w[0] == pytest.approx(0.0)


def test_outdoor_air_cools_in_place_of_the_coil() -> None:
    """Room 24 °C, 16 °C supplied, 8 °C outside: half outdoor air does it; at 12% only, without economiser, the coil must."""
    ask = wanted(one(0.0), one(1600.0), one(0.0), one(24.0), one(24.0))
    free = by_air(ask, replace(ALL_AIR, economiser="dry_bulb"), outdoors(8.0), np.array([200.0]), AIR_M3)
    assert free.outdoor_wk[0] == pytest.approx(100.0)
    assert free.cold_w[0] == pytest.approx(0.0, abs=1e-9)
    coil = by_air(ask, ALL_AIR, outdoors(8.0), np.array([200.0]), AIR_M3)
    assert coil.outdoor_wk[0] == pytest.approx(24.0)
    assert coil.cold_w[0] == pytest.approx(200.0 * (0.12 * 8 + 0.88 * 24 - 16))


def test_fans_follow_flow_by_their_exponent() -> None:
    """Half the flow at the power of 2: a quarter of the 0.25 m³/s x 2,000 W of the design."""
    air = replace(ALL_AIR, fan_w_ls=2.0, fan_exponent=2.0, least_share=0.0)
    ask = wanted(one(0.0), one(150.0 * 8.0), one(0.0), one(24.0), one(0.0))
    made = by_air(ask, air, outdoors(24.0), np.array([300.0]), AIR_M3)
    assert made.moved_wk[0] == pytest.approx(150.0)
    assert made.fan_w[0] == pytest.approx(300.0 / AIR_M3 * 1000.0 * 2.0 / 4)


@given(seed=st.integers(0, 10_000), kind=st.sampled_from(["all_air", "unit"]), reset=st.sampled_from(["fixed", "outdoor", "need"]), economiser=st.sampled_from(["none", "dry_bulb", "enthalpy"]))  # fmt: skip
def test_an_air_handlers_energy_closes(seed: int, kind: str, reset: str, economiser: str) -> None:
    """What coils, fans, recovery and outdoor air bring is what rooms needed, less and more what is told as short; all rooms at 22 °C."""
    rng = np.random.default_rng(seed)
    zones, hours = (1 if kind == "unit" else 4), 200
    load = rng.normal(0, 2000, (zones, hours)) * (rng.random((zones, hours)) > 0.2)
    fresh = rng.random((zones, hours)) * 80 * (rng.random(hours) > 0.4)
    out = outdoors(*rng.uniform(-20, 38, hours))
    air = AirBrief(kind, 0.7, None, 2.0, 2.0, economiser, 15.0, reset, 19.0, 36.0, 0.3)  # type: ignore[arg-type]
    ask = wanted(np.maximum(load, 0), np.maximum(-load, 0), fresh * 0.3 * (out.air_c - 22.0), np.full((zones, hours), 22.0), fresh)
    made = by_air(ask, air, out, rng.uniform(50, 300, zones), AIR_M3)
    need = np.where((fresh > 0) | (load != 0), ask.heating_w - ask.cooling_w + ask.vented_w, 0.0).sum(axis=0)
    moved, back = made.moved_wk > 0, np.full(hours, 22.0)
    brought = made.preheat_w + made.reheat_w - made.cold_w + made.fan_w + made.recovered_w + made.outdoor_wk * (out.air_c - back)
    missing = need - made.short_heat_w + made.short_cold_w
    assert brought[moved] == pytest.approx(missing[moved], rel=1e-9, abs=1e-6)
    for series in (made.preheat_w, made.reheat_w, made.cold_w, made.fan_w, made.short_heat_w, made.short_cold_w):
        assert series.min() >= -1e-9


def test_flows_are_built_for_the_largest_need_and_the_outdoor_air() -> None:
    ask = wanted(one(0.0, 0.0), one(800.0, 400.0), one(0.0, 0.0), one(26.0, 26.0), one(20.0, 95.0))
    assert design_flow(ask, ALL_AIR, 1.0) == pytest.approx([95.0])
    assert design_flow(ask, ALL_AIR, 1.5) == pytest.approx([120.0])


# -- emission and distribution


EMISSION = EmissionBrief("radiators", 55.0, 45.0, 30.0, 15.0, 7.0, 0.10, 0.4, 0.01)


def test_the_heating_curve_runs_between_its_ends() -> None:
    assert heating_curve(EMISSION, np.array([-10.0, 2.5, 15.0, 25.0, -20.0]), -10.0) == pytest.approx([55.0, 42.5, 30.0, 30.0, 55.0])


def test_what_is_lost_on_the_way_closes() -> None:
    heat, cold = np.array([1000.0, 500.0, 0.0]), np.array([0.0, 100.0, 700.0])
    made = distribute(heat, cold, EMISSION, np.array([-10.0, 2.5, 20.0]), -10.0, 1000.0)
    assert made.heat_w == pytest.approx(heat + made.heat_lost_w, abs=1e-9)
    assert made.cold_w == pytest.approx(cold + made.cold_lost_w, abs=1e-9)
    assert made.heat_lost_w[0] == pytest.approx(60.0)
    assert made.return_c == pytest.approx([45.0, 42.5 - 5.0, 30.0])
    assert made.pump_w == pytest.approx([10.0, 6.0, 7.0])


# -- generation


def test_a_heat_pumps_cop_by_hand() -> None:
    """Water 35 °C, condenser 40; air 2 °C, evaporator -6: 0.5 x 313.15 / 46 = 3.404; 10% for defrosting in damp air."""
    pump = HeatBrief("air_heat_pump", "electricity", efficiency=0.5, hot_approach_k=5, cold_approach_k=8, most_cop=9, defrost=0.1)
    asked = np.array([5000.0])
    dry = heat_from(pump, asked, np.array([35.0]), np.array([30.0]), np.array([2.0]), outdoors(2.0), 8000.0, 2.0)
    assert dry.cop[0] == pytest.approx(0.5 * 313.15 / 46.0)
    assert dry.bought_w[0] == pytest.approx(5000.0 / (0.5 * 313.15 / 46.0))
    assert dry.ambient_w[0] + dry.bought_w[0] == pytest.approx(5000.0, abs=1e-9)
    damp = heat_from(pump, asked, np.array([35.0]), np.array([30.0]), np.array([2.0]), outdoors(2.0, humidity=90), 8000.0, 2.0)
    assert damp.cop[0] == pytest.approx(0.9 * dry.cop[0])


def test_a_cop_stays_within_its_limits() -> None:
    assert carnot(0.5, np.array([30.0]), np.array([29.9]), 7.0)[0] == 7.0
    assert carnot(0.1, np.array([60.0]), np.array([-40.0]), 7.0)[0] == 1.0


def test_going_on_and_off_costs_by_the_standards_form() -> None:
    """EN 14825: PLR / (0.9 PLR + 0.1); at half of what it modulates to 0.5 / 0.55."""
    assert part_load(np.array([0.15, 0.3, 1.0]), 0.3, 0.9) == pytest.approx([0.5 / 0.55, 1.0, 1.0])


def test_a_boiler_condenses_with_a_cool_return() -> None:
    """96% at 30 °C, 87% from 55 °C on, halfway between at 42.5; stand-by of 0.5% of 20 kW while it runs."""
    boiler = HeatBrief("boiler", "gas", efficiency=0.87, condensing=0.96, standby_share=0.005)
    returns = np.array([30.0, 42.5, 60.0, 30.0])
    made = heat_from(boiler, np.array([9600.0, 9150.0, 8700.0, 0.0]), returns + 10, returns, returns, outdoors(0, 0, 0, 0), 20000.0, -5.0)
    assert made.bought_w == pytest.approx([10100.0, 10100.0, 10100.0, 0.0])


def test_sources_give_in_their_order(merrowhaven: ClimateYear) -> None:
    """A pump of 3 kW that stops below -5 °C, then a boiler: what the first cannot the second does, and the rest is told."""
    pump = HeatBrief(
        "ground_heat_pump", "electricity", efficiency=0.5, hot_approach_k=4, cold_approach_k=8, most_cop=8, bivalent_c=-5.0, depth_m=50
    )
    boiler = HeatBrief("boiler", "gas", efficiency=0.9, condensing=0.9)
    hours = 8760
    air = np.where(np.arange(hours) % 2 == 0, 0.0, -8.0)
    out = Outdoors(air, np.full(hours, 0.004), air, np.full(hours, 50.0))
    asked = np.full(hours, 5000.0)
    (first, second), rest = heat_in_order(
        [(pump, 3000.0), (boiler, 4500.0)], asked, np.full(hours, 45.0), np.full(hours, 35.0), out, merrowhaven, -5.0
    )
    assert first.given_w[:2] == pytest.approx([3000.0, 0.0])
    assert second.given_w[:2] == pytest.approx([2000.0, 4500.0])
    assert rest[:2] == pytest.approx([0.0, 500.0])
    assert first.given_w + second.given_w + rest == pytest.approx(asked, abs=1e-9)


def test_a_chillers_eer_by_hand() -> None:
    """Water 7 °C, evaporator 3; 32 °C outside, condenser 44: 0.45 x 276.15 / 41 = 3.031."""
    chiller = ColdBrief("air_chiller", "electricity", efficiency=0.45, hot_approach_k=12, cold_approach_k=4, most_cop=9)
    made, rest = cold_from(chiller, np.array([1000.0]), 7.0, outdoors(32.0), standin_year("merrowhaven"), 1500.0)
    assert made.bought_w[0] == pytest.approx(1000.0 / (0.45 * 276.15 / 41.0))
    assert rest[0] == 0


def test_ground_cools_only_while_it_is_cold_enough(merrowhaven: ClimateYear) -> None:
    ground = ColdBrief("ground", "electricity", cold_approach_k=3.0, most_cop=20.0, depth_m=60.0)
    asked = np.full(8760, 100.0)
    soil = float(soil_c(merrowhaven, 60.0).mean())
    out = Outdoors(merrowhaven.air_c, merrowhaven.vapour_kg_kg, merrowhaven.air_c, merrowhaven["relative_humidity_pct"])
    some, rest = cold_from(ground, asked, soil + 3.5, out, merrowhaven, 1000.0)
    assert some.bought_w == pytest.approx(asked / 20.0)
    assert not rest.any()
    none, rest = cold_from(ground, asked, soil + 2.5, out, merrowhaven, 1000.0)
    assert not none.given_w.any()
    assert rest == pytest.approx(asked)


def test_soil_is_the_years_wave_and_deep_down_its_mean(merrowhaven: ClimateYear) -> None:
    """Depth 2 m: the amplitude falls to exp(-2 sqrt(pi / (365 x 0.0864))) = 53%, and the wave lags by 37 days."""
    top, below, deep = (soil_c(merrowhaven, d) for d in (0.0, 2.0, 80.0))
    swing = [float(np.ptp(s)) / 2 for s in (top, below)]
    fade = 2 * np.sqrt(np.pi / (365 * 0.0864))
    assert swing[1] / swing[0] == pytest.approx(np.exp(-fade), rel=1e-3)
    assert (int(below.argmax()) - int(top.argmax())) / 24 == pytest.approx(fade * 365 / (2 * np.pi), abs=0.1)
    assert np.ptp(deep) < 1e-3
    assert deep.mean() == pytest.approx(merrowhaven.air_c.mean(), abs=1e-6)


def test_wet_bulb_by_stulls_own_example() -> None:
    """20 °C at 50%: 13.7 °C."""
    assert wet_bulb_c(np.array([20.0]), np.array([50.0]))[0] == pytest.approx(13.7, abs=0.05)


def test_hot_water_closes() -> None:
    """100 l a day by 45 K are 5.23 kWh; store 2 kWh a day, circulation a fifth of what is drawn."""
    litres = np.tile([0.0] * 7 + [50.0] + [0.0] * 10 + [50.0] + [0.0] * 5, 365)
    made = hot_water_year(litres, np.zeros(len(litres)), 45.0, WaterBrief("electric", 55.0, 2.0, 0.2, 1.0))
    assert made.drawn_w.sum() / 365 / 1000 == pytest.approx(100 * 4186 * 45 / 3.6e6)
    assert made.stored_w.sum() / 365 / 1000 == pytest.approx(2.0)
    assert made.circulated_w.sum() == pytest.approx(0.2 * made.drawn_w.sum())
    assert made.asked_w == pytest.approx(made.drawn_w + made.stored_w + made.circulated_w)
    assert hot_water_year(np.zeros(24), np.zeros(24), 45.0, WaterBrief("electric", 55.0, 2.0, 0.2, 1.0)).asked_w.sum() == 0


# -- whole systems


def made(**plant: object) -> Run:
    return run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core", storeys=2)], plant=plant))


def staged(run: Run) -> tuple[dict, object]:
    return dict(run.delivered.systems[0]), run.delivered.years[0]


@pytest.mark.parametrize("ready", list(BY_ID))
def test_every_ready_combination_closes_stage_by_stage(ready: str) -> None:
    """Air to water, water to sources, sources to carriers, all within 1e-9; and no energy is lost on its way to the totals."""
    one_run = made(main={"ready": ready})
    told, year = staged(one_run)
    air, water, hot = year.air, year.water, year.hot_water  # type: ignore[attr-defined]
    assert water.heat_w == pytest.approx(air.heat_w + water.heat_lost_w, abs=1e-6)
    assert water.cold_w == pytest.approx(air.cold_w + water.cold_lost_w, abs=1e-6)
    given = sum(h.given_w for h in year.heat)  # type: ignore[attr-defined]
    assert given + year.short_heat_w - air.short_heat_w == pytest.approx(water.heat_w, abs=1e-6)  # type: ignore[attr-defined]
    assert sum(w.given_w for w in year.for_water) == pytest.approx(hot.asked_w, abs=1e-6)  # type: ignore[attr-defined]
    bought = sum(float(s.sum()) for s in year.energy.values()) / 1000  # type: ignore[attr-defined]
    totals = one_run.outcome.totals["energy_kwh"]
    assert bought == pytest.approx(sum(v for k, v in totals.items() if k not in ("lighting", "equipment")), rel=1e-9)
    assert sum(one_run.outcome.totals["carrier_kwh"].values()) == pytest.approx(sum(totals.values()), rel=1e-9)
    for source in (*told["heat"], *told["water"]):
        assert (
            source["given_kwh"] - source["bought_kwh"] - source["ambient_kwh"] == pytest.approx(0, abs=1e-6) or source["ambient_kwh"] == 0
        )
    assert told["zones"] == len(one_run.building.zones)
    assert told["short_heat_h"] < 200


def test_at_constant_temperatures_the_seasonal_factor_is_the_hand_worked_cop() -> None:
    """Ground of 60 m, one water temperature, no cycling: the year's factor is one hour's COP."""
    one_run = made(
        main={"ready": "ground-pump-floor", "emission": {"flow_c": 35, "least_flow_c": 35, "return_c": 30}, "heat": {"cycling": 1.0}}
    )
    told, _ = staged(one_run)
    soil = float(soil_c(one_run.brief.climate, 60.0).mean())
    pump = told["heat"][0]
    hot, cold = 35 + 4 + 273.15, soil - 11 + 273.15
    assert pump["seasonal_factor"] == pytest.approx(0.56 * hot / (hot - cold), rel=1e-4)


def test_air_beside_the_rooms_leaves_demand_as_the_plain_figures_have_it() -> None:
    """The same recovery, fans and coil: rooms ask the same, and a seasonal efficiency equal to the year's factor buys the same."""
    air = {"heat_recovery": 0.75, "fan_w_ls": 1.6}
    full = made(main={"ready": "gas-fan-coils", "air": {**air, "frost_c": -30}})
    plain = made(cooling={"coil_c": 11.0}, ventilation=air)
    for figure in ("heating_demand_kwh", "cooling_demand_kwh", "latent_demand_kwh"):
        assert full.outcome.totals[figure] == pytest.approx(plain.outcome.totals[figure], rel=1e-9)  # type: ignore[literal-required]
    told, _ = staged(full)
    boiler, chiller = told["heat"][0], told["cold"][0]
    again = made(
        heating={"carrier": "gas", "efficiency": plain.outcome.totals["heating_demand_kwh"] / boiler["bought_kwh"]},
        cooling={"coil_c": 11.0, "efficiency": (told["rooms_cold_kwh"] + told["latent_kwh"]) / chiller["bought_kwh"]}, ventilation=air,
    )  # fmt: skip
    for use in ("heating", "cooling", "fans"):
        assert again.outcome.totals["energy_kwh"][use] == pytest.approx(full.outcome.totals["energy_kwh"][use], rel=1e-6)  # type: ignore[index]


def test_zones_are_grouped_on_systems() -> None:
    plant = {"main": {"ready": "gas-radiators"}, "systems": [{"id": "hall", "name": "Hall", "ready": "all-air-gas", "zones": ["v1/s1/*"]}]}
    one_run = made(**plant)
    main, hall = one_run.delivered.systems
    assert main["zones"] + hall["zones"] == len(one_run.building.zones)
    assert hall["reheat_kwh"] > 0
    assert main["fans_kwh"] == 0
    ids = [z.id for z in one_run.building.zones]
    found = system_at(read_document(Plant, plant), ids)
    assert found == [1 if "/s1/" in z else 0 for z in ids]
    airs = zone_airs(read_document(Plant, plant), ids)
    assert [a.cooled for a in airs] == [k == 1 for k in found]


def test_rated_power_is_given_or_by_the_design_day() -> None:
    sized, _ = staged(made(main={"ready": "gas-radiators"}))
    more, _ = staged(made(main={"ready": "gas-radiators", "margin": 2.3}))
    assert more["heat"][0]["rated_kw"] == pytest.approx(2 * sized["heat"][0]["rated_kw"], rel=1e-9)
    small, _ = staged(made(main={"ready": "gas-radiators", "heat": {"power_kw": 2.0}}))
    assert small["heat"][0]["rated_kw"] == 2.0
    assert small["short_heat_h"] > 500


def test_given_figures_hold_where_they_mean_something_and_idle_ones_are_told() -> None:
    figures = read_document(
        SystemFigures, {"ready": "all-air-gas", "air": {"supply_c": 14, "heat_recovery": 0.6}, "heat": {"power_kw": 50, "depth_m": 30}}
    )
    assert idle_figures(figures) == ["heat/depth_m"]
    assert completed(figures, "m", "", "p").air.supply_c == 14
    other = figures.model_copy(update={"ready": "district-radiators"})
    assert idle_figures(other) == ["air/supply_c", "heat/depth_m"]
    assert completed(other, "m", "", "p").air.heat_recovery == 0.6
    assert "air/supply_c" in idle_figures(figures.model_copy(update={"ready": "seasonal"}))


@pytest.mark.parametrize(("figures", "code", "path"), [
    ({"ready": "magic"}, "unknown-system", "ready"), ({"ready": "gas-radiators", "heat": {"kind": "none"}}, "system-without-source", "heat/kind"),
    ({"ready": "gas-radiators", "emission": {"flow_c": 40}}, "water-crossed", "emission/return_c"),
    ({"ready": "gas-radiators", "emission": {"least_flow_c": 70}}, "water-crossed", "emission/least_flow_c"),
    ({"ready": "all-air-gas", "air": {"supply_c": 25, "most_supply_c": 24}}, "supply-crossed", "air/most_supply_c"),
    ({"ready": "gas-radiators", "heat": {"condensing": 0.8}}, "boiler-crossed", "heat/condensing"),
])  # fmt: skip
def test_systems_that_cannot_be_are_refused_where_it_is_said(figures: dict, code: str, path: str) -> None:
    with pytest.raises(EurythmError) as fault:
        systems_of(read_document(Plant, {"main": figures}))
    assert fault.value.code == code
    assert fault.value.path == f"scheme/plant/main/{path}"


@pytest.mark.parametrize("figures", [{"heat": {"power_kw": 0}}, {"heat": {"most_cop": 1.0}}, {"margin": 0}, {"air": {"least_share": 1.2}}])
def test_figures_beyond_what_can_be_are_refused(figures: dict) -> None:
    with pytest.raises(EurythmError):
        read_document(SystemFigures, figures)


def test_supply_air_reset_by_need_leaves_no_room_short() -> None:
    """Two rooms, one of which asks 40 W of cold at 20.5 °C: 400 W/K at 20.4 °C meet it; the other needs 89 and gets its least of 120."""
    air = replace(ALL_AIR, reset="need")
    ask = wanted(np.zeros((2, 1)), np.array([[40.0], [500.0]]), np.zeros((2, 1)), np.array([[20.5], [26.0]]), np.full((2, 1), 30.0))
    made = by_air(ask, air, outdoors(24.0), np.array([400.0, 400.0]), AIR_M3)
    assert made.supply_c[0] == pytest.approx(20.4)
    assert made.short_cold_w[0] == pytest.approx(0.0, abs=1e-9)
    assert made.moved_wk[0] == pytest.approx(400.0 + 120.0)


def test_a_study_of_systems_runs_one_balance_for_each_air_side(monkeypatch: pytest.MonkeyPatch) -> None:
    """Systems whose rooms feel the same, arrays and prices besides: one heat balance, and one more for each other air side."""
    import eurythm.simulate as pipeline
    from eurythm.memo import Memo
    from eurythm.model.library import Library
    from eurythm.model.place import Place
    from eurythm.model.project import Factors

    monkeypatch.setattr(pipeline, "MEMO", Memo())
    ran, sized = 0, 0
    inner = pipeline.balance_many

    def counting(cases: list, limits: list) -> list:
        nonlocal ran, sized
        years = sum(case.hours == 8760 for case in cases)
        ran, sized = ran + years, sized + len(cases) - years
        return inner(cases, limits)

    monkeypatch.setattr(pipeline, "balance_many", counting)

    def on_roof(tilt: float) -> dict[str, Any]:
        return {"arrays": [{"id": "a", "tilt_deg": tilt}], "battery": {"usable_kwh": tilt}}

    alike = ["biomass-radiators", "district-radiators", "air-pump-radiators", "air-pump-floor", "air-pump-gas"]
    year = standin_year("merrowhaven")
    cases = [
        pipeline.prepare_case(
            Place(),
            Library(),
            make_scheme(volumes=[volume()], plant={"main": {"ready": ready}, **on_roof(tilt)}),
            read_document(Factors, {"electricity": {"price": price}}),
            year,
        )
        for ready in [*alike, "all-air-gas"]
        for tilt in (10, 35)
        for price in (0.2, 0.4)
    ]
    first = pipeline.run_many(cases)
    assert (ran, sized) == (2, 4)  # and two design days for each
    again = pipeline.run_many(cases)
    assert (ran, sized) == (2, 4)
    assert [s.totals for s in first] == [s.totals for s in again]
    assert len({s.totals["cost"] for s in first}) == len(cases)  # each of the three counts in each


def test_every_ready_combination_says_what_it_is() -> None:
    assert len(READY) >= 12
    for ready in READY:
        assert 80 < len(ready.about) < 400
        brief: SystemBrief = completed(SystemFigures(ready=ready.id), "m", "", "p")
        assert brief.name == ready.name


def test_systems_and_their_figures_are_levers() -> None:
    """Of a seasonal figure only the system itself; of a system what has a meaning in it, from where it stands."""
    from eurythm.model.library import Library
    from eurythm.model.place import Place
    from eurythm.model.project import Factors
    from eurythm.model.study import LeverSpec
    from eurythm.study.levers import LEVERS, CaseInputs

    lever = LEVERS["field"]

    def inputs(**plant: object) -> CaseInputs:
        scheme = make_scheme(volumes=[volume()], plant=plant)
        return CaseInputs(Place(), Library(), Factors(), scheme, (scheme,))

    plain = {str(o.path) for o in lever.offers(inputs()) if str(o.path).startswith("plant/main/")}
    assert plain == {"plant/main/ready", "plant/main/margin"}
    case = inputs(main={"ready": "ground-pump-floor"})
    offers = {str(o.path): o for o in lever.offers(case)}
    assert {"plant/main/heat/efficiency", "plant/main/emission/flow_c", "plant/main/heat/power_kw"} <= offers.keys()
    assert "plant/main/air/supply_c" not in offers
    assert {c["id"] for c in offers["plant/main/ready"].choices} == {"seasonal", *BY_ID}
    spec = LeverSpec(kind="field", path="plant/main/heat/efficiency", steps=(0.4,))
    assert lever.current(spec, case) == 0.56
    assert lever.apply(spec, 0.4, case).scheme.plant.main.heat.efficiency == 0.4
    ready = LeverSpec(kind="field", path="plant/main/ready", steps=("seasonal",))
    assert lever.label(ready, "gas-radiators", case) == "Gas boiler, radiators, windows"


def test_hours_that_are_not_met_and_idle_figures_are_remarked_on() -> None:
    one_run = made(main={"ready": "gas-radiators", "heat": {"power_kw": 2.0, "depth_m": 30}})
    remarks = {r["code"]: r for r in one_run.outcome.remarks}
    assert remarks["load-not-met"]["object"] == "scheme/plant/main/heat/power_kw"
    assert str(one_run.delivered.systems[0]["short_heat_h"])[:1] in remarks["load-not-met"]["sentence"]
    assert remarks["figure-without-meaning"]["object"] == "scheme/plant/main/heat/depth_m"
    fine = {r["code"] for r in made(main={"ready": "gas-radiators"}).outcome.remarks}
    assert not fine & {"load-not-met", "figure-without-meaning"}
