"""What every route promises: its data, its errors, and that nothing half-done stays."""

from __future__ import annotations

import json
import threading
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from eurythm.api.app import create_app
from eurythm.assess.figures import figures_of
from eurythm.climate.standin import PLACES, standin_epw
from eurythm.exchange.demo import demo_project
from eurythm.model.project import Bundle, BundleClimate
from eurythm.model.reading import dump
from tests.api.conftest import Project
from tests.conftest import volume


def opened(client: TestClient, data: object, expected: int = 201) -> dict:
    answer = client.post("/api/projects/open", files={"file": ("file.eurythm.json", json.dumps(data))})
    assert answer.status_code == expected, answer.text
    return answer.json()


@pytest.fixture
def demo(client: TestClient) -> Project:
    return Project(client, opened(client, dump(demo_project())))


def test_projects_are_listed_latest_first_and_removed_whole(client: TestClient) -> None:
    names = ["One", "Two", "Three"]
    made = [client.post("/api/projects", json={"name": n}).json()["id"] for n in names]
    assert [p["name"] for p in client.get("/api/projects").json()] == names[::-1]
    assert client.delete(f"/api/projects/{made[1]}").status_code == 204
    assert [p["name"] for p in client.get("/api/projects").json()] == ["Three", "One"]
    assert client.get(f"/api/projects/{made[1]}").status_code == 404


@pytest.mark.parametrize("name", ["", "x" * 121])
def test_a_project_needs_a_name_of_sensible_length(client: TestClient, name: str) -> None:
    answer = client.post("/api/projects", json={"name": name})
    assert (answer.status_code, answer.json()["path"]) == (422, "name")
    assert client.get("/api/projects").json() == []


def test_stand_in_places_are_offered_with_their_kind(client: TestClient) -> None:
    offered = client.get("/api/climates").json()
    assert [c["id"] for c in offered] == [p.id for p in PLACES]
    assert {"cool maritime", "hot-dry", "cold continental"} <= {c["kind"] for c in offered}


def test_a_stale_edit_is_told_the_current_state(project: Project) -> None:
    old = project.state["revision"]
    project.edit(op="set", path="place/north_deg", value=10)
    refused = project.edit(409, old, op="set", path="place/north_deg", value=99)
    assert refused["state"]["revision"] == project.state["revision"]
    assert refused["state"]["given"]["place"]["north_deg"] == 10


