"""Daylight all over floors."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm import simulate as pipeline
from eurythm.assess.figures import figure_by
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS
from eurythm.daylight import illuminance
from eurythm.daylight.figures import measured
from eurythm.daylight.floors import FloorLight
from eurythm.daylight.sensors import Sensor
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme, Use
from eurythm.simulate import building_of
from tests.conftest import make_scheme, run_scheme, volume
from tests.daylit import FIVE, GLASS, LIKE, UP, YEAR, room, skin_of


def floors(scheme: Scheme, spacing: float = 0.5, zones: tuple[str, ...] = ("v1/s0/all",), place: Place = Place()) -> FloorLight:
    return pipeline.daylit_floors(place, Library(), scheme, YEAR, zones, spacing)


@pytest.mark.parametrize("name", ["side-lit", "deep", "bent", "under an overhang", "opposite a building", "rooflit"])
def test_floors_and_sensors_tell_the_same(name: str) -> None:
    """At the places of a grid sensors have the same light: the method's parts differ (whole windows for cells, a net for each place)."""
    scheme, around = LIKE[name]
    place = read_document(Place, around)
    made = floors(scheme, 1.0, place=place)
    some = np.linspace(0, len(made.lux) - 1, 9).astype(int)
    points = made.floors[0].grid.points[some]
    building = building_of(place, scheme)
    alone = illuminance.illuminance(building, place, YEAR, [Sensor("v1/s0/all", at, UP) for at in points], skin_of())
    year, factor = made.lux[some].mean(axis=1), made.daylight_factor[some]
    assert year == pytest.approx(alone.lux[:, made.up].mean(axis=1), rel=0.08)
    assert year.mean() == pytest.approx(alone.lux[:, made.up].mean(), rel=0.02)
    assert factor == pytest.approx(alone.daylight_factor, rel=0.08)


def test_figures_of_floors() -> None:
    scheme = room(4, 5)
    made, there = floors(scheme), {"v1/s0/all": np.arange(HOURS) % 24 == 12}
    noon = 24 * 171 + 12
    at_noon = made.at_hour(noon)
    assert at_noon.min() > 0
    assert made.at_hour(24 * 171).max() == 0
    lux = np.zeros((len(made.lux), HOURS))
    lux[:, made.up] = made.lux
    mine = lux[:, there["v1/s0/all"]]
    assert measured(made, "hour", there, 300, noon) == pytest.approx(at_noon)
    assert measured(made, "autonomy", there, 300, 0) == pytest.approx((mine >= 300).mean(axis=1) * 100)
    assert measured(made, "useful", there, 300, 0) == pytest.approx(((mine >= 100) & (mine <= 3000)).mean(axis=1) * 100)
    assert measured(made, "beyond", there, 300, 0) == pytest.approx((mine > 3000).sum(axis=1))
    assert measured(made, "mean", there, 300, 0) == pytest.approx(mine.mean(axis=1), rel=1e-4)
    assert measured(made, "factor", there, 300, 0) == pytest.approx(made.daylight_factor * 100)
    window = made.floors[0].grid.points[:, 1]
    assert at_noon[window < 1].mean() > 3 * at_noon[window > 4].mean()


def test_floors_without_glass_are_dark_and_too_fine_a_grid_is_refused() -> None:
    core = make_scheme(volumes=[volume() | {"zoning": {"kind": "perimeter_core", "borders": "walls"}}])
    dark = floors(core, 1.0, ("v1/s0/core",))
    assert dark.lux.max() == 0
    with pytest.raises(EurythmError) as refused:
        floors(core, 0.02, ("v1/s0/core", "v1/s0/e1"))
    assert refused.value.code == "too-fine"
    with pytest.raises(EurythmError) as nothing:
        floors(core, 1.0, ("gone",))
    assert nothing.value.code == "no-zones"


