"""The heat balance against closed-form answers and its own invariants."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.special import erfc

from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import substep_shape
from eurythm.exchange.demo import demo_project
from eurythm.fabric.opaque import slab_nodes
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.reading import read_document
from eurythm.simulate import Run, simulate
from eurythm.thermal.chains import factored
from eurythm.thermal.elements import FILM_REF
from tests.conftest import make_scheme, run_scheme, steady_year, volume

ROOM = {
    "id": "still",
    "zone": "*",
    "air_changes": 0.0,
    "gains_w": 0.0,
    "heating_c": {"weekday": [20.0] * 24},
    "cooling_c": {"weekday": [60.0] * 24},
}


def box(faces: list[dict] | None = None, **room: object) -> dict:
    sides = ("south", "east", "north", "west", "roof", "floor")
    walls = [{"id": s, "side": s, "construction": "slab", "boundary": "outdoors"} for s in sides]
    return {
        "zones": [{"id": "room", "box": {"length": 8, "depth": 6, "height": 2.7}, "faces": faces or walls}],
        "use": {"zones": [{**ROOM, **room}]},
    }


def slab(*layers: tuple[float, float, float, float]) -> Library:
    names = ("thickness_m", "conductivity", "density", "specific_heat")
    build = [dict(zip(names, layer, strict=True)) for layer in layers]
    return read_document(Library, {"constructions": [{"id": "slab", "name": "Slab", "element": "wall", "layers": build}]})


@pytest.mark.parametrize("films", ["hourly", "standard"])
def test_steady_loss_is_area_times_u_times_difference(films: str) -> None:
    library = slab((0.1, 0.05, 30, 1000), (0.1, 1.0, 2000, 900))
    made = run_scheme(make_scheme(**box(), method={"films": films, "run_in_days": 120}), steady_year(0.0), library=library)
    resistance = 0.1 / 0.05 + 0.1 / 1.0
    expected = 0.0
    air, star = 20.0, _star(made)
    for element, radiant in zip(made.arrays.elements, made.arrays.element["radiant_in"], strict=True):
        outside = 25.0 if films == "standard" else 4 + 4 * 3.0 + 0.9 * 4 * 5.670374e-8 * 273.15**3
        convective = _inside_films(made, element.side_in, films, element.standard_in)
        within = convective + radiant
        conductance = 1 / (1 / outside + resistance + 1 / within)
        expected += element.area * conductance * (convective * air + radiant * star) / within
    assert made.demand.heating_w[0, -1] == pytest.approx(expected, rel=1e-3)


def _star(made: Run) -> float:
    return float(2 * made.demand.operative_c[0, -1] - made.demand.air_c[0, -1])


def _inside_films(made: Run, side: int, films: str, standard: float) -> float:
    """The convective film that the run itself used: the surfaces are all colder than the air."""
    return standard if films == "standard" else {0: 2.5, 1: 0.7, 2: 5.0}[side]


def test_slab_answers_a_step_like_a_half_space() -> None:
    """A thick slab whose surface meets warmer air through a film: Carslaw and Jaeger (1959), section 2.7."""
    conductivity, density, heat, film = 1.4, 2200.0, 900.0, 8.0
    layers = ((1.2 / conductivity, 1.2 * density * heat),)
    dt = 900.0
    capacity, lower, pivot, upper, _, to_inner = factored(layers, dt, refine=8)
    temp = np.zeros(len(capacity))
    diffusivity = conductivity / (density * heat)
    for step in range(1, 4 * 24 + 1):
        rhs = capacity / dt * temp
        for i in range(1, len(rhs)):
            rhs[i] -= lower[i] * rhs[i - 1]
        rhs[-1] *= pivot[-1]
        for i in range(len(rhs) - 2, -1, -1):
            rhs[i] = (rhs[i] - upper[i] * rhs[i + 1]) * pivot[i]
        surface = (rhs[-1] + to_inner[-1] * film * 10.0) / (1 + to_inner[-1] * (film - FILM_REF))
        temp = rhs + to_inner * (film * 10.0 - (film - FILM_REF) * surface)
        if step in (24, 48, 96):
            x = film / conductivity * np.sqrt(diffusivity * step * dt)
            exact = 10.0 * (1 - np.exp(x**2) * erfc(x))
            assert temp[-1] == pytest.approx(exact, rel=0.01)


def test_slab_nodes_keep_resistance_and_capacity() -> None:
    layers = ((4.5, 4640.0), (0.095, 470_000.0), (0.046, 120_000.0))
    conductance, capacity = slab_nodes(layers)
    assert np.sum(1 / conductance) == pytest.approx(sum(r for r, _ in layers))
    assert capacity.sum() == pytest.approx(sum(c for _, c in layers))


@pytest.mark.parametrize("scheme_id", ["quay", "court", "terraces"])
def test_energy_balance_closes_on_the_demo(scheme_id: str, merrowhaven) -> None:
    project = demo_project()
    outcome = simulate(project.place, project.library, project.scheme(scheme_id), project.factors, merrowhaven)
    assert 0 <= outcome.closure < 1e-5


def test_balance_closes_when_zones_float(merrowhaven) -> None:
    made = run_scheme(
        make_scheme(volumes=[volume(storeys=2, zoning="perimeter_core")], use={"zones": [{"id": "z", "zone": "*", "conditioned": False}]})
    )
    assert made.demand.heating_w.max() == 0
    assert made.outcome.closure < 1e-5
    assert np.ptp(made.demand.air_c) > 10


def test_outline_turned_one_way_and_scheme_the_other_is_the_same() -> None:
    skin = {"glazing_ratio": {"south": 0.5, "north": 0.2, "east": 0.3, "west": 0.1}, "overhang_depth_m": {"south": 1.0}}
    plain = make_scheme(volumes=[volume(kind="l", storeys=2, zoning="perimeter_core")], skin=skin)
    turned = make_scheme(
        volumes=[volume(kind="l", storeys=2, zoning="perimeter_core", turn_deg=90)], skin=skin | {"turn_with": "compass"}, turn_deg=-90
    )
    a, b = run_scheme(plain).outcome, run_scheme(turned).outcome
    for name in ("heating_demand_kwh", "cooling_demand_kwh", "eui_kwh_per_m2", "window_m2", "conditioned_floor_area_m2"):
        assert b.totals[name] == pytest.approx(a.totals[name], rel=1e-6)
    assert b.peaks["cooling_w"] == pytest.approx(a.peaks["cooling_w"], rel=1e-6)


def test_order_of_volumes_does_not_matter() -> None:
    pair = [volume("a", storeys=2), volume("b", storeys=1, x=20)]
    forth, back = run_scheme(make_scheme(volumes=pair)).outcome, run_scheme(make_scheme(volumes=pair[::-1])).outcome
    assert back.totals["heating_demand_kwh"] == pytest.approx(forth.totals["heating_demand_kwh"], rel=1e-6)


def test_stacked_volumes_equal_one_volume_of_two_storeys() -> None:
    one = make_scheme(volumes=[volume(storeys=2)])
    two = make_scheme(volumes=[volume("a"), volume("b", base_level_m=3.5)])
    a, b = run_scheme(one).outcome.totals, run_scheme(two).outcome.totals
    assert b["heating_demand_kwh"] == pytest.approx(a["heating_demand_kwh"], rel=1e-6)
    assert b["cooling_demand_kwh"] == pytest.approx(a["cooling_demand_kwh"], rel=1e-6)


def test_perimeter_and_core_touch_the_same_ground_as_one_zone() -> None:
    whole, parts = (run_scheme(make_scheme(volumes=[volume(zoning=z)])) for z in ("one", "perimeter_core"))
    ground = [sum(f.area for f in made.building.faces if f.boundary == "ground") for made in (whole, parts)]
    films = [{round(s.ground_h, 9) for s in made.arrays.elements if s.ground_h} for made in (whole, parts)]
    assert ground[1] == pytest.approx(ground[0], rel=1e-6)
    assert films[0] == films[1]


@pytest.mark.parametrize("place", ["merrowhaven", "karsk-basin"])
def test_halving_the_step_changes_little(place: str) -> None:
    """Constant operation: demand by less than 0.5%, peaks by less than 1.5%."""
    always = {
        "id": "a",
        "zone": "*",
        "air_changes": 0.5,
        "gains_w": 300.0,
        "heating_c": {"weekday": [20.0] * 24},
        "cooling_c": {"weekday": [26.0] * 24},
    }
    scheme = make_scheme(volumes=[volume()], use={"zones": [always]})
    coarse, fine = (run_scheme(scheme, standin_year(place), substeps=n).outcome for n in (1, 2))
    for name in ("heating_demand_kwh", "cooling_demand_kwh"):
        assert fine.totals[name] == pytest.approx(coarse.totals[name], rel=0.005)
    for name in ("heating_w", "cooling_w"):
        assert fine.peaks[name] == pytest.approx(coarse.peaks[name], rel=0.015)
    assert (coarse.peaks["substeps"], fine.peaks["substeps"]) == (1, 2)


def test_intermittent_operation_is_near_at_hourly_steps() -> None:
    """Set back at night, demand moves by less than 0.7%; the peak of a pull-down is what sub-steps are for."""
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")])
    coarse, fine = (run_scheme(scheme, substeps=n).outcome for n in (1, 4))
    for name in ("heating_demand_kwh", "cooling_demand_kwh"):
        assert fine.totals[name] == pytest.approx(coarse.totals[name], rel=0.008)


def test_sun_within_the_hour_keeps_the_hour_s_sum() -> None:
    shape = substep_shape(54.2, -2.6, 0.0, 4)
    assert shape.shape == (8760, 4)
    assert shape.mean(axis=1) == pytest.approx(1.0)
    assert (shape >= 0).all()
    morning = shape[171 * 24 + 4 : 171 * 24 + 11]
    assert (np.diff(morning, axis=1) > 0).all()
    assert (shape[:3] == 1.0).all()
    scheme = make_scheme(volumes=[volume()])
    hourly, fine = run_scheme(scheme), run_scheme(scheme, substeps=4)
    assert fine.arrays.solar.sum() == hourly.arrays.solar.sum()


def test_more_insulation_less_heating_and_more_glass_more_cooling() -> None:
    def demand(**skin: object) -> dict:
        return run_scheme(make_scheme(volumes=[volume()], skin=skin)).outcome.totals

    thin, thick = demand(wall_insulation_m=0.04), demand(wall_insulation_m=0.30)
    assert thick["heating_demand_kwh"] < thin["heating_demand_kwh"]
    low, high = demand(glazing_ratio={"south": 0.2}), demand(glazing_ratio={"south": 0.7})
    assert high["cooling_demand_kwh"] > low["cooling_demand_kwh"]


def test_overhang_shades_and_obstacle_hides() -> None:
    from eurythm.model.place import Place

    open_site = run_scheme(make_scheme(volumes=[volume()]))
    deep = run_scheme(make_scheme(volumes=[volume()], skin={"overhang_depth_m": {"south": 2.0}}))
    place = read_document(Place, {"boxes": [{"id": "b", "x": -10, "y": -14, "length": 40, "depth": 6, "height": 20}]})
    hidden = run_scheme(make_scheme(volumes=[volume()]), place=place)
    assert deep.arrays.solar.sum() < 0.9 * open_site.arrays.solar.sum()
    assert hidden.arrays.solar.sum() < 0.9 * open_site.arrays.solar.sum()


def test_fixed_gain_heats_a_box_by_its_watts() -> None:
    library = slab((0.1, 0.05, 0, 1000))
    cold = run_scheme(make_scheme(**box()), steady_year(0.0), library=library).demand.heating_w[0, -1]
    gained = run_scheme(make_scheme(**box(gains_w=200.0, gains_radiant_share=0.0)), steady_year(0.0), library=library).demand.heating_w[
        0, -1
    ]
    assert cold - gained == pytest.approx(200.0, abs=0.01)


def test_fixed_air_changes_cost_their_heat() -> None:
    library = slab((0.1, 0.05, 0, 1000))
    still = run_scheme(make_scheme(**box()), steady_year(0.0), library=library)
    airy = run_scheme(make_scheme(**box(air_changes=0.5)), steady_year(0.0), library=library)
    more = airy.demand.heating_w[0, -1] - still.demand.heating_w[0, -1]
    density = 101325 / (287.05 * 293.15)
    assert more == pytest.approx(0.5 * 8 * 6 * 2.7 * density * 1006 / 3600 * 20, rel=1e-6)


def test_construction_by_u_value_needs_room_for_films() -> None:
    library = read_document(Library, {"constructions": [{"id": "thin", "name": "Thin", "element": "wall", "u_value": 6.5}]})
    with pytest.raises(EurythmError, match="standard films") as fault:
        run_scheme(make_scheme(volumes=[volume()], skin={"wall": "thin"}), library=library)
    assert fault.value.path == "scheme/skin/wall"


def test_crossed_setpoints_are_named() -> None:
    with pytest.raises(EurythmError) as fault:
        run_scheme(make_scheme(volumes=[volume()], use={"heating_c": 27.0, "cooling_c": 24.0}))
    assert fault.value.code == "setpoints-crossed"


def test_slab_answers_a_daily_sine_like_iso_13786() -> None:
    """Surface admittance of a homogeneous slab under a day's sine, against the transfer matrix of ISO 13786 clause 6."""
    thickness, conductivity, density, heat = 0.2, 1.7, 2300.0, 1000.0
    layers = ((thickness / conductivity, thickness * density * heat),)
    dt, period, refine = 300.0, 86_400.0, 6
    _, lower, pivot, upper, to_outer, to_inner = factored(layers, dt, refine)
    capacity = slab_nodes(layers, refine)[1]
    depth = np.sqrt(conductivity * period / (np.pi * density * heat))
    xi = thickness / depth
    sh, ch, co, si = np.sinh(xi), np.cosh(xi), np.cos(xi), np.sin(xi)
    z11 = ch * co + 1j * sh * si
    z12 = -depth / (2 * conductivity) * ((sh * co + ch * si) + 1j * (ch * si - sh * co))
    temp, steps = np.zeros(len(capacity)), int(period / dt)
    flows = []
    for step in range(12 * steps):
        # the inner surface is held at a sine through a very good film, the outer one at zero
        wanted, film = np.sin(2 * np.pi * (step + 1) / steps), 1e5
        base = capacity / dt * temp
        for i in range(1, len(base)):
            base[i] -= lower[i] * base[i - 1]
        base[-1] *= pivot[-1]
        for i in range(len(base) - 2, -1, -1):
            base[i] = (base[i] - upper[i] * base[i + 1]) * pivot[i]
        system = np.array([[1 + to_outer[0] * (film - FILM_REF), to_inner[0] * (film - FILM_REF)],
                           [to_outer[-1] * (film - FILM_REF), 1 + to_inner[-1] * (film - FILM_REF)]])  # fmt: skip
        outer, inner = np.linalg.solve(system, [base[0] + to_inner[0] * film * wanted, base[-1] + to_inner[-1] * film * wanted])
        flux_out, flux_in = -(film - FILM_REF) * outer, film * wanted - (film - FILM_REF) * inner
        temp = base + to_outer * flux_out + to_inner * flux_in
        flows.append(film * (wanted - inner))
    last = np.array(flows[-steps:])
    phase = np.exp(-2j * np.pi * (np.arange(steps) + 1) / steps)
    admittance = abs(np.sum(last * phase) * 2 / steps)
    assert admittance == pytest.approx(abs(z11 / z12), rel=0.01)


