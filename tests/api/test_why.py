"""Why, over HTTP: parts, sides, shares, hours."""

from __future__ import annotations

import csv
import io

import pyarrow.parquet as pq
import pytest

from tests.api.conftest import Project
from tests.api.test_studies import LEVERS, run_study


@pytest.fixture
def pinned(project: Project) -> tuple[Project, str]:
    study = run_study(project, LEVERS[:2])
    return project, project.post("pins", {"study": study["id"], "number": 3}, 201)["id"]


def test_parts_of_building_and_zones_add_up_to_the_outcome(project: Project) -> None:
    why, outcome = project.get("schemes/scheme-1/why"), project.get("schemes/scheme-1/outcome")
    for use in ("heating", "cooling"):
        of_use = why["building"][use]
        assert of_use["load_kwh"] == pytest.approx(outcome["totals"][f"{use}_demand_kwh"], rel=1e-6)
        assert sum(of_use["parts_kwh"].values()) == pytest.approx(of_use["load_kwh"], rel=1e-6)
        assert sum(sum(m) for m in of_use["months_kwh"].values()) == pytest.approx(of_use["load_kwh"], rel=1e-6)
        assert of_use["peak"]["at"] == outcome["peaks"][f"{use}_at"]
        for mine, zone in zip(why["zones"], outcome["zones"], strict=True):
            assert mine["id"] == zone["id"]
            assert mine[use]["load_kwh"] == pytest.approx(zone[f"{use}_demand_kwh"], rel=1e-6)
    finer = project.get("schemes/scheme-1/why?substeps=4")
    assert finer["substeps"] == 4
    assert project.get("schemes/scheme-1/why?substeps=99", 422)["path"] == "substeps"
    assert project.get("schemes/none/why", 404)["code"] == "no-such-scheme"


def test_a_pinned_case_beside_the_reference(pinned: tuple[Project, str]) -> None:
    project, pin = pinned
    sides = project.get(f"pins/{pin}/why")
    columns = project.get("findings")["columns"]
    assert (sides["base_name"], sides["other_name"]) == (columns[0]["title"], columns[1]["title"])
    for use in ("heating", "cooling"):
        assert sides[use]["base"]["own"]["load_w"] == pytest.approx(columns[0]["outcome"]["peaks"][f"{use}_w"], rel=1e-6)
        assert sides[use]["other"]["own"]["at"] == columns[1]["outcome"]["peaks"][f"{use}_at"]
        assert sides[use]["sentence"]
    shares = project.get(f"pins/{pin}/shares")
    assert {g["id"] for g in shares["groups"]} == {"turn", "glass"}
    for name, key in (("energy", "eui_kwh_per_m2"), ("carbon", "carbon_kg_per_m2"), ("cost", "cost_per_m2")):
        figure = shares["figures"][name]
        assert figure["other"] == pytest.approx(columns[1]["outcome"]["totals"][key], rel=1e-6)
        assert sum(figure["shares"].values()) == pytest.approx(figure["other"] - figure["base"], abs=1e-6)
    assert project.get("pins/none/why", 404)["code"] == "no-such-pin"
    assert project.get("pins/none/shares", 404)["code"] == "no-such-pin"


def test_hours_of_several_cases_and_zones(pinned: tuple[Project, str]) -> None:
    project, pin = pinned
    zones = [z["id"] for z in project.get("schemes/scheme-1/outcome")["zones"]]
    names = [line["name"] for line in project.get("lines")]
    ask = {
        "cases": [{"scheme": "scheme-1"}, {"pin": pin}],
        "zones": ["", zones[0]],
        "lines": ["air_c", "outdoor_c"],
        "start": 100,
        "hours": 24,
    }
    series = project.post("hourly", ask, 200)["series"]
    assert len(series) == 2 * (2 + 1)
    assert all(len(s["values"]) == 24 for s in series)
    assert len({s["case"] for s in series}) == 2
    every = project.post("hourly", {**ask, "lines": names, "zones": [""]}, 200)["series"]
    assert [s["line"] for s in every] == names * 2
    text = project.client.post(f"{project.path}/hourly/file", json={**ask, "format": "csv"}).text
    rows = list(csv.reader(io.StringIO(text)))
    assert len(rows) == 25
    assert rows[1][0] == "01-05T04"
    assert float(rows[1][1]) == pytest.approx(series[0]["values"][0], rel=1e-4)
    table = pq.read_table(io.BytesIO(project.client.post(f"{project.path}/hourly/file", json={**ask, "format": "parquet"}).content))
    assert table.num_rows == 24
    assert table.column_names == rows[0]
    assert table.schema.field(1).metadata[b"unit"] == "°C".encode()


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"lines": ["nothing"]}, "no-such-line"),
        ({"start": 8750, "hours": 24}, "wrong-span"),
        ({"cases": [{}]}, "wrong-case"),
        ({"cases": [{"scheme": "scheme-1", "pin": "x"}]}, "wrong-case"),
        ({"lines": ["air_c"] * 30, "zones": [""] * 4}, "too-many-lines"),
        ({"cases": []}, "wrong-request"),
        ({"hours": 0}, "wrong-request"),
    ],
)
def test_wrong_wishes_for_hours_are_told(project: Project, change: dict, code: str) -> None:
    ask = {"cases": [{"scheme": "scheme-1"}], "lines": ["air_c"], "start": 0, "hours": 24}
    assert project.post("hourly", ask | change, 422)["code"] == code
