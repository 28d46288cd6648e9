"""From demand to the meter: every figure by hand from the hourly series."""

from __future__ import annotations

import numpy as np
import pvlib
import pytest

from eurythm.brief.resolve import days_of
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.plant.delivered import END_USES, hot_water_l_h
from eurythm.plant.panels import ROW_M, roofs, share_of_roofs
from eurythm.plant.photovoltaics import ROW_POINTS, generate, rows_shading
from eurythm.simulate import Run, run
from eurythm.sun.radiation import FaceLight, light_on, sun_in_drawing
from tests.conftest import make_scheme, run_scheme, volume


def made(plant: dict | None = None, factors: dict | None = None, place: dict | None = None, **parts: object) -> Run:
    scheme = make_scheme(**{"volumes": [volume(storeys=2)], "plant": plant or {}, **parts})
    return run(
        read_document(Place, place or {}), Library(), scheme, read_document(Factors, factors or {}), standin_year("merrowhaven")
    )  # fmt: skip


def kwh(series: np.ndarray) -> float:
    return float(series.sum()) / 1000


def test_heating_and_cooling_are_demand_by_efficiency() -> None:
    one = made({"heating": {"efficiency": 0.9, "carrier": "gas"}, "cooling": {"efficiency": 4.0}})
    energy = one.outcome.totals["energy_kwh"]
    assert energy["heating"] == pytest.approx(one.outcome.totals["heating_demand_kwh"] / 0.9)
    assert energy["cooling"] == pytest.approx((one.outcome.totals["cooling_demand_kwh"] + one.outcome.totals["latent_demand_kwh"]) / 4.0)
    assert one.outcome.totals["carrier_kwh"]["gas"] == pytest.approx(energy["heating"])


def test_every_end_use_is_told_and_carriers_take_all_of_it() -> None:
    one = made({"hot_water": {"carrier": "biomass"}}).outcome.totals
    assert set(one["energy_kwh"]) == set(END_USES)
    assert sum(one["carrier_kwh"].values()) == pytest.approx(sum(one["energy_kwh"].values()))
    assert one["carrier_kwh"]["biomass"] == pytest.approx(one["energy_kwh"]["hot_water"])


def test_lighting_and_equipment_are_their_schedules() -> None:
    one = made(use={"profile": "office", "lighting_w_m2": 6.0, "equipment_w_m2": 10.0})
    area = float(one.arrays.floor_area.sum())
    profile = one.arrays.zones[0].profile
    weekday = days_of(one.brief.place, one.brief.climate).weekday < 5
    lit = sum(profile.lighting.days[0].values) * weekday.sum()
    assert one.outcome.totals["energy_kwh"]["lighting"] == pytest.approx(6.0 * lit * area / 1000, rel=1e-9)
    idle = sum(profile.equipment.days[1].values) * (~weekday).sum()
    powered = sum(profile.equipment.days[0].values) * weekday.sum() + idle
    assert one.outcome.totals["energy_kwh"]["equipment"] == pytest.approx(10.0 * powered * area / 1000, rel=1e-9)


@pytest.mark.parametrize(("kind", "more", "radiant"), [
    ("lighting", {"lighting_w_m2": 20.0}, 0.6), ("equipment", {"equipment_w_m2": 20.0}, 0.3), ("people", {"profile": "crowded"}, 0.5),
])  # fmt: skip
def test_gains_are_part_radiant_part_convective(kind: str, more: dict, radiant: float) -> None:
    """Of light, equipment and people; our own assumptions, which method.md tells."""
    day = [1.0] * 24
    plain = {
        "id": "plain", "name": "Plain", "occupancy": {"weekday": day}, "lighting": {"weekday": day}, "equipment": {"weekday": day},
        "person_area": 20, "lighting_w_m2": 5, "equipment_w_m2": 5,
    }  # fmt: skip
    library = read_document(Library, {"profiles": [plain, {**plain, "id": "crowded", "person_area": 5}]})
    runs = [run_scheme(make_scheme(volumes=[volume()], use={"profile": "plain", **use}), library=library) for use in ({}, more)]
    convective, in_rays = (np.sum(runs[1].arrays.series[part] - runs[0].arrays.series[part]) for part in ("convective", "radiant"))
    assert convective + in_rays > 0
    assert in_rays / (convective + in_rays) == pytest.approx(radiant, rel=1e-9), kind