def test_edits_at_once_are_one_after_another_or_refused(project: Project) -> None:
    """Eight edits on the same revision at once: one is kept, the others are told that they are stale."""
    revision, codes = project.state["revision"], []

    def send(value: int) -> None:
        body = {"revision": revision, "edit": {"op": "set", "path": "place/north_deg", "value": value}}
        codes.append(project.client.post(f"{project.path}/edits", json=body).status_code)

    threads = [threading.Thread(target=send, args=(k,)) for k in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(codes) == [200] + [409] * 7
    assert project.get("")["revision"] == revision + 1


def test_geometry_names_and_measures_every_face(demo: Project) -> None:
    form = demo.get("schemes/terraces/geometry")
    assert form["footprint_m2"] == pytest.approx(44 * 22 + 16 * 16)
    zones = {z["id"]: z for z in form["zones"]}
    assert len(zones) == 4 * 5 + 1
    assert "Hall, Storey 0, south" in [z["name"] for z in zones.values()]
    for face in form["faces"]:
        assert face["zone"] in zones
        assert (face["other"] in zones) == (face["boundary"] == "zone")
        assert 0 <= face["window_area"] < face["area"]
        assert all(len(corner) == 3 for loop in face["loops"] for corner in loop)
        assert all(len(window) == 4 for window in face["windows"])
    rests = {(c["volume"], c["what"], c["other"]): c["area_m2"] for c in form["contact"]}
    assert rests["rooms", "floor against", "hall"] == pytest.approx(440)
    assert rests["hall", "ceiling against", "rooms"] == pytest.approx(440)
    assert rests["hall", "ceiling outdoors", ""] == pytest.approx(44 * 22 - 440)
    assert rests["hall", "wall against", "shed"] == pytest.approx(16 * 4.4)


def test_outcome_tells_what_it_was_made_of(demo: Project) -> None:
    outcome = demo.get("schemes/quay/outcome")
    assert (outcome["scheme"], outcome["revision"]) == ("quay", 1)
    assert outcome["closure"] < 1e-5
    assert outcome["elements"]["wall"]["u_value"] == pytest.approx(0.1955, abs=0.05)
    fine = demo.get("schemes/quay/outcome?substeps=4")
    assert (outcome["peaks"]["substeps"], fine["peaks"]["substeps"]) == (1, 4)
    assert demo.get("schemes/quay/outcome?substeps=40", 422)["path"] == "substeps"
    assert demo.get("schemes/none/outcome", 404)["code"] == "no-such-scheme"


def test_hourly_lines_agree_with_the_year(demo: Project) -> None:
    outcome = demo.get("schemes/quay/outcome")
    zone = outcome["zones"][0]
    ask = {"cases": [{"scheme": "quay"}], "zones": ["", zone["id"]], "lines": ["heating_w", "cooling_w", "air_c"]}
    whole = {(s["line"], s["zone"]): s["values"] for s in demo.post("hourly", ask, 200)["series"]}
    assert len(whole["air_c", ""]) == 8760
    assert sum(whole["heating_w", ""]) / 1000 == pytest.approx(outcome["totals"]["heating_demand_kwh"], rel=1e-4)
    assert sum(whole["cooling_w", zone["id"]]) / 1000 == pytest.approx(zone["cooling_demand_kwh"], rel=1e-4)
    assert min(whole["air_c", zone["id"]]) == pytest.approx(zone["air_c"]["min"], abs=0.01)
    week = demo.post("hourly", {**ask, "start": 4704, "hours": 168}, 200)["series"]
    assert week[0]["values"] == whole["heating_w", ""][4704 : 4704 + 168]
    assert demo.post("hourly", {**ask, "zones": ["attic"]}, 200)["series"] == []


def test_the_climate_sheet_is_the_year_s_own(demo: Project) -> None:
    sheet = demo.get("climate-sheet")
    means = sheet["temperature_c"]["mean"]
    assert sheet["year_mean_c"] == pytest.approx(np.mean(means), abs=0.2)
    assert all(
        low < mean < high for low, mean, high in zip(sheet["temperature_c"]["low"], means, sheet["temperature_c"]["high"], strict=True)
    )
    assert sheet["design_days"]["cold"]["air_c"] < min(means)
    assert len(sheet["design_days"]["warm"]["profile_c"]) == 24
    assert sheet["degree_days"]["heating"] > sheet["degree_days"]["cooling"]
    demo.edit(op="reset", path="place/climate")
    assert demo.get("climate-sheet", 422)["code"] == "no-climate"


def test_the_shelf_has_u_values_and_marks_the_project_s_own(demo: Project) -> None:
    wall = {"id": "mine", "name": "Mine", "element": "wall", "layers": [{"name": "wool", "thickness_m": 0.2, "conductivity": 0.04}]}
    demo.edit(op="put", path="library/constructions", item=wall)
    shelf = demo.get("shelf")
    mine = next(c for c in shelf["constructions"] if c["id"] == "mine")
    assert mine["own"]
    assert mine["u"] == pytest.approx(1 / (0.17 + 5))
    held = {c["id"] for c in demo.state["completed"]["library"]["constructions"]}
    assert {c["id"] for c in shelf["constructions"] if c["own"]} == held
    assert len(shelf["constructions"]) > len(held)
    assert len(shelf["profiles"]) >= 5


def test_a_construction_in_use_cannot_be_broken(demo: Project) -> None:
    wall = {"id": "mine", "name": "Mine", "element": "wall", "layers": [{"name": "wool", "thickness_m": 0.2, "conductivity": 0.04}]}
    demo.edit(op="put", path="library/constructions", item=wall)
    demo.edit(op="set", path="schemes/quay/skin/wall", value="mine")
    assert demo.edit(422, op="set", path="library/constructions/mine/layers", value=[])["path"] == "library/constructions/mine"
    demo.edit(op="remove", path="library/constructions/mine")
    missing = demo.get("schemes/quay/outcome", 422)
    assert (missing["code"], missing["path"]) == ("unknown-construction", "scheme/skin/wall")


def test_schemes_are_added_copied_renamed_and_the_reference_is_safe(demo: Project) -> None:
    demo.edit(op="duplicate_scheme", scheme="court", id="court-2", name="Court, wider")
    demo.edit(op="set", path="schemes/court-2/name", value="Yard")
    assert [s["name"] for s in demo.state["given"]["schemes"]] == ["Quay", "Court", "Terraces", "Yard"]
    assert demo.edit(422, op="remove", path="schemes/quay")["code"] == "no-reference"
    demo.edit(op="set", path="reference", value="court-2")
    demo.edit(op="remove", path="schemes/quay")
    assert demo.state["completed"]["reference"] == "court-2"
    assert demo.edit(422, op="set", path="reference", value="quay")["code"] == "no-reference"


def test_tried_edits_are_checked_like_kept_ones(project: Project) -> None:
    overlap = {"scheme": "scheme-1", "edit": {"op": "put", "path": "schemes/scheme-1/volumes", "item": volume("v2", x=5)}}
    assert project.post("preview/geometry", overlap, 422)["code"] == "volumes-overlap"
    wrong = {"scheme": "scheme-1", "edit": {"op": "set", "path": "schemes/scheme-1/turn_deg", "value": "north"}}
    assert project.post("preview/outcome", wrong, 422)["path"] == "schemes/scheme-1/turn_deg"


def bundle(**climate: object) -> dict:
    demo = demo_project()
    return dump(Bundle(place=demo.place, scheme=demo.scheme("court"), climate=BundleClimate(**climate)))


def test_a_bundle_brings_its_weather_along(client: TestClient) -> None:
    epw = standin_epw("karsk-basin")
    made = opened(client, bundle(epw=epw))
    project = Project(client, made)
    assert made["completed"]["place"]["climate"]["kind"] == "file"
    assert project.get("climate-sheet")["location"]["city"] == "Karsk Basin"
    saved = client.get(f"{project.path}/file").content
    again = client.post("/api/projects/open", files={"file": ("again.json", saved)}).json()
    assert again["given"] == made["given"]


def test_weather_beside_a_bundle_is_asked_for_not_left_out(client: TestClient) -> None:
    refused = opened(client, bundle(file="merrowhaven.epw"), 422)
    assert (refused["code"], refused["path"]) == ("no-climate", "climate/file")
    assert client.get("/api/projects").json() == []


@pytest.mark.parametrize(
    "files",
    [
        ["not", "a", "map"],
        {"abc": {"name": "x.epw", "epw": "%%%"}},
        {"abc": {"name": "x.epw"}},
        {"abc": "text"},
        {"abc": {"name": "x.epw", "epw": "eJwDAAAAAAE="}},
    ],
)
def test_weather_that_is_not_what_it_says_is_refused(client: TestClient, files: object) -> None:
    refused = opened(client, {**dump(demo_project()), "files": files}, 422)
    assert refused["message"]
    assert client.get("/api/projects").json() == []


def test_a_project_that_lost_its_weather_is_refused(client: TestClient) -> None:
    data = dump(demo_project())
    data["place"]["climate"] = {"kind": "file", "id": "0" * 24, "name": "Elsewhere"}
    assert opened(client, data, 422)["code"] == "no-climate"


def test_a_newer_or_foreign_file_says_where_it_is_wrong(client: TestClient) -> None:
    data = dump(demo_project())
    assert opened(client, {**data, "version": 7}, 422)["code"] == "newer-version"
    data["schemes"][1]["skin"]["glass_ratio"] = 3
    assert opened(client, data, 422)["path"] == "schemes/court/skin/glass_ratio"


def test_findings_show_schemes_and_what_is_wrong_with_them(demo: Project) -> None:
    for scheme in ("court", "terraces", "quay"):
        demo.post("pins", {"scheme": scheme}, 201)
    columns = demo.get("findings")["columns"]
    assert [(c["title"], c["subtitle"]) for c in columns] == [
        ("Quay", "reference"), ("Court", "as it stands"), ("Terraces", "as it stands"),
    ]  # fmt: skip
    assert columns[0]["pin"]
    assert columns[0]["differences"] == {}
    judged = {f.id for f in figures_of("building", "array")} - {"daylit_share", "useful_daylight_share"}  # no scheme's floors are
    assert judged == set(columns[1]["differences"])
    assert all(s.endswith(".") for s in columns[2]["sentences"])
    demo.edit(op="remove", path="schemes/court")
    demo.edit(op="set", path="schemes/terraces/skin/wall", value="none")
    gone, broken = demo.get("findings")["columns"][1:]
    assert (gone["fault"], gone["outcome"]) == ("This scheme was removed.", None)
    assert "no construction" in broken["fault"]


@pytest.mark.parametrize("body", [{}, {"study": "x", "scheme": "quay"}, {"scheme": "none"}, {"study": "none", "number": 0}])
def test_pins_name_one_thing_that_is_there(demo: Project, body: dict) -> None:
    answer = demo.client.post(f"{demo.path}/pins", json=body)
    assert answer.status_code in (404, 422)
    assert demo.get("pins") == []


def test_routes_of_one_project_do_not_serve_another_s_studies(demo: Project) -> None:
    assert demo.get("studies/none", 404)["code"] == "no-such-study"
    assert demo.get("studies/none/cases", 404)["code"] == "no-such-study"
    assert demo.client.delete(f"{demo.path}/studies/none").status_code == 404


def test_a_study_is_cancelled_between_lots_and_keeps_what_is_done(client: TestClient, project: Project) -> None:
    office = client.app.state.office
    levers = [{"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.1 + 0.01 * k for k in range(40)]}]
    study = project.post("studies", {"revision": project.state["revision"], "study": {"levers": levers}}, 201)
    project.post(f"studies/{study['id']}/cancel", {}, 200)
    office.jobs.wait(study["id"])
    after = project.get(f"studies/{study['id']}")
    assert after["status"] == "cancelled"
    assert after["done"] < 40
    cases = project.get(f"studies/{study['id']}/cases")["cases"]
    assert sum(c["status"] == "done" for c in cases) == after["done"]


def test_pages_are_served_for_any_path_and_unknown_routes_are_told(client: TestClient) -> None:
    page = client.get("/p/anything/shape")
    assert page.status_code in (200, 503)  # without a built front end the page says so
    assert client.post("/api/none").status_code == 404
    assert client.get("/api/openapi.json").json()["info"]["title"] == "Eurythm"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "evil.example:8710", ""])
def test_only_our_own_host_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/projects", headers={"host": host}).status_code == 400


def test_writes_from_our_own_page_are_taken(client: TestClient) -> None:
    own = {"host": "127.0.0.1:8710", "origin": "http://127.0.0.1:8710"}
    assert client.post("/api/projects", json={"name": "x"}, headers=own).status_code == 201
    other_port = {"host": "127.0.0.1:8710", "origin": "http://127.0.0.1:9999"}
    assert client.post("/api/projects", json={"name": "x"}, headers=other_port).status_code == 403


def test_a_fault_of_ours_is_told_without_its_inside(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("secret path /etc")

    with TestClient(create_app(tmp_path), raise_server_exceptions=False) as client:
        monkeypatch.setattr(client.app.state.office.projects, "listed", broken, raising=False)
        object.__setattr__(client.app.state.office.projects, "listed", broken)
        answer = client.get("/api/projects")
    assert answer.status_code == 500
    assert answer.json()["code"] == "our-fault"
    assert "secret" not in answer.text
