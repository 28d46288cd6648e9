"""Imports through the API: reading in the background, sifting, taking over, a newer file of the same model."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from eurythm.api.app import create_app
from eurythm.exchange.intake.again import rebase
from eurythm.exchange.samples import dxf, ifc, massing
from eurythm.exchange.samples.ifc import Options
from eurythm.model.amount import said
from tests.api.conftest import Project


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("files")
    ifc.write_court(folder / "court.ifc", Options(clutter=False))
    ifc.write_court(folder / "newer.ifc", Options(clutter=False, lintel=0.3))
    return folder


def upload(project: Project, path: Path, **more: str) -> dict[str, Any]:
    """Send a file and wait until it was read."""
    answer = project.client.post(f"{project.path}/imports", files={"file": (path.name, path.read_bytes())}, params=more)
    assert answer.status_code == 202, answer.text
    end = time.monotonic() + 60
    while (state := project.get(f"imports/{answer.json()['id']}"))["status"] == "reading":
        assert time.monotonic() < end, state
    return state


def accept(project: Project, made: dict[str, Any], **wish: Any) -> dict[str, Any]:
    answer = project.post(f"imports/{made['id']}/accept", {"revision": project.state["revision"], **wish}, 200)
    project.state = project.get("")
    return answer


def test_an_import_is_sifted_settled_and_taken_over_as_a_scheme(project: Project, files: Path) -> None:
    made = upload(project, files / "court.ifc")
    assert made["status"] == "read"
    sift = project.get(f"imports/{made['id']}/sift")
    by_name = {c["class_name"]: c for c in sift["classes"]}
    assert by_name["IfcSpace"]["count"] == 33
    assert by_name["IfcWindow"]["picture"]
    assert project.state["revision"] == project.get("")["revision"]  # reading changes nothing
    objects = project.get(f"imports/{made['id']}/objects")
    assert len(objects) == sum(c["count"] for c in sift["classes"])
    rules = [{"id": "no-doors", "by": "class", "value": "IfcDoor", "keep": False}]
    answer = project.client.put(f"{project.path}/imports/{made['id']}/sift", json={"rules": rules})
    assert {c["class_name"]: c["kept"] for c in answer.json()["classes"]}["IfcDoor"] == 0
    assert answer.json()["meets"] == {"no-doors": by_name["IfcDoor"]["count"]}
    settled = project.get(f"imports/{made['id']}/settled")
    assert settled["fault"] is None
    assert len(settled["geometry"]["zones"]) == 30
    assert {f["code"] for f in settled["findings"]} == set(ifc.FAULTS)
    unclosed = next(f for f in settled["findings"] if f["code"] == "space-not-closed")
    assert len(unclosed["loops"][0]) == 4
    assert settled["told"][1:] == ["The file's true north holds for all schemes once it is taken over."]
    went = accept(project, made, **{"as": "scheme", "name": "Court"})
    assert went["told"][0] == settled["told"][0]
    schemes = {s["id"]: s for s in project.state["completed"]["schemes"]}
    assert len(schemes[went["scheme"]]["zones"]) == 30
    assert project.state["completed"]["place"]["north_deg"] == -11.0
    # the file lies elsewhere than the climate year, which stays; its north is taken, and moves the scheme that was there
    assert "latitude_deg" not in project.state["given"]["place"]
    differs, taken = went["told"]
    assert "latitude 53.50°, longitude -2.25°" in differs
    assert taken == "The file's true north holds for all schemes now."
    assert project.get(f"schemes/{went['scheme']}/outcome")["totals"]["eui_kwh_per_m2"] > 10
    project.walk("undo")
    assert went["scheme"] not in {s["id"] for s in project.state["completed"]["schemes"]}


def test_a_newer_file_keeps_what_was_changed_by_hand(project: Project, files: Path) -> None:
    first = upload(project, files / "court.ifc")
    scheme = accept(project, first, **{"as": "scheme", "name": "Court"})["scheme"]
    project.edit(op="set", path=f"schemes/{scheme}/zones/0.01/profile", value="office")
    project.edit(op="set", path=f"schemes/{scheme}/zones/0.03/name", value="Desk")
    wide = lambda: sum(w["width"] for z in project.state["completed"]["schemes"][-1]["zones"] for f in z["faces"] for w in f["windows"])  # noqa: E731
    narrow = wide()
    newer = upload(project, files / "newer.ifc", follows=first["id"])
    settled = project.get(f"imports/{newer['id']}/settled")
    assert {d["kind"] for d in settled["differences"]} == {"changed"}
    assert all(d["class_name"] == "IfcWindow" for d in settled["differences"])
    accept(project, newer, **{"as": "shape"})
    zones = {z["id"]: z for z in project.state["completed"]["schemes"][-1]["zones"]}
    assert (zones["0.01"]["profile"], zones["0.03"]["name"]) == ("office", "Desk")
    assert wide() > narrow + 30
    assert len(project.state["completed"]["schemes"]) == 2


def test_a_project_file_takes_its_imports_along_with_decisions_and_hand_made_edits(project: Project, files: Path) -> None:
    first = upload(project, files / "court.ifc")
    mends = [{"id": "m1", "object": project.get(f"imports/{first['id']}/objects")[0]["id"], "field": "name", "value": "Mended"}]
    project.client.put(f"{project.path}/imports/{first['id']}/sift", json={"mends": mends})
    scheme = accept(project, first, **{"as": "scheme", "name": "Court"})["scheme"]
    project.edit(op="set", path=f"schemes/{scheme}/zones/0.01/profile", value="office")
    newer = upload(project, files / "newer.ifc", follows=first["id"])
    text = project.client.get(f"{project.path}/file").text
    answer = project.client.post("/api/projects/open", files={"file": ("p.eurythm.json", text)})
    assert answer.status_code == 201, answer.text
    other = Project(project.client, answer.json())
    listed = {i["file"]: i for i in other.get("imports")}
    assert set(listed) == {"court.ifc", "newer.ifc"}
    assert listed["court.ifc"]["scheme"] == scheme
    assert listed["newer.ifc"]["follows"] == listed["court.ifc"]["id"] != first["id"]
    assert other.get(f"imports/{listed['court.ifc']['id']}/sift")["sift"]["mends"] == mends
    ours, theirs = (p.get(f"imports/{i}/settled") for p, i in ((project, newer["id"]), (other, listed["newer.ifc"]["id"])))
    assert theirs["differences"] == ours["differences"] != []
    accept(other, listed["newer.ifc"], **{"as": "shape"})
    zones = {z["id"]: z for z in next(s for s in other.state["completed"]["schemes"] if s["id"] == scheme)["zones"]}
    assert zones["0.01"]["profile"] == "office"
    asked = other.client.post(f"{other.path}/imports/{listed['court.ifc']['id']}/requirements")
    assert asked.status_code == 200  # the file itself came along


def test_a_project_file_with_a_damaged_import_makes_no_project(project: Project, files: Path) -> None:
    upload(project, files / "court.ifc")
    data = json.loads(project.client.get(f"{project.path}/file").text)
    (whole,) = data["imports"]
    before = project.client.get("/api/projects").json()
    for damage in ({"received": "AAAA"}, {"follows": 3}, {"file": None, "received": None}, {"base": {"zones": 3}}):
        damaged = json.dumps({**data, "imports": [whole | damage]})
        answer = project.client.post("/api/projects/open", files={"file": ("p.eurythm.json", damaged)})
        assert answer.status_code == 422, (damage, answer.text)
    answer = project.client.post("/api/projects/open", files={"file": ("p.eurythm.json", json.dumps({**data, "imports": "x"}))})
    assert answer.json()["path"] == "imports"
    assert project.client.get("/api/projects").json() == before


def test_an_import_becomes_a_project_of_its_own(project: Project, files: Path) -> None:
    made = upload(project, files / "court.ifc")
    before = project.get("")
    went = project.post(f"imports/{made['id']}/accept", {"revision": 1, "as": "project", "name": "From a model"}, 200)
    assert went["project"] != project.state["id"]
    assert project.get("") == before
    other = project.client.get(f"/api/projects/{went['project']}").json()
    assert len(other["completed"]["schemes"][0]["zones"]) == 30
    assert [i["status"] for i in project.client.get(f"/api/projects/{went['project']}/imports").json()] == ["read"]


def test_a_mass_is_cut_into_storeys_as_asked(project: Project, tmp_path: Path) -> None:
    massing.write_masses(tmp_path / "masses.obj")
    for asked, storeys in ((7.0, [1, 1, 1]), (3.5, [2, 2, 1]), (2.3, [3, 3, 2])):
        made = upload(project, tmp_path / "masses.obj", unit="m", up="z", storey_height=str(asked))
        went = accept(project, made, **{"as": "scheme", "name": f"At {asked}"})
        scheme = next(s for s in project.state["completed"]["schemes"] if s["id"] == went["scheme"])
        assert [len(v["storeys"]) for v in scheme["volumes"]] == storeys
    before = project.state
    for odd in ("0.3", "0", "31"):
        made = upload(project, tmp_path / "masses.obj", unit="m", up="z", storey_height=odd)
        assert (made["status"], said(made["fault"]["message"])) == ("failed", "The storey height should be 1.5 m to 30 m.")
    assert (
        project.client.post(f"{project.path}/imports", files={"file": ("m.obj", b"")}, params={"storey_height": "tall"}).status_code == 422
    )
    assert project.get("") == before


def test_a_model_takes_the_place_of_a_shape_and_keeps_what_else_was_given(project: Project, files: Path) -> None:
    before = project.state["given"]
    own = before["schemes"][0]["id"]
    project.edit(op="set", path=f"schemes/{own}/use/profile", value="office")
    made = upload(project, files / "court.ifc")
    refused = project.client.post(
        f"{project.path}/imports/{made['id']}/accept", json={"revision": project.state["revision"], "as": "shape", "scheme": "gone"}
    )
    assert (refused.status_code, refused.json()["code"]) == (404, "no-such-scheme")
    late = project.client.post(f"{project.path}/imports/{made['id']}/accept", json={"revision": 0, "as": "shape", "scheme": own})
    assert late.status_code == 409
    went = accept(project, made, **{"as": "shape", "scheme": own})
    (scheme,) = project.state["given"]["schemes"]
    assert (went["scheme"], scheme["id"], scheme["use"]["profile"]) == (own, own, "office")
    assert len(scheme["zones"]) == 30
    project.walk("undo")
    assert "zones" not in project.state["given"]["schemes"][0]


def test_decisions_are_handed_out_as_a_file_that_can_be_put_again(project: Project, files: Path) -> None:
    first, second = (upload(project, files / name) for name in ("court.ifc", "newer.ifc"))
    rules = [{"id": "no-doors", "by": "class", "value": "IfcDoor", "keep": False}]
    project.client.put(f"{project.path}/imports/{first['id']}/sift", json={"rules": rules, "gap_m": 0.3})
    answer = project.client.get(f"{project.path}/imports/{first['id']}/sift.json")
    assert answer.headers["content-disposition"] == 'attachment; filename="decisions.sift.json"'
    saved = answer.json()
    assert saved == {"format": "eurythm.sift", "version": 1, "rules": rules, "gap_m": 0.3}
    put = project.client.put(f"{project.path}/imports/{second['id']}/sift", json=saved).json()
    assert (put["sift"]["rules"], put["sift"]["gap_m"]) == (rules, 0.3)
    odd = project.client.put(f"{project.path}/imports/{second['id']}/sift", json={"rules": [{**rules[0], "by": "luck"}]})
    assert odd.status_code == 422
    assert project.get(f"imports/{second['id']}/sift")["sift"]["rules"] == rules


def test_a_model_of_which_nothing_is_kept_says_so_before_it_is_taken_over(project: Project, files: Path) -> None:
    made = upload(project, files / "court.ifc")
    rules = [{"id": "none", "by": "name", "value": "*", "keep": False}]
    project.client.put(f"{project.path}/imports/{made['id']}/sift", json={"rules": rules})
    settled = project.get(f"imports/{made['id']}/settled")
    assert (settled["fault"]["code"], settled["report"], settled["geometry"]) == ("nothing-to-settle", None, None)
    before = project.get("")
    refused = project.client.post(
        f"{project.path}/imports/{made['id']}/accept", json={"revision": project.state["revision"], "as": "scheme", "name": "Empty"}
    )
    assert (refused.status_code, refused.json()["code"]) == (422, "nothing-to-settle")
    assert project.get("") == before


def test_requirements_tell_which_objects_meet_them_and_why_not(project: Project, files: Path) -> None:
    made = upload(project, files / "court.ifc")
    path = f"{project.path}/imports/{made['id']}/requirements"
    asked = {r["name"]: r for r in project.client.post(path).json()["requirements"]}
    assert (asked["Rooms have a number"]["passed"], asked["Rooms have a number"]["failed"]) == (33, [])
    (nameless,) = asked["Rooms have a name"]["failed"]
    assert nameless["called"] == "1.13"
    assert len(asked["Walls say whether they are outside"]["failed"]) == 3
    (lost,) = asked["Windows fill an opening"]["failed"]
    assert lost["object"] in {o["id"] for o in project.get(f"imports/{made['id']}/objects")}
    answer = project.client.post(path, files={"file": ("mine.ids", b"<ids>nothing</ids>")})
    assert (answer.status_code, answer.json()["code"]) == (422, "not-ids")


def test_a_damaged_file_fails_with_a_sentence_and_leaves_no_trace(project: Project, tmp_path: Path) -> None:
    (tmp_path / "noise.ifc").write_bytes(b"not at all")
    before = project.get("")
    made = upload(project, tmp_path / "noise.ifc")
    assert made["status"] == "failed"
    assert "noise.ifc" in made["fault"]["message"]
    assert project.get(f"imports/{made['id']}/sift", 404)["code"] == "nothing-read"
    assert project.get("") == before
    assert project.client.delete(f"{project.path}/imports/{made['id']}").status_code == 204
    assert project.get("imports") == []


def test_reading_goes_on_after_a_restart_and_can_be_called_off(tmp_path: Path, files: Path) -> None:
    with TestClient(create_app(tmp_path)) as client:
        project = Project(client, client.post("/api/projects", json={"name": "Test"}).json())
        made = client.post(f"{project.path}/imports", files={"file": ("court.ifc", (files / "court.ifc").read_bytes())}).json()
    with TestClient(create_app(tmp_path)) as client:
        end = time.monotonic() + 60
        while (state := client.get(f"{project.path}/imports/{made['id']}").json())["status"] == "reading":
            assert time.monotonic() < end
        assert state["status"] == "read"
        again = client.post(f"{project.path}/imports", files={"file": ("court.ifc", (files / "court.ifc").read_bytes())}).json()
        assert client.post(f"{project.path}/imports/{again['id']}/cancel").json()["status"] in ("cancelled", "read")


@pytest.mark.parametrize(
    ("kind", "start"), [("gbxml", b"<?xml"), ("ifc", b"ISO-10303-21"), ("glb", b"glTF"), ("gltf", b'{"'), ("csv", b"id,")]
)
def test_schemes_are_handed_out_for_other_programs(project: Project, kind: str, start: bytes) -> None:
    answer = project.client.get(f"{project.path}/schemes/scheme-1/file", params={"format": kind})
    assert answer.status_code == 200
    assert answer.content.startswith(start)
    assert "attachment" in answer.headers["content-disposition"]


def test_a_plan_is_kept_with_its_project_and_goes_along_in_its_file(project: Project, tmp_path: Path) -> None:
    dxf.write_court(tmp_path / "plan.dxf", "ft", say_unit=False)
    answer = project.client.post(f"{project.path}/drawings", files={"file": ("plan.dxf", (tmp_path / "plan.dxf").read_bytes())})
    assert answer.status_code == 201
    drawn = answer.json()
    assert (drawn["unit"], drawn["guessed"], drawn["metres"]) == (None, True, 1.0)
    rooms = project.post(f"drawings/{drawn['drawing']}/rooms", {"layer": "A-ROOM"}, 200)["rooms"]
    assert [r["number"] for r in rooms][:2] == ["0.01", "0.02"]
    assert project.post(f"drawings/{drawn['drawing']}/rooms", {"layer": "A-WALL"}, 422)["code"] == "no-outlines"
    project.edit(op="put", path="schemes/scheme-1/underlays", item={"id": "plan-1", "drawing": drawn["drawing"], "metres": 0.3048})
    saved = project.client.get(f"{project.path}/file").content
    other = project.client.post("/api/projects/open", files={"file": ("p.eurythm.json", saved)}).json()
    again = project.client.get(f"/api/projects/{other['id']}/drawings/{drawn['drawing']}").json()
    assert again == project.get(f"drawings/{drawn['drawing']}")


def test_surroundings_come_as_one_step(project: Project) -> None:
    ring = [[0, 0], [0.0002, 0], [0.0002, 0.0002], [0, 0.0002], [0, 0]]
    body = json.dumps({"type": "Feature", "properties": {"height": 8}, "geometry": {"type": "Polygon", "coordinates": [ring]}})
    answer = project.client.post(
        f"{project.path}/surroundings", params={"revision": project.state["revision"]}, files={"file": ("a.geojson", body.encode())}
    )
    assert answer.json()["added"] == 1
    project.state = answer.json()["state"]
    assert len(project.state["completed"]["place"]["footprints"]) == 1
    project.walk("undo")
    assert project.state["completed"]["place"]["footprints"] == []


def test_what_file_and_hand_both_changed_stays_as_by_hand_and_is_listed() -> None:
    base = {"zones": [{"id": "a", "name": "A", "z": 1}, {"id": "b", "name": "B"}, {"id": "c", "name": "C"}]}
    mine = {"zones": [{"id": "a", "name": "Mine", "z": 1}, {"id": "b", "name": "B", "profile": "office"}, {"id": "mine", "name": "M"}]}
    theirs = {"zones": [{"id": "a", "name": "Theirs", "z": 2}, {"id": "c", "name": "C2"}, {"id": "d", "name": "D"}]}
    made = rebase(base, mine, theirs)
    zones = {z["id"]: z for z in made.scheme["zones"]}
    assert zones["a"] == {"id": "a", "name": "Mine", "z": 2}
    assert [(c.path, c.by_hand, c.by_file) for c in made.clashes] == [("zones/a/name", "Mine", "Theirs")]
    assert made.lost == ["zones/b"]
    assert zones.keys() == {"a", "d", "mine"}