def test_fans_follow_flow_and_pumps_follow_heat() -> None:
    one = made({"ventilation": {"fan_w_ls": 2.0, "pump_share": 0.05}})
    totals = one.outcome.totals
    litres = one.arrays.asked.fresh_m3_s.sum() * 1000
    assert totals["energy_kwh"]["fans"] == pytest.approx(2.0 * litres / 1000)
    moved = totals["heating_demand_kwh"] + totals["cooling_demand_kwh"] + totals["latent_demand_kwh"]
    assert totals["energy_kwh"]["pumps"] == pytest.approx(0.05 * moved)


def test_hot_water_is_litres_by_rise() -> None:
    one = made({"hot_water": {"rise_k": 50, "efficiency": 2.0}}, use={"profile": "dwelling"})
    profile = one.arrays.zones[0].profile
    most = max(profile.occupancy.values)
    people = float(one.arrays.floor_area.sum()) / profile.person_area * most
    heat = people * profile.hot_water_l_person_day * 4186 * 50 * 365 / 3.6e6
    assert one.outcome.totals["energy_kwh"]["hot_water"] == pytest.approx(heat / 2.0, rel=1e-6)
    fixed = made(use={"zones": [{"id": "g", "zone": "*", "gains_w": 500}]})
    assert hot_water_l_h(fixed.arrays.zones, fixed.arrays.floor_area).sum() == 0


def test_less_heat_recovery_costs_heat() -> None:
    none, some = (made({"ventilation": {"heat_recovery": r}}).outcome.totals["heating_demand_kwh"] for r in (0.0, 0.8))
    assert some < 0.6 * none


def panels(share: float, **more: object) -> Run:
    return made({"photovoltaics": {"roof_share": share, **more}})


def test_no_panels_no_generation() -> None:
    assert panels(0.0).outcome.totals["generation_kwh"] == {"used": 0.0, "exported": 0.0, "lost": 0.0}
    assert panels(0.0).outcome.totals["module_area_m2"] == 0


def test_flat_panels_make_what_the_sky_gives() -> None:
    """On an open roof the yield is area x horizontal radiation x efficiency x losses x inverter, less the heat of the modules."""
    one = panels(0.4, tilt_deg=0, module_efficiency=0.2, losses=0.1, inverter_efficiency=0.95)
    area = 0.4 * 20 * 12
    assert one.outcome.totals["module_area_m2"] == pytest.approx(area)
    year = one.brief.climate
    sun = float(year["global_horizontal_wh_m2"].sum()) / 1000
    ideal = area * sun * 0.2 * 0.9 * 0.95
    output = sum(one.outcome.totals["generation_kwh"].values())
    assert 0.93 * ideal < output < 1.05 * ideal


def test_hot_modules_lose_a_third_of_a_percent_a_kelvin(merrowhaven) -> None:
    """Under an even 800 W/m², by hand: module temperature after Faiman, 0.35% a kelvin from 25 °C on."""
    one = panels(0.4, tilt_deg=0, module_efficiency=0.2, losses=0.1, inverter_efficiency=0.95)
    plant = one.brief.scheme.plant
    even, none = np.full(HOURS, 800.0), np.zeros(HOURS)
    light = {p.face.id: FaceLight(even, none, none, none, np.ones(HOURS), 1.0, 1.0) for p in one.panels}
    taken_in = 800.0 * pvlib.iam.marion_diffuse("physical", 0.0)["sky"]
    module_c = pvlib.temperature.faiman(taken_in, merrowhaven.air_c, merrowhaven["wind_speed_m_s"])
    by_hand = taken_in * 0.2 * (1 - 0.0035 * (module_c - 25.0)) * 0.4 * 20 * 12 * 0.9 * 0.95
    assert generate(one.panels, light, plant, one.brief.place, merrowhaven).output_w == pytest.approx(by_hand, rel=1e-9)


