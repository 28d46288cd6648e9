"""The routes of constructions, register, how deep and sun on faces."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest

from tests.api.conftest import Project

STUDS = {"name": "softwood", "share": 0.12, "conductivity": 0.13, "density": 480, "specific_heat": 1600}
TIMBER = {
    "id": "t", "name": "Timber", "element": "wall",
    "layers": [
        {"name": "wood fibre board", "thickness_m": 0.06, "conductivity": 0.045, "density": 160, "vapour_resistance": 5},
        {"name": "mineral wool", "thickness_m": 0.16, "conductivity": 0.035, "density": 40, "vapour_resistance": 1, "inlay": STUDS},
        {"name": "gypsum board", "thickness_m": 0.0125, "conductivity": 0.25, "density": 800, "vapour_resistance": 8},
    ],
}  # fmt: skip
S = "schemes/scheme-1"


def test_a_construction_is_examined_before_it_is_kept(project: Project) -> None:
    told = project.post("constructions/examine", {"construction": TIMBER}, 200)
    assert told["u_value"] == pytest.approx(0.1931, abs=5e-5)
    assert told["questions"] == []
    assert len(told["moisture"]["coldest"]["x"]) == len(told["moisture"]["coldest"]["vapour_pa"]) > 4
    assert told["moisture"]["coldest"]["temperature_c"][0] < told["moisture"]["coldest"]["temperature_c"][-1]
    assert told["swing"]["decrement"] <= 1
    assert told["carbon_kg_m2"] is None
    assert "mineral wool" in told["carbon_unknown"]
    slipped = {**TIMBER, "layers": [TIMBER["layers"][1] | {"conductivity": 0.35, "inlay": None}]}  # type: ignore[index]
    (first, *_) = project.post("constructions/examine", {"construction": slipped}, 200)["questions"]
    assert (first["field"], first["proposed"]) == ("layers/0/conductivity", 0.035)


@pytest.mark.parametrize(
    "change", [{"layers": []}, {"layers": [{"name": "x", "thickness_m": -1, "conductivity": 1}]}, {"u_value": 0}, {"u_value": 21}]
)
def test_a_bad_construction_is_refused_and_leaves_no_trace(project: Project, change: dict[str, Any]) -> None:
    before = project.get("")
    body = {"construction": {k: v for k, v in TIMBER.items() if k != "layers"} | change}
    assert project.client.post(f"{project.path}/constructions/examine", json=body).status_code == 422
    project.edit(expected=422, op="put", path="library/constructions", item=body["construction"])
    assert project.get("")["given"] == before["given"]


def test_u_values_beyond_the_films_are_told_where_they_are_used(project: Project) -> None:
    body = {"construction": {"id": "t", "name": "T", "element": "wall", "u_value": 20}}
    assert "films" in project.post("constructions/examine", body, 422)["message"]


def test_register_ranking_and_confirming_five_at_once(project: Project) -> None:
    values = project.get(f"{S}/register")["values"]
    assert all(v["source"] for v in values if v["ends"])
    ranking = project.get(f"{S}/register/ranking")
    spans = [r["span"]["eui_kwh_per_m2"] for r in ranking["ranked"]]
    assert spans == sorted(spans, reverse=True)
    five = [next(v for v in values if v["path"] == r["path"]) for r in ranking["ranked"][:5]]
    project.edit(op="together", edits=[{"op": "set", "path": v["path"], "value": v["value"]} for v in five])
    assert {v["path"] for v in values} - {v["path"] for v in project.get(f"{S}/register")["values"]} == {v["path"] for v in five}
    assert project.get(f"{S}/register/ranking")["base"] == pytest.approx(ranking["base"])


def test_how_deep_for_a_face_and_what_it_does_to_the_year(project: Project) -> None:
    faces = project.get(f"{S}/geometry")["faces"]
    south = next(f for f in faces if f["edge"] == "v1/s0/e1")
    span = {"first_day": 120, "last_day": 243, "first_hour": 9, "last_hour": 17}
    told = project.post(f"{S}/how-deep", {"face": south["id"], "kind": "overhang", "span": span}, 200)
    assert 0 < told["proposed_m"] <= 4
    before = project.get(f"{S}/outcome")["totals"]["cooling_demand_kwh"]
    override = {"id": "o", "face": "v1/*/e1", "overhang_m": told["proposed_m"]}
    project.edit(op="put", path=f"{S}/skin/overrides", item=override)
    assert project.get(f"{S}/outcome")["totals"]["cooling_demand_kwh"] < before
    project.post(f"{S}/how-deep", {"face": "gone", "span": span}, 404)
    floor = next(f for f in faces if f["kind"] == "floor")
    assert "open sky" in project.post(f"{S}/how-deep", {"face": floor["id"], "span": span}, 422)["message"]


def test_sun_on_faces_and_the_same_as_a_table(project: Project) -> None:
    asked = {"kinds": ["wall"], "orientations": ["south"], "span": {"first_day": 151, "last_day": 242}}
    told = project.post(f"{S}/irradiation", asked, 200)
    (face,) = told["faces"]
    assert told["unit"] == "kWh/m²"
    assert told["low"] <= face["mean"] <= told["high"]
    assert len(face["values"]) == face["columns"] * face["rows"]
    assert face["cooling"] > 0
    year = project.post(f"{S}/irradiation", asked | {"span": {}}, 200)["faces"][0]["mean"]
    assert 100 < face["mean"] < year
    whole = project.post(f"{S}/irradiation", asked | {"span": {}}, 200)["faces"][0]
    assert 0 < face["cooling"] <= whole["cooling"]  # sun while it is heated or cooled is that of the same days
    assert face["heating"] < whole["heating"]  # it is summer
    assert face["heating"] + face["cooling"] <= face["mean"] * 1.01
    hours = project.post(f"{S}/irradiation", asked | {"measure": "direct_hours", "span": {"first_day": 79}}, 200)
    assert hours["unit"] == "h"
    assert hours["mean"] == pytest.approx(12, abs=0.4)
    table = project.client.post(f"{project.path}/{S}/irradiation/file", json=asked)
    rows = list(csv.reader(io.StringIO(table.content.decode("utf-8-sig"))))
    assert rows[0][0] == "face"
    assert float(rows[1][4]) == pytest.approx(face["mean"], abs=0.01)
    assert "before the first" in project.post(f"{S}/irradiation", asked | {"span": {"first_hour": 15, "last_hour": 9}}, 422)["message"]
    assert "No face" in project.post(f"{S}/irradiation", {"faces": ["gone"]}, 422)["message"]


def test_materials_are_on_the_shelf_and_own_ones_beside_them(project: Project) -> None:
    project.edit(op="put", path="library/materials", item={"id": "hemp", "name": "hemp board", "conductivity": 0.045, "density": 60})
    shelf = project.get("shelf")["materials"]
    assert next(m for m in shelf if m["id"] == "hemp")["own"]
    assert sum(not m["own"] for m in shelf) > 40