def test_longer_run_in_changes_next_to_nothing() -> None:
    def demand(days: int) -> dict:
        return run_scheme(make_scheme(volumes=[volume(storeys=2)], method={"run_in_days": days})).outcome.totals

    short, long = demand(20), demand(60)
    for name in ("heating_demand_kwh", "cooling_demand_kwh"):
        assert long[name] == pytest.approx(short[name], rel=0.004)


def test_doubling_the_nodes_changes_little() -> None:
    from eurythm.thermal.balance import balance
    from eurythm.thermal.prepare import prepare

    made = run_scheme(make_scheme(volumes=[volume(storeys=2)]))
    inside = {z: (float(a), float(v)) for z, a, v in zip(made.arrays.zone_ids, made.arrays.floor_area, made.arrays.air_volume, strict=True)}
    fine = balance(prepare(made.brief, made.building, made.light, inside, made.arrays.zones, made.arrays.asked, refine=2))
    for name in ("heating_w", "cooling_w"):
        once, twice = getattr(made.demand, name).sum(), getattr(fine, name).sum()
        assert twice == pytest.approx(once, rel=0.005)


def test_weather_that_is_no_longer_weather_is_refused() -> None:
    scheme = make_scheme(volumes=[volume()])
    year = steady_year(0.0)
    year.records["dry_bulb_c"][4000] = np.nan
    with pytest.raises(EurythmError) as fault:
        run_scheme(scheme, year)
    assert fault.value.code == "not-finite"
