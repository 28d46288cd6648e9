"""Air, plant limits, moisture, bridges and blinds against what can be reckoned by hand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.fabric.glass import with_blinds
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.simulate import Run
from eurythm.thermal import elements
from eurythm.thermal.air import wind_share
from eurythm.thermal.elements import AIR_HEAT, EVAPORATION
from eurythm.thermal.kernel import Y
from tests.conftest import make_scheme, run_scheme, steady_year, volume

ALWAYS = {"weekday": [20.0] * 24}


def cold_box(air_c: float = 0.0, wind: float = 3.0, use: dict | None = None, **more: object):
    """A box held at 20 °C in a dark steady year, without gains or ventilation unless the use says so."""
    zone = {"id": "z", "zone": "*", "gains_w": 0.0, "heating_c": ALWAYS, "air_changes": 0.0} | (use or {}).pop("zone", {})
    box = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}}]
    return run_scheme(make_scheme(zones=box, use={"zones": [zone], **(use or {})}, **more), steady_year(air_c, wind))


def heat(made) -> float:
    return float(made.demand.heating_w[0, 5000])


def test_a_surcharge_adds_its_share_of_the_outdoor_area() -> None:
    without = cold_box()
    with_it = cold_box(skin={"thermal_bridges": {"surcharge_w_m2k": 0.1}})
    outdoor = sum(f.area for f in without.building.faces if f.boundary == "outdoors")
    assert heat(with_it) - heat(without) == pytest.approx(0.1 * outdoor * 20, rel=1e-3)


def test_rims_and_edges_count_by_their_length() -> None:
    faces = [{"id": "s", "side": "south", "windows": [{"x": 1, "z": 1, "width": 3, "height": 1.5}]}]
    zones = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": faces}]
    none = make_scheme(zones=zones)
    rims = make_scheme(zones=zones, skin={"thermal_bridges": {"surcharge_w_m2k": 0, "rims_w_mk": 0.1, "edges_w_mk": 0.2}})
    apart = run_scheme(rims, steady_year()).arrays.zone["bridge"] - run_scheme(none, steady_year()).arrays.zone["bridge"]
    assert apart == pytest.approx(0.1 * 2 * (3 + 1.5) + 0.2 * 2 * (8 + 6 + 8 + 6))  # edges of roof and floor
    assert run_scheme(none, steady_year()).arrays.zone["bridge"] == pytest.approx(0.0)


def test_permeability_follows_the_root_of_wind_and_stack() -> None:
    def flow(air_c: float, wind: float) -> float:
        zone = {"air_changes": None}
        still_fans = {"ventilation": {"fan_w_ls": 0.0}}  # their heat would warm the room
        made = cold_box(air_c, wind, {"permeability_m3_hm2": 4.0, "zone": zone, "profile": "library"}, plant=still_fans)
        return float(made.demand.leak_wk[0, 5000])

    still, windy, cold = flow(0, 0), flow(0, 4), flow(-20, 0)
    assert cold / still == pytest.approx(np.sqrt(2), rel=1e-3)
    both = np.sqrt(flow(20, 4) ** 2 + still**2)
    assert windy == pytest.approx(both, rel=1e-3)
    area, density = 2 * 14 * 3 + 48, 101325 / (287.05 * 293.15)
    leakage = 4.0 * area / 3600 * (4 / 50) ** 0.667 / np.sqrt(8 / density)
    assert still == pytest.approx(leakage * np.sqrt(0.0058 * 3 * 20) * density * AIR_HEAT, rel=1e-3)


def test_fixed_air_changes_stand_instead_of_cracks() -> None:
    """A zone whose air changes are given has just those, whatever the scheme's permeability."""
    use = {"zones": [{"id": "c", "zone": "*/core", "air_changes": 0.7}, {"id": "s", "zone": "*/e1", "air_changes": 0.3}]}
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")], use={**use, "permeability_m3_hm2": 9.0})
    made = run_scheme(scheme)
    ids = list(made.arrays.zone_ids)
    for name, rate in (("v1/s0/core", 0.7), ("v1/s0/e1", 0.3)):
        z = ids.index(name)
        assert made.demand.leak_wk[z] == pytest.approx(rate / 3600 * made.arrays.air_volume[z] * made.arrays.heat_per_m3)
    assert np.ptp(made.demand.leak_wk[ids.index("v1/s0/e2")]) > 0  # the others follow wind and temperature


