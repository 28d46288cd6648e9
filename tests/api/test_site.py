"""The routes of the site: sun of a day, what hides what, climates beside each other, schedules and tables of materials."""

from __future__ import annotations

import io
from typing import Any

import pytest
from openpyxl import load_workbook

from eurythm.exchange.demo import demo_map
from tests.api.conftest import Project

S = "schemes/scheme-1"


def upload(project: Project, name: str, body: bytes) -> Any:
    return project.client.post(f"{project.path}/materials/read", files={"file": (name, body)})


def test_the_sun_of_a_day_turns_with_north_and_moves_with_the_latitude(project: Project) -> None:
    june = project.get("sun?day=171")
    assert len(june["hours"]) == len(june["toward"]) > 90
    noon = max(june["toward"], key=lambda v: v[2])
    assert noon[1] < 0
    project.edit(op="set", path="place/north_deg", value=90)
    turned = max(project.get("sun?day=171")["toward"], key=lambda v: v[2])
    assert turned[2] == pytest.approx(noon[2])
    assert abs(turned[0]) > abs(turned[1])  # the drawing's top looks east: due south lies to its right
    project.edit(op="set", path="place/latitude_deg", value=70)
    assert len(project.get("sun?day=171")["hours"]) == 144
    assert project.get("sun?day=354")["hours"] == []
    project.get("sun?day=400", 422)


def test_what_hides_what_by_kind_and_without_weather(project: Project) -> None:
    project.edit(op="put", path="place/trees", item={"id": "t", "x": 10, "y": -5, "height": 9, "crown": 6, "form": "cone"})
    points = [{"x": -10, "y": -30}, {"x": 30, "y": -30}, {"x": 30, "y": -20}]
    project.edit(op="put", path="place/footprints", item={"id": "f", "points": points, "height": 15})
    told = project.get(f"{S}/surroundings")
    assert {t["kind"] for t in told["things"]} == {"trees", "footprints"}
    assert told["things"][0]["kwh"] >= told["things"][1]["kwh"] > 0
    project.edit(op="reset", path="place/climate")
    assert "Waiting for weather" in project.get(f"{S}/surroundings", 422)["message"]


def test_two_climates_are_told_of_with_the_scheme_s_use(project: Project) -> None:
    here, there = project.get(f"{S}/climate"), project.get(f"{S}/climate?stand_in=sorrel-flats")
    assert (here["name"], there["name"]) == ("Merrowhaven", "Sorrel Flats")
    for told in (here, there):
        assert sum(n for _, _, n in told["account"]["psychrometric"]) == 8760
        assert {g["id"] for g in told["gives"]} == {"outdoors", "shade", "sun", "night"}
        assert len(told["on_planes_kwh_m2"]["south"]) == 12
    assert project.client.get(f"{project.path}/{S}/climate?stand_in=atlantis").status_code in (404, 422)


@pytest.mark.parametrize("units", ["SI", "IP"])
def test_schedules_as_workbook_and_page(project: Project, units: str) -> None:
    answer = project.client.get(f"{project.path}/{S}/schedule.xlsx?units={units}")
    book = load_workbook(io.BytesIO(answer.content))
    assert ("ft²" if units == "IP" else "m²") in book["Areas"]["J1"].value
    page = project.client.get(f"{project.path}/{S}/schedule?units={units}")
    assert page.headers["content-type"].startswith("text/html")
    assert "Areas by element and orientation" in page.text
    assert project.client.get(f"{project.path}/{S}/schedule?units=feet").status_code == 422


def test_materials_go_out_and_come_in_again_without_a_trace_until_taken(project: Project) -> None:
    before = project.get("")
    out = project.client.get(f"{project.path}/materials.csv").content
    told = upload(project, "m.csv", out).json()
    assert told["findings"] == []
    assert len(told["items"]) == len(project.get("shelf")["materials"])
    assert upload(project, "m.csv", b"Material,Density\nx,1\n").status_code == 422
    assert project.get("")["given"] == before["given"]
    edits = [{"op": "put", "path": "library/materials", "item": item} for item in told["items"][:3]]
    project.edit(op="together", edits=edits)
    own = [m for m in project.get("shelf")["materials"] if m["own"]]
    assert [m["name"] for m in own] == [e["item"]["name"] for e in edits]
    assert load_workbook(io.BytesIO(project.client.get(f"{project.path}/materials.xlsx?units=IP").content))["Materials"].max_row > 50


def test_constructions_go_out_and_come_in_as_tables(project: Project) -> None:
    for ending in ("csv", "xlsx"):
        out = project.client.get(f"{project.path}/constructions.{ending}?units=IP").content
        told = project.client.post(f"{project.path}/constructions/read", files={"file": (f"c.{ending}", out)}).json()
        assert told["findings"] == []
        assert len(told["items"]) == len(project.get("shelf")["constructions"])
    project.edit(op="put", path="library/constructions", item=told["items"][0])
    assert [c["name"] for c in project.get("shelf")["constructions"] if c["own"]] == [told["items"][0]["name"]]


