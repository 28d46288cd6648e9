"""Reshaping and single rooms through the API: one step of undo each, refusals leave no trace."""

from __future__ import annotations

import pytest

from eurythm.exchange.demo import demo_project
from eurythm.simulate import building_of
from tests.api.conftest import Project
from tests.conftest import run_scheme, volume

PATH = "schemes/scheme-1"


def reshaped(project: Project, status: int = 200, **wish: object) -> dict:
    answer = project.post(f"{PATH}/reshape", {"revision": project.state["revision"], "reshape": wish}, status)
    if status == 200:
        project.state = answer
    return answer


def test_a_volume_is_cut_and_joined_as_steps_that_undo_walks(project: Project) -> None:
    before = project.state["given"]
    reshaped(project, op="cut", volume="v1", a=[8, -1], b=[8, 13])
    volumes = project.state["completed"]["schemes"][0]["volumes"]
    assert len(volumes) == 2
    names = {p["id"] for v in volumes for p in v["form"]["points"]}
    assert {"e1", "e2", "e3", "e4"} <= names  # edges that stay keep their names
    reshaped(project, op="join", volume=volumes[0]["id"], other=volumes[1]["id"])
    assert len(project.state["completed"]["schemes"][0]["volumes"]) == 1
    project.walk("undo")
    assert project.walk("undo")["given"] == before


def test_overrides_stay_on_their_edge_when_a_volume_is_made_a_free_outline(project: Project) -> None:
    project.edit(op="put", path=f"{PATH}/skin/overrides", item={"id": "o1", "face": "v1/*/e1", "glazing_ratio": 0.8})
    before = project.get(f"{PATH}/geometry")
    reshaped(project, op="to_outline", volume="v1")
    after = project.get(f"{PATH}/geometry")
    glass = lambda g: {f["edge"]: round(f["window_area"], 3) for f in g["faces"] if f["edge"]}  # noqa: E731
    assert glass(after) == glass(before)


def test_what_cannot_be_reshaped_is_told_and_leaves_no_trace(project: Project) -> None:
    before = project.get("")
    assert reshaped(project, 404, op="mirror", volume="gone")["code"] == "no-such-volume"
    assert reshaped(project, 422, op="cut", volume="v1", a=[90, 0], b=[90, 9])["code"] == "cut-misses"
    assert reshaped(project, 422, op="melt", volume="v1")["code"] == "wrong-request"
    stale = {"revision": 1, "reshape": {"op": "mirror", "volume": "v1"}}
    assert project.post(f"{PATH}/reshape", stale, 409)["code"] == "stale-revision"
    project.edit(op="put", path=f"{PATH}/volumes", item=volume("beside", x=20))
    assert reshaped(project, 422, op="beside", volume="v1", side="east")["code"] == "volumes-overlap"
    project.walk("undo")
    assert project.get("")["given"] == before["given"]


def test_a_zone_is_taken_out_and_the_scheme_stays_as_it_is(project: Project) -> None:
    before = project.state["given"]["schemes"][0]
    state = project.post(f"{PATH}/alone", {"revision": project.state["revision"], "zone": "v1/s0/all", "name": "Trial"}, 200)
    assert state["given"]["schemes"][0] == before
    assert state["given"]["schemes"][1]["name"] == "Trial"
    assert project.get("schemes/one-room/outcome")["totals"]["eui_kwh_per_m2"] > 5
    missing = {"revision": state["revision"], "zone": "nowhere"}
    assert project.post(f"{PATH}/alone", missing, 404)["code"] == "no-such-zone"


def test_an_imported_stair_is_merged_over_two_storeys() -> None:
    project = demo_project()
    court = project.scheme("court")
    plain = building_of(project.place, court)
    data = court.model_copy(update={"merged": ()}).model_dump(mode="json", exclude_unset=True)
    data["merged"] = [{"id": "stair", "name": "Stair hall", "zones": ["0.04", "1.04"]}]
    merged = type(court).model_validate(data)
    made = building_of(project.place, merged)
    stair = made.zones[-1]
    two = [z for z in plain.zones if z.id in ("0.04", "1.04")]
    assert (stair.name, len(made.zones)) == ("Stair hall", 29)
    assert stair.gross_volume == pytest.approx(sum(z.gross_volume for z in two))
    assert stair.gross_floor == pytest.approx(two[0].gross_floor)
    outside = [sum(f.area for f in b.faces if f.boundary == "outdoors") for b in (plain, made)]
    assert outside[0] == pytest.approx(outside[1])
    run = run_scheme(merged, place=project.place, library=project.library)
    assert run.demand.closure.max() < 1e-5


