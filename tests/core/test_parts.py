"""Loads taken apart: parts add up, and each is what it says."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from eurythm.assess.attribution import SOURCE_NAMES
from eurythm.climate.standin import standin_year
from eurythm.exchange.demo import demo_project
from eurythm.simulate import run
from eurythm.thermal import parts_kernel
from eurythm.thermal.parts import SOURCES, Parts, take_apart
from eurythm.thermal.prepare import transmitted_by_side
from tests.conftest import make_scheme, run_scheme, steady_year, volume

AT = {name: i for i, name in enumerate(SOURCES)}
AIRED: dict[str, Any] = {
    "use": {
        "permeability_m3_hm2": 6.0, "control": "operative", "airing": {"openable_share": 0.1, "night_purge": True, "hours": "always"},
        "zones": [{"id": "c", "zone": "*/core", "heating_most_w_m2": 12, "cooling_most_w_m2": 6}, {"id": "f", "zone": "*/e2", "conditioned": False}],
    },
    "plant": {"ventilation": {"economiser": 2.0}},
    "skin": {"thermal_bridges": {"surcharge_w_m2k": 0.08}, "inner_walls_m2_m2": 0.5, "glazing_ratio": {"south": 0.5}},
    "air_paths": [{"id": "d", "zone_a": "v1/s0/e1", "zone_b": "v1/s0/core", "opening_m2": 2.0}],
}  # fmt: skip


def test_every_lane_of_the_compiled_sources_has_a_name() -> None:
    assert len(SOURCES) == len(set(SOURCES)) == parts_kernel.PARTS
    assert parts_kernel.LANES == parts_kernel.COMMON + 2 * parts_kernel.FAMILY
    assert set(SOURCE_NAMES) == set(SOURCES)


SOLVED_W = 3e-5
"""What small rooms may be off by whose zones are solved to 1e-5 K, where a plant at its limit holds none of them."""


def apart(made) -> Parts:
    return take_apart(made.arrays, transmitted_by_side(made.brief, made.building, made.light))


def assert_adds_up(made, parts: Parts, rel: float = 1e-6) -> None:
    """Parts against the loads of the run that readers see, hour by hour, by month and at the peaks."""
    for use, name in enumerate(("heating_w", "cooling_w")):
        load = getattr(made.demand, name)
        most = max(float(load.sum(axis=0).max()), 1.0)
        assert np.abs(parts.by_hour[use].sum(axis=0) - load.sum(axis=0)).max() <= rel * most + SOLVED_W
        yearly = load.sum(axis=1) / 1000
        assert parts.zones_by_month[:, use].sum(axis=(1, 2)) == pytest.approx(yearly, rel=rel, abs=1e-3)
        own = parts.zones_at[:, use, 0].sum(axis=1)
        assert own == pytest.approx(load.max(axis=1), rel=rel, abs=1e-3)
        at_building = parts.zones_at[:, use, 1].sum(axis=1)
        assert at_building == pytest.approx(load[:, load.sum(axis=0).argmax()], rel=rel, abs=most * rel)


@pytest.mark.parametrize("place", ["karsk-basin", "sorrel-flats"])
@pytest.mark.parametrize("more", [{}, AIRED], ids=["plain", "everything"])
def test_parts_add_up_to_the_load(place: str, more: dict[str, Any]) -> None:
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], **more), standin_year(place))
    assert_adds_up(made, apart(made))


def test_parts_of_the_demo_add_up() -> None:
    project = demo_project()
    climate = standin_year("merrowhaven")
    for scheme in project.schemes:
        made = run(project.place, project.library, scheme, project.factors, climate)
        assert_adds_up(made, apart(made))


def test_parts_add_up_in_sub_steps() -> None:
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], **AIRED), standin_year("sorrel-flats"), substeps=4)
    assert_adds_up(made, apart(made))


@settings(max_examples=15, deadline=None)
@example(
    sizes=(4.0, 4.0, 4.0), storeys=1, zoning="perimeter_core", glass=0.0, share=0.0, limit=1.0, setpoints=(15.0, 23.0), place="merrowhaven",
    operative=False, floats=False,
)  # fmt: skip
@given(
    sizes=st.tuples(st.floats(4, 60), st.floats(4, 40), st.floats(2.2, 6)), storeys=st.integers(1, 2),
    zoning=st.sampled_from(["one", "perimeter_core"]), glass=st.floats(0, 0.9), share=st.floats(0, 0.3), limit=st.floats(1, 60),
    setpoints=st.tuples(st.floats(15, 22), st.floats(23, 28)), place=st.sampled_from(["merrowhaven", "karsk-basin", "sorrel-flats"]),
    operative=st.booleans(), floats=st.booleans(),
)  # fmt: skip
def test_parts_add_up_for_random_buildings(sizes, storeys, zoning, glass, share, limit, setpoints, place, operative, floats) -> None:
    form = {"length": sizes[0], "depth": sizes[1]}
    heat, cool = setpoints
    scheme = make_scheme(
        volumes=[volume(storeys=storeys, zoning=zoning, height=sizes[2], form=form)],
        skin={"glazing_ratio": {"south": glass, "west": glass / 2}},
        use={
            "heating_c": heat, "cooling_c": cool, "control": "operative" if operative else "air", "airing": {"openable_share": share},
            "zones": [{"id": "f", "zone": "*/s0/e1", "conditioned": not floats}],
        },
        plant={"heating": {"most_w_m2": limit}, "cooling": {"most_w_m2": limit}},
        method={"run_in_days": 4},
    )  # fmt: skip
    made = run_scheme(scheme, standin_year(place))
    assert_adds_up(made, apart(made))


def test_each_source_gives_what_can_be_reckoned() -> None:
    """Steady, dark, no gains: walls, roof, windows and infiltration by U A dT, everything else nothing."""
    always = {"weekday": [20.0] * 24}
    zone = {"id": "z", "zone": "*", "gains_w": 0.0, "heating_c": always, "air_changes": 0.7}
    faces = [
        {"id": "floor", "side": "floor", "boundary": "adiabatic"},
        {"id": "s", "side": "south", "windows": [{"x": 1, "z": 1, "width": 4, "height": 1.5}]},
    ]
    box = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": faces}]
    made = run_scheme(make_scheme(zones=box, use={"zones": [zone]}, method={"run_in_days": 60}), steady_year())
    parts = apart(made).by_hour[0, :, 6000]
    air = 0.7 * 144 / 3600 * made.arrays.heat_per_m3 * 20
    assert parts[AT["infiltration"]] == pytest.approx(air, rel=1e-6)
    for name in ("people", "lighting", "equipment", "sun_south", "ground", "ventilation", "airing", "setpoints", "neighbours", "bridges"):
        assert parts[AT[name]] == pytest.approx(0.0, abs=1e-6)
    assert parts[AT["start"]] == pytest.approx(0.0, abs=0.05)
    total = float(made.demand.heating_w[0, 6000])
    assert parts[AT["walls"]] + parts[AT["roofs"]] + parts[AT["windows"]] == pytest.approx(total - air, abs=0.05)
    by_area = {"walls": 0.0, "roofs": 0.0, "windows": 0.0}
    for s in made.arrays.elements:
        if s.sky_view > 0:
            by_area["windows" if s.glass else "walls" if s.side_in == 0 else "roofs"] += s.area / (0.17 + sum(r for r, _ in s.layers))
    for name, conductance in by_area.items():  # standard films here, the run's own there
        assert parts[AT[name]] == pytest.approx(20 * conductance, rel=0.2)


def test_gains_heat_and_sun_comes_in_through_its_own_side() -> None:
    scheme = make_scheme(volumes=[volume()], skin={"glazing_ratio": {"north": 0, "east": 0, "south": 0.5, "west": 0}})
    parts = apart(run_scheme(scheme)).by_hour.sum(axis=2)
    heating, cooling = parts
    for name in ("people", "lighting", "equipment", "sun_south"):
        assert heating[AT[name]] < 0 < cooling[AT[name]]
    for name in ("sun_north", "sun_east", "sun_west", "sun_up"):
        assert heating[AT[name]] == 0
    assert heating[AT["walls"]] > 0
    assert heating[AT["ventilation"]] > 0


def test_neighbours_matter_to_a_zone_but_not_to_the_building() -> None:
    use = {"zones": [{"id": "f", "zone": "*/core", "conditioned": False}]}
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], use=use), standin_year("karsk-basin"))
    parts = apart(made)
    assert np.abs(parts.by_hour[:, AT["neighbours"]]).max() < 1e-6 * parts.load_w.max()
    zone = list(made.arrays.zone_ids).index("v1/s0/e1")
    assert abs(parts.zones_by_month[zone, 0, AT["neighbours"]].sum()) > 1.0


def test_set_back_is_a_source_of_its_own() -> None:
    """Heating after a cold night is more than the day's steady losses: the set-back moves it there."""
    made = run_scheme(make_scheme(volumes=[volume()]), standin_year("karsk-basin"))
    parts = apart(made)
    assert parts.by_hour[0, AT["setpoints"]].max() > 1000
    assert parts.by_hour[0, AT["setpoints"]].sum() < 0  # and saves over the year