def test_generation_is_used_first_and_only_the_rest_is_exported() -> None:
    one = panels(0.8)
    delivered = one.delivered
    electricity = sum(s for (_, carrier), s in delivered.energy.items() if carrier == "electricity")
    assert np.all(delivered.used <= electricity + 1e-9)
    assert delivered.used + delivered.imported["electricity"] == pytest.approx(electricity)
    assert np.all(delivered.exported[delivered.used < electricity - 1e-6] == 0)
    assert kwh(delivered.exported) > 0
    totals = one.outcome.totals
    area = totals["conditioned_floor_area_m2"]
    assert totals["eui_net_kwh_per_m2"] == pytest.approx(totals["eui_kwh_per_m2"] - kwh(delivered.used) / area)


def test_more_panels_make_proportionally_more() -> None:
    """Flat ones, which do not shade each other."""
    flat = [made({"photovoltaics": {"roof_share": s, "tilt_deg": 0}}).outcome.totals["generation_kwh"] for s in (0.2, 0.6)]
    small, large = (sum(g.values()) for g in flat)
    assert large == pytest.approx(3 * small, rel=1e-6)


def test_panels_look_where_they_are_told_whatever_north_is() -> None:
    scheme = make_scheme(volumes=[volume()], plant={"photovoltaics": {"roof_share": 0.5, "tilt_deg": 30, "azimuth_deg": 180}})
    from eurythm.geometry.form import make_building

    building = make_building(scheme, 0.0)
    assert len(roofs(building)) == 1
    for north in (0.0, 40.0):
        panel = share_of_roofs(building, scheme.plant.photovoltaics, north)[0].face
        assert panel.azimuth_deg(north) == pytest.approx(180.0, abs=0.01)
        assert panel.tilt_deg == pytest.approx(30.0, abs=0.01)
    south, steep_north = panels(0.3, tilt_deg=35), panels(0.3, tilt_deg=35, azimuth_deg=0)
    assert sum(steep_north.outcome.totals["generation_kwh"].values()) < 0.75 * sum(south.outcome.totals["generation_kwh"].values())


def test_a_tower_next_door_takes_sun_from_the_panels() -> None:
    plant = {"photovoltaics": {"roof_share": 0.5}}
    box = {"id": "b", "x": -10, "y": -12, "length": 40, "depth": 10, "height": 40}
    open_roof, shaded = (sum(made(plant, place=p).outcome.totals["generation_kwh"].values()) for p in ({}, {"boxes": [box]}))
    assert shaded < 0.75 * open_roof


def test_carbon_and_cost_are_carriers_by_factor() -> None:
    factors = {
        "electricity": {"price": 0.30, "carbon": 0.10},
        "gas": {"price": 0.12, "carbon": 0.21},
        "export_price": 0.05,
    }
    one = made({"heating": {"carrier": "gas", "efficiency": 0.9}, "photovoltaics": {"roof_share": 0.9}}, factors).outcome.totals
    power, gas, exported = one["carrier_kwh"]["electricity"], one["carrier_kwh"]["gas"], one["generation_kwh"]["exported"]
    assert one["carbon_kg"] == pytest.approx(0.10 * power + 0.21 * gas)
    assert one["cost"] == pytest.approx(0.30 * power + 0.12 * gas - 0.05 * exported)
    assert one["carbon_kg_per_m2"] == pytest.approx(one["carbon_kg"] / one["conditioned_floor_area_m2"])