def test_zones_are_grouped_and_parted_as_steps_that_undo_walks(project: Project) -> None:
    project.edit(op="set", path=f"{PATH}/volumes/v1/zoning", value={"kind": "perimeter_core", "depth_m": 3})
    before = project.get(f"{PATH}/geometry")
    reshaped(project, op="group_zones", by="storey")
    (group,) = project.state["completed"]["schemes"][0]["merged"]
    assert len(group["zones"]) == len(before["zones"]) == 5
    joined = project.get(f"{PATH}/geometry")
    assert [z["id"] for z in joined["zones"]] == [group["id"]]
    assert {f["part"] for f in joined["faces"]} == set(group["zones"])
    outcome = project.get(f"{PATH}/outcome")
    assert [z["id"] for z in outcome["zones"]] == [group["id"]]
    reshaped(project, op="group_zones", by="none")
    assert project.get(f"{PATH}/geometry") == before
    project.walk("undo")
    assert project.get(f"{PATH}/geometry") == joined


def test_what_cannot_be_grouped_is_told(project: Project) -> None:
    assert reshaped(project, 422, op="group_zones", by="use")["code"] == "nothing-to-group"
    assert reshaped(project, 422, op="group_zones", by="colour")["code"] == "wrong-request"


def test_faces_of_rooms_tell_their_side_and_differ_by_it(project: Project) -> None:
    corners = [(30, 0), (36, 0), (36, 4), (30, 4)]
    outline = {"points": [{"id": f"e{i + 1}", "x": x, "y": y} for i, (x, y) in enumerate(corners)], "height": 3}
    project.edit(op="put", path=f"{PATH}/zones", item={"id": "room", "outline": outline})
    faces = {f["side"]: f for f in project.get(f"{PATH}/geometry")["faces"] if f["zone"] == "room"}
    assert set(faces) == {"e1", "e2", "e3", "e4", "floor", "roof"}
    assert {f["origin"] for f in faces.values()} == {"assumed"}
    project.edit(
        op="put", path=f"{PATH}/zones/room/faces", item={"id": "e2", "side": "e2", "boundary": "adiabatic", "construction": "wall-old"}
    )
    now = {f["side"]: f for f in project.get(f"{PATH}/geometry")["faces"] if f["zone"] == "room"}
    assert (now["e2"]["boundary"], now["e2"]["construction"], now["e2"]["origin"]) == ("adiabatic", "wall-old", "given")
    assert {k: f["boundary"] for k, f in now.items() if k != "e2"} == {k: f["boundary"] for k, f in faces.items() if k != "e2"}
    volumes = [f for f in project.get(f"{PATH}/geometry")["faces"] if f["zone"].startswith("v1/")]
    assert {f["side"] for f in volumes} == {""}


def test_a_roof_and_its_eaves_through_the_api(project: Project) -> None:
    flat = project.get(f"{PATH}/geometry")["zones"][0]["gross_volume_m3"]
    project.edit(op="set", path=f"{PATH}/volumes/v1/roof", value={"kind": "gable", "pitch_deg": 30, "eaves": "e1"})
    assert project.get(f"{PATH}/geometry")["zones"][0]["gross_volume_m3"] > flat
    fault = project.edit(422, op="set", path=f"{PATH}/volumes/v1/roof/eaves", value="e9")
    assert (fault["code"], fault["path"].rpartition("/")[2]) == ("no-such-edge", "eaves")
    fault = project.edit(422, op="set", path=f"{PATH}/volumes/v1/roof/pitch_deg", value=89)
    assert "75" in fault["message"]