def test_what_is_kept_is_there_in_every_project_until_it_is_removed(project: Project) -> None:
    client = project.client
    item = {"id": "hemp", "name": "Hemp", "conductivity": 0.04, "density": 60}
    assert [m["id"] for m in client.post("/api/library/materials", json=item).json()["materials"]] == ["hemp"]
    assert client.post("/api/library/materials", json={**item, "conductivity": -1}).status_code == 422
    client.post("/api/library/materials", json={**item, "conductivity": 0.045})
    (kept,) = client.get("/api/library").json()["materials"]
    assert kept["conductivity"] == 0.045
    project.edit(op="put", path="library/materials", item=kept)
    assert client.delete("/api/library/materials/hemp").json()["materials"] == []
    assert client.delete("/api/library/materials/hemp").status_code == 404
    assert [m["id"] for m in project.get("shelf")["materials"] if m["own"]] == ["hemp"]  # the project's copy stays
    assert client.post("/api/library/profiles", json=item).status_code == 422


def test_a_whole_set_is_there_to_choose(project: Project) -> None:
    sets = project.client.get("/api/sets").json()
    for one in sets:
        for element, id in one["constructions"].items():
            project.edit(op="set", path=f"{S}/skin/{element}", value=id)
        told = project.get(f"{S}/outcome")
        assert told["elements"]["wall"]["u_value"] == pytest.approx(one["u_values"]["wall"], rel=1e-6)
    assert len(sets) >= 8


def test_faces_say_by_what_they_are_clad_and_what_is_gone_stays_named(project: Project) -> None:
    rule = {"id": "r", "element": "wall", "orientation": "south", "construction": "wall-old"}
    project.edit(op="set", path=f"{S}/skin/rules", value=[rule])
    told = {f["edge"]: (f["construction"], f["clad_by"], f["origin"]) for f in project.get(f"{S}/geometry")["faces"] if f["edge"]}
    assert told["v1/s0/e1"] == ("wall-old", "by rule 1: wall, south", "given")
    assert told["v1/s0/e2"] == ("wall-good", "as its kind of element", "assumed")
    project.edit(expected=422, op="set", path=f"{S}/skin/rules", value=[rule, rule])
    project.edit(op="set", path=f"{S}/skin/rules", value=[rule | {"construction": "gone"}])
    assert "gone" in project.get(f"{S}/outcome", 422)["message"]
    project.walk("undo")
    assert project.get(f"{S}/outcome")["totals"]["eui_kwh_per_m2"] > 0


def test_windows_beyond_their_face_are_refused_before_they_are_kept(project: Project) -> None:
    given = project.get("")["given"]
    override = {"id": "o", "face": "v1/s0/e1", "windows": [{"x": 18, "z": 1, "width": 4, "height": 1}]}
    answer = project.edit(expected=422, op="put", path=f"{S}/skin/overrides", item=override)
    assert "beyond the south wall of “" in answer["message"]
    assert project.get("")["given"] == given


@pytest.mark.parametrize("ratio", [0, 0.95])
def test_no_glass_and_nothing_but_glass(project: Project, ratio: float) -> None:
    for side in ("north", "east", "south", "west"):
        project.edit(op="set", path=f"{S}/skin/glazing_ratio/{side}", value=ratio)
    totals = project.get(f"{S}/outcome")["totals"]
    assert totals["window_m2"] == pytest.approx(ratio * totals["wall_m2"], rel=0.01)
    project.edit(expected=422, op="set", path=f"{S}/skin/glazing_ratio/south", value=1.2)


def test_a_map_is_kept_served_and_carried_by_the_project_file(project: Project) -> None:
    client, (digest, data, drawing) = project.client, demo_map()
    said = client.post(f"{project.path}/drawings", files={"file": ("map.png", data)}).json()
    assert (said["drawing"], said["picture"], said["guessed"]) == (digest, True, True)
    assert drawing.picture is not None
    told = project.get(f"drawings/{digest}")
    assert told["layers"] == []
    assert "data" not in told["picture"]
    answer = client.get(f"{project.path}/drawings/{digest}/picture")
    assert (answer.headers["content-type"], answer.content) == ("image/png", drawing.picture.data)
    item = {"id": "map", "drawing": digest, "name": "map.png", "metres": 0.2}
    before = project.get(f"{S}/outcome")["totals"]
    project.edit(op="put", path="place/underlays", item=item)
    assert project.get(f"{S}/outcome")["totals"] == before
    file = client.get(f"{project.path}/file").content
    again = client.post("/api/projects/open", files={"file": ("p.eurythm.json", file)}).json()
    assert client.get(f"/api/projects/{again['id']}/drawings/{digest}/picture").content == drawing.picture.data
    assert client.post(f"{project.path}/drawings", files={"file": ("map.png", b"no picture")}).status_code == 422
    assert client.get(f"{project.path}/drawings/none/picture").status_code == 404
    project.edit(expected=422, op="put", path="place/underlays", item=item | {"id": "two", "metres": -1})