def test_panels_on_a_pitched_roof_lie_in_its_slopes() -> None:
    """A gable that looks south and north, and the same panels tilted as the slope is: the south slope yields as one of its tilt."""
    plant = {"photovoltaics": {"roof_share": 0.5, "tilt_deg": 5}}
    gable = made(plant, volumes=[volume(form={"length": 20, "depth": 10}, roof={"kind": "gable", "pitch_deg": 35, "eaves": "e1"})])
    panels = [p.face for p in gable.panels]
    tilts = sorted(round(float(np.degrees(np.arccos(p.normal[2]))), 3) for p in panels)
    assert tilts == [35.0, 35.0]
    assert {round(float(p.normal[1]), 3) for p in panels} == {
        -round(float(np.sin(np.radians(35))), 3),
        round(float(np.sin(np.radians(35))), 3),
    }
    assert sum(p.area for p in panels) == pytest.approx(200 / np.cos(np.radians(35)))
    flat = made({"photovoltaics": {"roof_share": 0.5, "tilt_deg": 35}}, volumes=[volume(form={"length": 20, "depth": 10})])
    # half of the gable's panels look south as all of the flat roof's do; the other half, to the north, yields less
    per_area = [sum(r.outcome.totals["generation_kwh"].values()) / sum(f.area for f in roofs(r.building)) for r in (gable, flat)]
    assert 0.6 * per_area[1] < per_area[0] < 0.95 * per_area[1]


@pytest.mark.parametrize(("share", "tilt"), [(0.3, 30.0), (0.5, 20.0), (0.7, 30.0)])
def test_rows_shade_each_other_by_their_profile_angle(share: float, tilt: float, merrowhaven) -> None:
    """Endless rows by hand: below a point up the slope the row before hides the sun; its top stands where its slope ends."""
    s, c = np.sin(np.radians(tilt)), np.cos(np.radians(tilt))
    rows = rows_shading((0.0, -float(s), float(c)), ROW_M / share, 0.0, merrowhaven.location)
    hours, toward = sun_in_drawing(0.0, merrowhaven.location)
    front = -toward[:, 1] > 0.02
    rise = toward[front, 2] / -toward[front, 1]
    gap = ROW_M / share - ROW_M * c
    hidden = np.clip((ROW_M * s - rise * gap) / (s + rise * c), 0.0, ROW_M) / ROW_M
    assert rows.sun[hours[front]] == pytest.approx(1 - hidden, abs=0.5 / ROW_POINTS + 0.02)
    assert rows.sun[hours[front]].mean() == pytest.approx((1 - hidden).mean(), abs=0.01)


def test_closer_rows_lose_more_and_flat_ones_nothing(merrowhaven) -> None:
    """At seven tenths of the roof and 30 degrees rows take 6 to 12% of each other's light; what more panels give grows less."""
    at, normal = merrowhaven.location, (0.0, -0.5, float(np.sqrt(0.75)))
    loose, close = (rows_shading(normal, ROW_M / share, 0.0, at) for share in (0.3, 0.7))
    assert 1 >= loose.diffuse > close.diffuse > 0.85
    assert loose.sun.mean() > close.sun.mean()
    assert rows_shading((0.0, 0.0, 1.0), 1.6, 0.0, at).sun.min() == 1.0
    assert rows_shading(normal, 1e4, 0.0, at).sun.min() == rows_shading(normal, 1e9, 0.0, at).sun.min() == 1.0
    given = [made({"photovoltaics": {"roof_share": share, "tilt_deg": 30}}).outcome.totals for share in (0.1, 0.7)]
    per_area = [sum(t["generation_kwh"].values()) / t["module_area_m2"] for t in given]
    assert 0.06 < 1 - per_area[1] / per_area[0] < 0.12


def test_panels_take_in_less_where_the_sun_is_flat(merrowhaven) -> None:
    """Losses by angle: a panel upright to the west loses more of its light than one level to the high sun; none gives more than its light."""
    one = made({"photovoltaics": {"roof_share": 0.2, "tilt_deg": 0, "losses": 0, "inverter_efficiency": 1, "module_efficiency": 0.2}})
    looking = [(p.face, p.samples) for p in one.panels]
    light = next(iter(light_on(one.building, one.brief.place, merrowhaven, looking).values())).wall.sum() / 1000
    given = sum(one.outcome.totals["generation_kwh"].values()) / one.outcome.totals["module_area_m2"]
    assert 0.85 * 0.2 * light < given < 0.99 * 0.2 * light
