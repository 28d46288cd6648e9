"""Reshaping volumes: areas and edges stay what they are."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.brief.edits import apply_edit
from eurythm.brief.reshape import Beside, CutVolume, Join, Mirror, ToOutline, alone, reshape
from eurythm.geometry.form import make_building
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme
from eurythm.simulate import building_of
from tests.conftest import make_scheme, run_scheme, volume

KINDS = ["rectangle", "l", "t", "u", "courtyard"]


def reshaped(scheme: Scheme, wish: Any) -> Scheme:
    project = Project(name="p", schemes=(scheme,), reference=scheme.id)
    return apply_edit(project, reshape(scheme, wish)).schemes[0]


def floor(scheme: Scheme) -> float:
    return sum(z.gross_floor for z in make_building(scheme, 0.0).zones)


def edges(scheme: Scheme) -> dict[str, float]:
    return {f.edge: round(f.area, 3) for f in make_building(scheme, 0.0).faces if f.edge}


@pytest.mark.parametrize("kind", KINDS)
def test_a_free_outline_is_the_same_form_with_the_same_edges(kind: str) -> None:
    scheme = make_scheme(volumes=[volume(kind=kind, storeys=2, turn_deg=30, x=5, y=-3)])
    free = reshaped(scheme, ToOutline(volume="v1"))
    assert edges(free) == edges(scheme)
    assert free.volumes[0].form.kind == "polygon"


@pytest.mark.parametrize("axis", ["x", "y"])
@pytest.mark.parametrize("kind", KINDS)
def test_mirrored_twice_is_where_it_was(kind: str, axis: Any) -> None:
    scheme = make_scheme(volumes=[volume(kind=kind, x=2, y=1)])
    once = reshaped(scheme, Mirror(volume="v1", axis=axis))
    assert edges(once) == edges(scheme)
    twice = reshaped(once, Mirror(volume="v1", axis=axis))
    before, after = (make_building(s, 0.0).zones[0].plan for s in (scheme, twice))
    assert after.symmetric_difference(before).area == pytest.approx(0, abs=1e-6)
    if kind == "l":
        assert make_building(once, 0.0).zones[0].plan.symmetric_difference(before).area > 10


@pytest.mark.parametrize("side", ["east", "north", "west", "south"])
def test_copies_stand_beside_and_touch(side: Any) -> None:
    made = reshaped(make_scheme(volumes=[volume()]), Beside(volume="v1", side=side, count=2))
    building = make_building(made, 0.0)
    assert len(made.volumes) == 3
    assert len([f for f in building.faces if f.boundary == "zone"]) == 2


@settings(max_examples=40, deadline=None)
@given(kind=st.sampled_from(KINDS), at=st.floats(0.1, 0.9), bearing=st.floats(-60, 60), turn=st.floats(0, 90))
def test_what_is_cut_and_joined_is_whole_again(kind: str, at: float, bearing: float, turn: float) -> None:
    scheme = make_scheme(volumes=[volume(kind=kind, turn_deg=turn)])
    plan = make_building(scheme, 0.0).zones[0].plan
    x0, y0, x1, y1 = plan.bounds
    x = x0 + (x1 - x0) * at
    try:
        cut = reshaped(scheme, CutVolume(volume="v1", a=(x, y0 - 1), b=(x + bearing / 6, y1 + 1)))
    except EurythmError as fault:
        assert fault.code in ("cut-misses", "cut-sliver")  # noqa: PT017
        return
    assert floor(cut) == pytest.approx(floor(scheme), rel=1e-6)
    if len(cut.volumes) == 2:
        joined = reshaped(cut, Join(volume="v1", other=cut.volumes[1].id))
        whole = make_building(joined, 0.0).zones[0].plan
        assert whole.symmetric_difference(plan).area < 0.05


def test_a_cut_that_misses_and_volumes_apart_or_unlike_are_refused() -> None:
    scheme = make_scheme(volumes=[volume(), volume("far", x=60), volume("tall", x=20, height=5)])
    for wish, code in (
        (CutVolume(volume="v1", a=(-5, -5), b=(50, -5)), "cut-misses"),
        (Join(volume="v1", other="far"), "joined-apart"),
        (Join(volume="v1", other="tall"), "joined-unlike"),
        (Mirror(volume="gone"), "no-such-volume"),
    ):
        with pytest.raises(EurythmError) as fault:
            reshape(scheme, wish)
        assert fault.value.code == code


def test_a_room_taken_out_keeps_its_outside_and_loses_its_neighbours() -> None:
    scheme = make_scheme(
        volumes=[volume(zoning="perimeter_core", storeys=3)], skin={"glazing_ratio": {"south": 0.5}, "overhang_depth_m": {"south": 1}}
    )
    building = building_of(Place(), scheme)
    made = alone(building, scheme, "v1/s1/e1", "one", "Middle room")
    own = building_of(Place(), made)
    (zone,) = own.zones
    whole = next(z for z in building.zones if z.id == "v1/s1/e1")
    assert zone.gross_volume == pytest.approx(whole.gross_volume, rel=1e-6)
    assert {f.boundary for f in own.faces} == {"outdoors", "adiabatic"}
    assert sum(f.window_area for f in own.faces) == pytest.approx(20 * 3.5 * 0.5, rel=1e-3)
    assert run_scheme(made).outcome.totals["eui_kwh_per_m2"] > 5


@pytest.mark.parametrize("wish", [Mirror(volume="v1"), Beside(volume="v1", side="east")], ids=["mirror", "beside"])
def test_what_is_not_reshaped_stays_where_it_stands_in_a_turned_scheme(wish: Any) -> None:
    scheme = make_scheme(volumes=[volume("v1", kind="l"), volume("v2", x=160)], turn_deg=25)
    before, after = (next(z.plan for z in make_building(s, 0.0).zones if z.volume == "v2") for s in (scheme, reshaped(scheme, wish)))
    assert before.symmetric_difference(after).area < 0.01