def test_a_plant_at_its_limit_gives_just_that_and_the_room_cools() -> None:
    free = cold_box()
    limited = cold_box(use={"zone": {"heating_most_w_m2": 10}})
    assert heat(free) > 480 > 0
    assert limited.demand.heating_w[0, 1000:] == pytest.approx(480.0)
    assert limited.demand.air_c[0, 5000] < 19
    assert limited.demand.closure.max() < 1e-5


def test_operative_control_holds_air_and_surfaces_together() -> None:
    made = cold_box(use={"control": "operative"})
    assert made.demand.operative_c[0, 5000] == pytest.approx(20.0, abs=1e-6)
    assert made.demand.air_c[0, 5000] > 20.1
    assert heat(made) > heat(cold_box())


def test_fixed_boundary_loses_by_its_temperature() -> None:
    """U A dT through the one wall against 5 °C, everything else adiabatic."""
    sides = [{"id": s, "side": s, "boundary": "adiabatic"} for s in ("east", "north", "west", "roof", "floor")]
    faces = [*sides, {"id": "s", "side": "south", "boundary": "fixed", "boundary_c": 5.0}]
    zone = {"id": "z", "zone": "*", "gains_w": 0.0, "heating_c": ALWAYS, "air_changes": 0.0}
    scheme = make_scheme(
        zones=[{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": faces}],
        use={"zones": [zone]}, method={"films": "standard", "run_in_days": 60},
    )  # fmt: skip
    made = run_scheme(scheme, steady_year())
    spec = next(s for s in made.arrays.elements if s.fixed_h > 0)
    resistance = sum(r for r, _ in spec.layers) + 2 * 0.13
    star = 2 * float(made.demand.operative_c[0, 5000]) - 20.0  # the room's own mean of air and star
    inside = spec.standard_in * 20.0 + elements.RADIANT_H * spec.emissivity * star
    felt = inside / (spec.standard_in + elements.RADIANT_H * spec.emissivity)
    assert heat(made) == pytest.approx(24 / resistance * (felt - 5.0), rel=1e-3)


def test_windows_let_in_what_the_standard_says() -> None:
    """Single-sided, EN 16798-7: q = A/2 sqrt(max(0.001 v², 0.0035 h dT))."""
    wind, stack = 0.001 * 0.25 * 4.0, 0.0035 * 1.2 * 0.25 * 4.0
    assert elements.windows(wind, stack, 9.0, 10.0) == pytest.approx(0.5 * 2.0 * np.sqrt(0.0035 * 1.2 * 10))
    assert elements.windows(wind, stack, 9.0, 0.1) == pytest.approx(0.5 * 2.0 * np.sqrt(0.001 * 9))


@given(free=st.floats(-20, 60), stiff=st.floats(1, 1e5), open_c=st.floats(15, 30), outside=st.floats(-30, 50), most=st.floats(0, 1e5))
def test_windows_bring_a_room_down_to_their_setpoint_and_no_further(free, stiff, open_c, outside, most) -> None:
    flow = elements.let_in(free, stiff, open_c, outside, most)
    assert 0 <= flow <= most
    after = (stiff * free + flow * outside) / (stiff + flow)
    if flow > 0 and outside < open_c - 0.05:
        assert after >= open_c - 1e-6 * max(1.0, abs(free))


@given(
    free=st.floats(-50, 80),
    stiff=st.floats(1, 1e6),
    low=st.floats(-20, 22),
    gap=st.floats(0, 30),
    heat_most=st.floats(0, 1e6),
    cool_most=st.floats(0, 1e6),
)
def test_loads_keep_between_setpoints_or_stand_at_the_limit(free, stiff, low, gap, heat_most, cool_most) -> None:
    high = low + gap
    load = elements.load_of(free, stiff, low, high, heat_most, cool_most)
    after = free + load / stiff
    assert -cool_most <= load <= heat_most
    assert load == heat_most or after >= low - 1e-6
    assert load == -cool_most or after <= high + 1e-6
    if low <= free <= high:
        assert load == 0


def test_two_sided_openings_and_purge_cool_more() -> None:
    warm = standin_year("sorrel-flats")

    def cooling(**airing: object) -> float:
        scheme = make_scheme(volumes=[volume()], use={"airing": airing}, skin={"glazing_ratio": {"north": 0.5, "south": 0.5}})
        return float(run_scheme(scheme, warm).outcome.totals["cooling_demand_kwh"])

    shut = cooling()
    aired = cooling(openable_share=0.1)
    purged = cooling(openable_share=0.1, night_purge=True)
    across = cooling(openable_share=0.1, night_purge=True, two_sided=True)
    assert across < purged < aired < shut


def test_economiser_cools_and_costs_fan_power() -> None:
    warm = standin_year("sorrel-flats")
    scheme = make_scheme(volumes=[volume()])
    plain = run_scheme(scheme, warm).outcome.totals
    more = run_scheme(make_scheme(volumes=[volume()], plant={"ventilation": {"economiser": 3.0}}), warm).outcome.totals
    assert more["cooling_demand_kwh"] < plain["cooling_demand_kwh"]
    assert more["energy_kwh"]["fans"] > plain["energy_kwh"]["fans"]


def test_without_following_people_more_air_is_moved() -> None:
    follows = run_scheme(make_scheme(volumes=[volume()]))
    full = run_scheme(make_scheme(volumes=[volume()], plant={"ventilation": {"follows_people": False}}))
    assert (full.arrays.asked.fresh_m3_s >= follows.arrays.asked.fresh_m3_s - 1e-12).all()
    assert full.outcome.totals["energy_kwh"]["fans"] > follows.outcome.totals["energy_kwh"]["fans"]


def test_drying_takes_out_what_air_and_people_bring_in() -> None:
    """Steady: outdoor air at 30 °C and 80%, the room at 26 °C kept to 50%: flow times difference times heat of evaporation."""
    year = steady_year(30.0)
    year.records["relative_humidity_pct"][:] = 80.0
    zone = {"id": "z", "zone": "*", "gains_w": 0.0, "air_changes": 1.0, "cooling_c": {"weekday": [26.0] * 24}}
    scheme = make_scheme(
        zones=[{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}}],
        use={"profile": "dwelling", "zones": [zone], "humidity_most_pct": 50},
    )  # fmt: skip
    made = run_scheme(scheme, year)
    occupied = made.arrays.zones[0].occupied
    hour = int(np.flatnonzero(occupied & np.roll(occupied, 1) & np.roll(occupied, 2))[3000])
    held = float(made.demand.vapour_kg_kg[0, hour])
    assert held == pytest.approx(0.5 * elements.saturated(26.0, 101325.0), rel=1e-9)
    steady_hours = made.demand.vapour_kg_kg[0, hour - 1] == pytest.approx(held)
    flow = float(made.demand.leak_wk[0, hour]) / AIR_HEAT
    if steady_hours:
        condensed, dried = made.demand.systems[0, int(Y.coiled), hour], made.demand.systems[0, int(Y.dried), hour]
        assert condensed + dried == pytest.approx(flow * (year.vapour_kg_kg[hour] - held) * EVAPORATION, rel=1e-6)
        assert condensed > 0
    assert made.outcome.totals["energy_kwh"]["humidity"] > 0
    assert run_scheme(make_scheme(volumes=[volume()])).outcome.totals["energy_kwh"]["humidity"] == 0


def damp_room(coil_c: float, humidity_pct: float = 80.0, **use: object) -> Run:
    """A room kept at 26 °C with outdoor air of 32 °C coming in, no limit of humidity given."""
    year = replace(steady_year(32.0), digest=f"damp-{humidity_pct}")
    year.records["relative_humidity_pct"][:] = humidity_pct
    zone = {"id": "z", "zone": "*", "gains_w": 2000.0, "air_changes": 1.0, "cooling_c": {"weekday": [26.0] * 24}}
    box = {"id": "r", "box": {"length": 8, "depth": 6, "height": 3}}
    return run_scheme(make_scheme(zones=[box], use={"zones": [zone], **use}, plant={"cooling": {"coil_c": coil_c}}), year)


def test_a_coil_dries_the_air_it_cools_without_being_asked() -> None:
    """Steady, by hand: air through the coil carries the sensible load down to its dew point; what it leaves there is what comes in."""
    made = damp_room(11.0)
    load, wet = float(made.demand.cooling_w[0, 5000]), float(made.demand.vapour_kg_kg[0, 5000])
    fresh = float(made.demand.leak_wk[0, 5000]) / AIR_HEAT
    coil = load / (AIR_HEAT * (26.0 - 11.0))
    dry, outside = elements.saturated(11.0, 101325.0), float(made.brief.climate.vapour_kg_kg[5000])
    assert wet == pytest.approx((fresh * outside + coil * dry) / (fresh + coil), rel=1e-4)
    latent = float(made.demand.systems[0, int(Y.coiled), 5000])
    assert latent == pytest.approx(coil * (wet - dry) * EVAPORATION, rel=1e-4)
    assert latent == pytest.approx(fresh * (outside - wet) * EVAPORATION, rel=1e-4)
    totals = made.outcome.totals
    assert totals["energy_kwh"]["cooling"] == pytest.approx((totals["cooling_demand_kwh"] + totals["latent_demand_kwh"]) / 3.5)
    assert totals["energy_kwh"]["humidity"] == 0


def test_a_warm_coil_and_dry_air_leave_the_vapour_alone() -> None:
    for made in (damp_room(11.0, humidity_pct=10.0), damp_room(24.0, humidity_pct=20.0)):
        assert made.outcome.totals["latent_demand_kwh"] == pytest.approx(0.0, abs=1e-6)
    assert damp_room(9.0).outcome.totals["latent_demand_kwh"] > damp_room(14.0).outcome.totals["latent_demand_kwh"] > 0


def test_the_supply_fan_warms_the_air_it_moves() -> None:
    """Half of the fans' power comes in with the supply air: less heating by day, more cooling in summer."""
    still, strong = (run_scheme(make_scheme(volumes=[volume()], plant={"ventilation": {"fan_w_ls": w}})) for w in (0.0, 2.0))
    litres = strong.arrays.asked.fresh_m3_s.sum() * 1000
    fan_kwh = 0.5 * 2.0 * litres / 1000
    less = still.outcome.totals["heating_demand_kwh"] - strong.outcome.totals["heating_demand_kwh"]
    more = strong.outcome.totals["cooling_demand_kwh"] - still.outcome.totals["cooling_demand_kwh"]
    assert 0 < less < fan_kwh
    assert 0 < more < fan_kwh
    assert less + more > 0.3 * fan_kwh


def test_wind_at_an_opening_is_that_of_its_height_and_terrain() -> None:
    """Power laws by hand: from 10 m in the open (270 m, 0.14) to 5 m in a suburb (370 m, 0.22)."""
    assert wind_share("open", 10.0) == pytest.approx(1.0)
    assert wind_share("suburb", 5.0) == pytest.approx((270 / 10) ** 0.14 * (5 / 370) ** 0.22)
    assert wind_share("city", 5.0) < wind_share("suburb", 5.0) < wind_share("open", 5.0) < 1.0
    scheme = make_scheme(volumes=[volume(storeys=3)], use={"airing": {"openable_share": 0.3}})
    made = [run_scheme(scheme, place=read_document(Place, {"terrain": t})).arrays.zone["open_wind"] for t in ("open", "city")]
    assert (made[0] > made[1]).all()
    assert made[0][0] < made[0][1] < made[0][2]  # higher storeys stand in more wind
    low, high = made[0][0], made[0][2]
    assert high / low == pytest.approx((8.75 / 2.0) ** 0.28, rel=1e-6)


def test_vapour_stays_between_dry_and_saturated() -> None:
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")]), standin_year("karsk-basin"))
    full = np.vectorize(elements.saturated)(made.demand.air_c, 101325.0)
    assert (made.demand.vapour_kg_kg > 0).all()
    assert (made.demand.vapour_kg_kg <= full * 1.1).all()  # pressure differs by place


def test_blinds_outside_keep_out_more_than_inside_and_never_let_in_more() -> None:
    for g, u in ((0.6, 1.1), (0.75, 2.8)):
        inside = with_blinds(g, u, "inside", 0.1, 0.6)
        outside = with_blinds(g, u, "outside", 0.1, 0.6)
        assert 0 < outside < inside < g
    assert with_blinds(0.6, 1.1, "outside", 1.0, 0.0) == pytest.approx(0.6, rel=0.2)


def test_blinds_cool_less_and_close_by_the_sun_alone() -> None:
    glass = {"glazing_ratio": {"south": 0.7}}
    bare = run_scheme(make_scheme(volumes=[volume()], skin=glass))
    shaded = run_scheme(make_scheme(volumes=[volume()], skin={**glass, "blinds": {"place": "outside"}}))
    assert shaded.outcome.totals["cooling_demand_kwh"] < 0.8 * bare.outcome.totals["cooling_demand_kwh"]
    dim = bare.arrays.solar < 100  # W: too little sun to close anything
    assert shaded.arrays.solar[dim] == pytest.approx(bare.arrays.solar[dim])
    assert (shaded.arrays.solar <= bare.arrays.solar + 1e-9).all()


def test_inner_walls_flatten_the_swing() -> None:
    floats = {"zones": [{"id": "f", "zone": "*", "conditioned": False}]}
    light = run_scheme(make_scheme(volumes=[volume()], use=floats))
    heavy = run_scheme(make_scheme(volumes=[volume()], use=floats, skin={"inner_walls_m2_m2": 2.0, "partition": "partition-brick"}))
    assert np.ptp(heavy.demand.air_c) < np.ptp(light.demand.air_c)


def test_open_doors_even_temperatures_out_and_huge_ones_nearly_merge_rooms() -> None:
    floats = {"zones": [{"id": "f", "zone": "*", "conditioned": False}]}

    def apart(*paths: dict) -> float:
        scheme = make_scheme(volumes=[volume(zoning="perimeter_core")], use=floats, air_paths=list(paths))
        made = run_scheme(scheme)
        assert made.demand.closure.max() < 2e-6  # so much air turns a hundred-thousandth of a kelvin into watts
        ids = made.arrays.zone_ids
        return float(np.abs(made.demand.air_c[ids.index("v1/s0/e1")] - made.demand.air_c[ids.index("v1/s0/core")]).mean())

    ends = {"zone_a": "v1/s0/e1", "zone_b": "v1/s0/core"}
    shut, door = apart(), apart({"id": "d", **ends, "opening_m2": 2.0})
    gale = apart({"id": "d", **ends, "flow_m3_h": 500_000})
    assert gale < 0.02 < door < shut


def test_a_path_to_itself_is_refused() -> None:
    with pytest.raises(EurythmError) as fault:
        run_scheme(make_scheme(volumes=[volume()], air_paths=[{"id": "d", "zone_a": "v1/s0/all", "zone_b": "v1/s0/all"}]))
    assert fault.value.path == "scheme/air_paths/d/zone_b"


@settings(max_examples=12, deadline=None)
@given(
    share=st.floats(0, 1),
    permeability=st.floats(0, 200),
    economiser=st.floats(1, 10),
    limit=st.floats(0, 5000),
    air_changes=st.floats(0, 200),
)
def test_hostile_air_gives_finite_answers_that_close(share, permeability, economiser, limit, air_changes) -> None:
    scheme = make_scheme(
        volumes=[volume(zoning="perimeter_core")],
        use={
            "permeability_m3_hm2": permeability, "airing": {"openable_share": share, "hours": "always", "two_sided": True},
            "zones": [{"id": "a", "zone": "*/core", "air_changes": air_changes}],
        },
        plant={"ventilation": {"economiser": economiser}, "cooling": {"most_w_m2": limit}},
        method={"run_in_days": 3},
    )  # fmt: skip
    made = run_scheme(scheme, standin_year("sorrel-flats"))
    assert np.isfinite(made.demand.air_c).all()
    assert made.demand.closure.max() < 1e-5
