"""Edits, revisions, weather files, project files: what the API promises."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from eurythm.api.app import create_app
from eurythm.climate.standin import standin_epw
from eurythm.exchange.demo import demo_project
from eurythm.model.project import Bundle, BundleClimate
from eurythm.model.reading import dump
from tests.api.conftest import Project
from tests.conftest import volume


def test_edits_are_revisions_that_undo_and_redo_walk(project: Project) -> None:
    project.edit(op="set", path="schemes/scheme-1/skin/sill_m", value=1.1)
    given = project.state["given"]
    assert project.walk("undo")["given"]["schemes"][0].get("skin", {}) == {}
    assert project.walk("redo")["given"] == given
    assert project.walk("redo", 422)["code"] == "nothing-to-redo"


def test_a_new_edit_ends_what_could_be_redone(project: Project) -> None:
    project.edit(op="set", path="place/north_deg", value=10)
    project.walk("undo")
    project.edit(op="set", path="place/north_deg", value=20)
    assert not project.state["can_redo"]
    assert project.walk("undo")["completed"]["place"]["north_deg"] == 0


def test_a_stale_edit_gets_409_and_overwrites_nothing(project: Project) -> None:
    old = project.state["revision"]
    project.edit(op="set", path="place/north_deg", value=10)
    refused = project.edit(409, old, op="set", path="place/north_deg", value=99)
    assert refused["code"] == "stale-revision"
    assert refused["revision"] == project.state["revision"]
    assert project.get("")["completed"]["place"]["north_deg"] == 10


def test_undo_reaches_across_a_restart(project: Project, tmp_path: Path) -> None:
    project.edit(op="set", path="place/north_deg", value=10)
    with TestClient(create_app(tmp_path)) as again:
        state = again.post(f"{project.path}/undo", json={"revision": project.state["revision"]}).json()
    assert state["completed"]["place"]["north_deg"] == 0


@pytest.mark.parametrize(
    ("edit", "code", "path"),
    [
        ({"op": "put", "path": "schemes/scheme-1/volumes", "item": volume("v2", x=5)}, "volumes-overlap", "schemes/scheme-1/volumes/v2"),
        (
            {"op": "set", "path": "schemes/scheme-1/volumes/v1/storeys/s0/height_m", "value": 0},
            "wrong-field",
            "schemes/scheme-1/volumes/v1/storeys/s0/height_m",
        ),
        ({"op": "set", "path": "schemes/scheme-1/nothing", "value": 0}, "wrong-field", "schemes/scheme-1/nothing"),
    ],
)
def test_impossible_edits_are_refused_and_leave_no_trace(project: Project, edit: dict, code: str, path: str) -> None:
    before = project.get("")
    refused = project.edit(422, **edit)
    assert (refused["code"], refused["path"]) == (code, path)
    assert project.get("") == before


def test_malformed_requests_are_told_with_their_path(client: TestClient, project: Project) -> None:
    answer = client.post(f"{project.path}/edits", json={"revision": 1, "edit": {"op": "explode"}})
    assert answer.status_code == 422
    assert answer.json()["code"] == "wrong-request"
    assert client.get("/api/nowhere").json()["code"] == "no-such-route"
    assert client.get("/api/projects/none").status_code == 404


def test_outcome_follows_edits_and_waits_for_weather(project: Project) -> None:
    first = project.get("schemes/scheme-1/outcome")
    project.edit(op="set", path="schemes/scheme-1/skin/glazing_ratio/south", value=0.7)
    second = project.get("schemes/scheme-1/outcome")
    assert second["revision"] == first["revision"] + 1
    assert second["totals"]["cooling_demand_kwh"] > first["totals"]["cooling_demand_kwh"]
    project.edit(op="reset", path="place/climate")
    assert project.get("schemes/scheme-1/outcome", 422)["code"] == "no-climate"
    assert [r["code"] for r in project.state["remarks"]["scheme-1"]] == ["no-climate"]


def test_preview_is_not_kept(project: Project) -> None:
    before = project.get("")
    tried = {"scheme": "scheme-1", "edit": {"op": "set", "path": "schemes/scheme-1/turn_deg", "value": 40}}
    assert project.post("preview/outcome", tried, 200)["totals"] != project.get("schemes/scheme-1/outcome")["totals"]
    assert project.post("preview/geometry", tried, 200)["faces"][0]["azimuth_deg"] == 220
    assert project.get("") == before


def test_price_changes_cost_alone(project: Project) -> None:
    first = project.get("schemes/scheme-1/outcome")["totals"]
    project.edit(op="set", path="factors/electricity/price", value=0.56)
    second = project.get("schemes/scheme-1/outcome")["totals"]
    assert second["cost"] == pytest.approx(2 * first["cost"])
    assert second["eui_kwh_per_m2"] == first["eui_kwh_per_m2"]


def send_epw(project: Project, data: bytes, expected: int) -> dict:
    answer = project.client.post(
        f"{project.path}/climate", params={"revision": project.state["revision"]}, files={"file": ("site.epw", data)}
    )
    assert answer.status_code == expected, answer.text
    return answer.json()


def test_an_epw_of_the_users_is_kept_in_the_project(project: Project) -> None:
    state = send_epw(project, standin_epw("karsk-basin").encode(), 200)
    assert state["completed"]["place"]["climate"]["kind"] == "file"
    sheet = project.get("climate-sheet")
    assert sheet["location"]["city"] == "Karsk Basin"
    assert list(sheet["files"].values()) == ["site.epw"]


@pytest.mark.parametrize("cut", [200, 5000, 8708])
def test_a_broken_epw_stores_nothing(project: Project, cut: int) -> None:
    before = project.get("")
    lines = standin_epw("karsk-basin").split("\n")[:cut]
    assert send_epw(project, "\n".join(lines).encode(), 422)["path"] == f"line {cut}"
    assert send_epw(project, b"\x89PNG", 422)["code"] == "not-epw"
    assert project.get("") == before
    assert project.get("climate-sheet")["files"] == {}


def test_project_file_comes_back_the_same(project: Project) -> None:
    project.state = send_epw(project, standin_epw("karsk-basin").encode(), 200)
    file = project.client.get(f"{project.path}/file")
    assert "attachment" in file.headers["content-disposition"]
    opened = project.client.post("/api/projects/open", files={"file": ("p.json", file.content)})
    assert opened.status_code == 201, opened.text
    assert opened.json()["given"] == project.state["given"]
    again = project.client.get(f"/api/projects/{opened.json()['id']}/schemes/scheme-1/outcome").json()
    assert again["totals"] == project.get("schemes/scheme-1/outcome")["totals"]


def test_a_bundle_opens_as_a_project(client: TestClient) -> None:
    demo = demo_project()
    bundle = Bundle(place=demo.place, scheme=demo.scheme("court"), climate=BundleClimate(stand_in="vallarena"))
    opened = client.post("/api/projects/open", files={"file": ("b.json", json.dumps(dump(bundle)))})
    assert opened.status_code == 201, opened.text
    assert opened.json()["completed"]["place"]["climate"]["id"] == "vallarena"


@pytest.mark.parametrize(
    "broken",
    [
        b"",
        b"{",
        b"[]",
        b'{"format": "eurythm.project", "version": 2}',
        b'{"format": "eurythm.project", "name": "x", "schemes": [], "reference": "a"}',
        b"PK\x03\x04",
    ],
)
def test_broken_project_files_leave_nothing(client: TestClient, broken: bytes) -> None:
    before = client.get("/api/projects").json()
    answer = client.post("/api/projects/open", files={"file": ("p.json", broken)})
    assert answer.status_code == 422
    assert answer.json()["code"]
    assert client.get("/api/projects").json() == before


def test_foreign_hosts_and_origins_are_turned_away(client: TestClient) -> None:
    assert client.get("/api/projects", headers={"host": "evil.example"}).status_code == 400
    assert client.post("/api/projects", json={"name": "x"}, headers={"origin": "http://evil.example"}).status_code == 403
