"""Zones that share their air."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.geometry.merging import hanging_together
from eurythm.model.errors import EurythmError
from tests.conftest import make_scheme, run_scheme, volume

PARTS = ["v1/s0/core", *(f"v1/s0/e{i}" for i in range(1, 5))]


def merged(*names: str, id: str = "hall", name: str = "Hall") -> dict:
    return {"id": id, "name": name, "zones": list(names)}


def test_a_storey_cut_into_merged_zones_equals_the_uncut_one() -> None:
    skin = {"glazing_ratio": {"south": 0.5, "east": 0.2}}
    whole = run_scheme(make_scheme(volumes=[volume()], skin=skin))
    cut = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], skin=skin, merged=[merged(*PARTS)]))
    assert len(cut.building.zones) == 1
    assert cut.arrays.floor_area == pytest.approx(whole.arrays.floor_area, rel=1e-9)
    assert cut.arrays.air_volume == pytest.approx(whole.arrays.air_volume, rel=1e-9)
    for name in ("heating_demand_kwh", "cooling_demand_kwh", "gross_floor_area_m2", "window_m2", "wall_m2", "roof_m2"):
        assert cut.outcome.totals[name] == pytest.approx(whole.outcome.totals[name], rel=1e-6)


def test_merging_conserves_area_and_volume_and_leaves_the_rest_alone() -> None:
    plain = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")]))
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], merged=[merged("v1/s0/core", "v1/s0/e2")]))
    assert [z.id for z in made.building.zones] == ["v1/s0/e1", "v1/s0/e3", "v1/s0/e4", "hall"]
    assert sum(z.gross_volume for z in made.building.zones) == pytest.approx(sum(z.gross_volume for z in plain.building.zones))
    outside = [sum(f.area for f in m.building.faces if f.boundary == "outdoors") for m in (plain, made)]
    assert outside[0] == pytest.approx(outside[1])
    assert made.outcome.zones[-1]["name"] == "Hall"


def test_an_atrium_has_one_floor_and_the_air_of_all_storeys() -> None:
    made = run_scheme(make_scheme(volumes=[volume(storeys=3)], merged=[merged("v1/s0/all", "v1/s1/all")]))
    hall = made.building.zones[-1]
    assert hall.gross_floor == pytest.approx(240)
    assert hall.gross_volume == pytest.approx(2 * 240 * 3.5)
    assert hall.height == pytest.approx(7.0)
    assert made.arrays.air_volume[-1] > 1.9 * made.arrays.air_volume[0]
    assert made.demand.closure.max() < 1e-5


def test_windows_of_an_atrium_stay_on_their_own_storey() -> None:
    """Sill and head count from the floor of the storey that a wall belongs to, not from the foot of the merged zone."""
    skin = {"glazing_ratio": {"south": 0.3}, "overhang_depth_m": {"south": 1.0}}
    apart = run_scheme(make_scheme(volumes=[volume(storeys=3)], skin=skin)).building
    hall = run_scheme(make_scheme(volumes=[volume(storeys=3)], skin=skin, merged=[merged("v1/s0/all", "v1/s1/all", "v1/s2/all")])).building
    windows = {f.edge: f.windows for f in apart.faces if f.windows}
    assert {f.edge: f.windows for f in hall.faces if f.windows} == windows
    assert len(windows) == 12
    assert sorted(s.corners[:, 2].max() for s in hall.shades) == sorted(s.corners[:, 2].max() for s in apart.shades)


def test_lost_members_are_remarked_on_and_kept() -> None:
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], merged=[merged("v1/s0/core", "v1/s7/all", "v1/s0/e4")]))
    assert len(made.building.zones) == 4
    lost = [r for r in made.outcome.remarks if r["code"] == "zone-lost"]
    assert [r["object"] for r in lost] == ["scheme/merged/hall"]
    assert "v1/s7/all" in lost[0]["sentence"]
    alone = run_scheme(make_scheme(volumes=[volume()], merged=[merged("v1/s0/all", "gone")]))
    assert [z.id for z in alone.building.zones] == ["v1/s0/all"]


@pytest.mark.parametrize(
    ("groups", "code"),
    [
        ([merged("v1/s0/core", "v1/s0/e4"), merged("v1/s0/core", "v1/s0/e1", id="other")], "zone-merged-twice"),
        ([merged("v1/s0/core", "v1/s0/e4", id="core"), merged("v1/s0/e1", "v1/s0/e2", id="also")], None),
    ],
)
def test_a_zone_is_in_one_group_only(groups: list[dict], code: str | None) -> None:
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")], merged=groups)
    if code is None:
        assert len(run_scheme(scheme).building.zones) == 3
        return
    with pytest.raises(EurythmError) as fault:
        run_scheme(scheme)
    assert fault.value.code == code
    assert fault.value.path == "scheme/merged/other/zones"


@given(
    st.integers(1, 30).flatmap(
        lambda n: st.tuples(st.just(n), st.lists(st.tuples(st.integers(0, n - 1), st.integers(0, n - 1)), max_size=40))
    )
)
def test_what_pairs_join_hangs_together(case: tuple[int, list[tuple[int, int]]]) -> None:
    count, pairs = case
    names = [f"z{k}" for k in range(count)]
    groups = hanging_together(names, [(names[a], names[b]) for a, b in pairs])
    assert sorted(itertools.chain(*groups)) == sorted(names)
    of = {name: i for i, group in enumerate(groups) for name in group}
    assert all(of[names[a]] == of[names[b]] for a, b in pairs)
    # no group falls apart: from its first name all others are reached
    for group in groups:
        reached, last = {group[0]}, set()
        while reached != last:
            last = set(reached)
            reached |= {names[b] for a, b in pairs if names[a] in reached} | {names[a] for a, b in pairs if names[b] in reached}
        assert reached == set(group)
