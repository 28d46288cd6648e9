"""The routes of daylight: sensors, floors, and lines by the hour."""

from __future__ import annotations

import csv
import io

import pytest

from tests.api.conftest import Project

S = "schemes/scheme-1"
ZONE = "v1/s0/all"


def test_sensors_are_told_proposed_or_placed(project: Project) -> None:
    told = project.get(f"{S}/daylight")
    assert [s["id"] for s in told["sensors"]] == [None, None]
    assert told["without"] == []
    assert told["source"] == "assumed"
    assert all(s["lighting_share"] == 1 and s["own"] == s["at"][:2] for s in told["sensors"])
    inner = told["sensors"][1]
    sensor = {"id": "mine", "zone": ZONE, "x": inner["own"][0], "y": inner["own"][1]}
    project.edit(op="put", path=f"{S}/use/sensors", item=sensor)
    project.edit(op="set", path=f"{S}/use/lights/kind", value="dimmed")
    (mine,) = project.get(f"{S}/daylight")["sensors"]
    assert mine["id"] == "mine"
    assert mine["share"] == 1
    assert mine["daylight_factor"] == pytest.approx(inner["daylight_factor"], rel=1e-3)
    assert mine["lighting_share"] < 0.9
    outcome = project.get(f"{S}/outcome")
    totals = outcome["totals"]
    asked = totals["lighting_kwh_per_m2"] + totals["lighting_saved_kwh_per_m2"]
    assert totals["lighting_kwh_per_m2"] == pytest.approx(asked * mine["lighting_share"], rel=1e-6)
    project.edit(op="set", path=f"{S}/use/sensors/mine/x", value=500)
    assert project.get(f"{S}/daylight")["sensors"][0]["id"] is None
    assert "sensor-misplaced" in [r["code"] for r in project.get(f"{S}/outcome")["remarks"]]


def test_sensors_are_told_before_their_scheme_is_turned(project: Project) -> None:
    project.edit(op="set", path=f"{S}/turn_deg", value=40)
    turned = project.get(f"{S}/daylight")["sensors"]
    assert turned[0]["at"][:2] != pytest.approx(turned[0]["own"])
    assert all(0 < s["own"][0] < 20 and 0 < s["own"][1] < 12 for s in turned)
    sensor = {"id": "mine", "zone": ZONE, "x": turned[0]["own"][0], "y": turned[0]["own"][1]}
    project.edit(op="put", path=f"{S}/use/sensors", item=sensor)
    (mine,) = project.get(f"{S}/daylight")["sensors"]
    assert mine["at"] == pytest.approx(turned[0]["at"], abs=1e-3)


def test_light_all_over_floors_and_the_same_as_a_table(project: Project) -> None:
    asked = {"spacing_m": 1.0, "measure": "factor"}
    told = project.post(f"{S}/daylight/floors", asked, 200)
    (floor,) = told["floors"]
    assert (told["unit"], told["points"]) == ("%", 240)
    assert len(floor["values"]) == floor["columns"] * floor["rows"] == 240
    assert told["mean"] == pytest.approx(floor["daylight_factor"] * 100)
    assert told["low"] < told["mean"] < told["high"]
    lit = project.post(f"{S}/daylight/floors", asked | {"measure": "autonomy"}, 200)
    assert 0 < lit["meets"] <= 1
    assert project.post(f"{S}/daylight/floors", asked | {"measure": "autonomy", "target_lx": 2000}, 200)["mean"] < lit["mean"]
    assert project.post(f"{S}/daylight/floors", asked | {"measure": "hour", "hour": 0}, 200)["high"] == 0
    assert project.post(f"{S}/daylight/floors", asked | {"levels": [0.0]}, 200)["points"] == 240
    table = project.client.post(f"{project.path}/{S}/daylight/floors/file", json=asked)
    rows = list(csv.DictReader(io.StringIO(table.content.decode("utf-8-sig"))))
    assert len(rows) == 240
    assert max(float(r["daylight factor %"]) for r in rows) == pytest.approx(told["high"], abs=0.01)
    assert "No zone fits" in project.post(f"{S}/daylight/floors", {"levels": [77.0]}, 422)["message"]
    assert "stay below 12,000" in project.post(f"{S}/daylight/floors", {"spacing_m": 0.1}, 422)["message"]


def test_lines_by_the_hour_tell_lights_with_and_without_daylight(project: Project) -> None:
    names = ["lighting_w", "lighting_asked_w", "daylight_lx", "beam_w_m2", "cloud_tenths"]
    project.edit(op="set", path=f"{S}/use/lights/kind", value="dimmed")
    body = {"cases": [{"scheme": "scheme-1"}], "zones": ["", ZONE], "lines": names, "start": 0, "hours": 8760}
    series = {(s["line"], s["zone"]): s["values"] for s in project.post("hourly", body, 200)["series"]}
    burning, asked, light = (series[name, ZONE] for name in names[:3])
    assert all(b <= a + 1e-9 for a, b in zip(asked, burning, strict=True))
    assert sum(burning) < 0.8 * sum(asked)
    noon, night = 24 * 171 + 12, 24 * 171
    assert light[noon] > 500
    assert light[night] == 0
    assert series["daylight_lx", ""] == pytest.approx(light)
    assert max(series["cloud_tenths", ""]) <= 10