ODD: dict[str, tuple[Scheme, str]] = {
    "a room of 200 m": (
        make_scheme(volumes=[volume(form={"length": 200, "depth": 15})], skin={"glazing_ratio": {"south": 0.5}}),
        "merrowhaven",
    ),
    "a courtyard": (make_scheme(volumes=[volume(kind="courtyard", form={"court_length": 12, "court_depth": 10})]), "merrowhaven"),
    "an atrium over storeys": (
        make_scheme(
            volumes=[volume(storeys=3)],
            skin={"rooflight_ratio": 0.2},
            merged=[{"id": "hall", "name": "Hall", "zones": [f"v1/s{k}/all" for k in range(3)]}],
        ),
        "merrowhaven",
    ),
    "polar night": (make_scheme(volumes=[volume()]), "norrvik-fell"),
    "glass down to the floor": (room(4, 5, sill_m=0.0, head_m=2.9, glazing_ratio={"south": 0.9}), "merrowhaven"),
    "glass that lets nothing through": (room(4, 5, glazing="dark"), "merrowhaven"),
}


@pytest.mark.parametrize("name", ODD)
def test_odd_rooms_have_plain_figures(name: str) -> None:
    scheme, where = ODD[name]
    dark = GLASS.model_copy(update={"id": "dark", "visible": 0.0})
    library, climate = Library(glazings=(dark,)), standin_year(where)
    found = pipeline.daylight(Place(), library, scheme, climate)
    assert found.sensors
    assert np.isfinite(found.lux).all()
    assert np.isfinite(found.daylight_factor).all()
    assert found.lux.min() >= 0
    assert found.lux.max() < 150_000
    assert (found.lux.max() == 0) == (name == "glass that lets nothing through")
    zones = [zone.id for zone in building_of(Place(), scheme).zones]
    all_over = pipeline.daylit_floors(Place(), library, scheme, climate, zones, 3.0)
    assert np.isfinite(all_over.lux).all()
    assert all_over.daylight_factor.max() < 1.0
    made = run_scheme(
        scheme.model_copy(update={"use": read_document(Use, {"lights": {"kind": "dimmed"}})}), climate=climate, library=library
    )
    assert np.isfinite(made.outcome.totals["eui_kwh_per_m2"])


def test_how_bright_floors_are_is_a_figure_where_it_is_asked_for() -> None:
    """By few points and every fourth hour, within 3 points of a fine grid; nothing of it hangs on the control of lights."""
    plain = run_scheme(make_scheme(**FIVE)).outcome.totals
    assert plain["daylit_share"] is plain["useful_daylight_share"] is None
    assert figure_by("daylit_share").known({"totals": plain}) is None
    for ratio in (0.15, 0.4):
        scheme = make_scheme(**FIVE, skin={"glazing_ratio": {"south": ratio, "east": 0.2}}, use={"lights": {"floors": True}})
        made = run_scheme(scheme)
        totals = made.outcome.totals
        zones = [zone.id for zone in made.building.zones]
        fine = floors(scheme, 0.5, tuple(zones))
        used = {zone.id: of.occupied for zone, of in zip(made.building.zones, made.arrays.zones, strict=True)}
        areas = np.concatenate([f.grid.areas for f in fine.floors])
        bright = measured(fine, "autonomy", used, 300, 0) >= 50
        useful = measured(fine, "useful", used, 300, 0)
        assert totals["daylit_share"] == pytest.approx(areas @ bright / areas.sum(), abs=0.05)
        assert totals["useful_daylight_share"] == pytest.approx(areas @ useful / areas.sum() / 100, abs=0.03)
        assert (
            totals["eui_kwh_per_m2"]
            == run_scheme(make_scheme(**FIVE, skin={"glazing_ratio": {"south": ratio, "east": 0.2}})).outcome.totals["eui_kwh_per_m2"]
        )
    less = run_scheme(make_scheme(**FIVE, use={"lights": {"floors": True, "bright_lx": 1000}})).outcome.totals
    assert less["daylit_share"] < run_scheme(make_scheme(**FIVE, use={"lights": {"floors": True}})).outcome.totals["daylit_share"]
