"""Calendar and schedules over HTTP: which day holds when, holidays by country, tables of 8,760 values, profiles kept for all projects."""

from __future__ import annotations

from fastapi.testclient import TestClient

from tests.api.conftest import Project

WEEK = {
    "days": [{"id": "a", "values": [1.0] * 24}, {"id": "b", "values": [0.0] * 24}],
    "rules": [{"id": "r", "day": "b", "weekdays": ["sunday"]}, {"id": "h", "day": "b", "on": "holidays"}],
}
PROFILE = {
    "id": "own", "name": "Own", "occupancy": WEEK, "lighting": WEEK, "equipment": WEEK, "person_area": 10,
    "heating": {"weekday": [20.0] * 24},
}  # fmt: skip


def test_a_schedules_year_follows_the_projects_calendar(project: Project) -> None:
    plain = project.post("schedules/year", WEEK, 200)
    assert len(plain["holds"]) == 365
    assert sum(plain["holds"]) == 52
    project.edit(op="put", path="place/calendar/holidays", item={"id": "h", "date": "01-01", "name": "New year"})
    project.edit(op="put", path="place/calendar/closures", item={"id": "c", "first": "12-30", "last": "01-02"})
    told = project.post("schedules/year", WEEK, 200)
    assert (told["holds"][0], told["by"][0]) == (1, 1)
    assert [day for day, shut in enumerate(told["closed"]) if shut] == [0, 1, 363, 364]
    project.post("schedules/year", {"days": [{"id": "a", "values": [1.0] * 23}]}, 422)


def test_holidays_are_proposed_and_dates_that_cannot_be_leave_no_trace(project: Project) -> None:
    found = project.get("holidays?country=FR")
    assert {"01-01", "07-14"} <= {h["date"] for h in found["holidays"]}
    assert project.get("holidays?country=Nowhere", 422)["code"] == "unknown-country"
    before = project.state["revision"]
    fault = project.edit(422, op="put", path="place/calendar/holidays", item={"id": "leap", "date": "02-29"})
    assert fault["path"] == "place/calendar/holidays/leap/date"
    assert "29 February" in fault["message"]
    assert project.get("")["revision"] == before


def test_tables_of_hours_are_read_and_written(project: Project) -> None:
    project.edit(op="put", path="library/profiles", item=PROFILE)
    for ending in ("csv", "xlsx"):
        body = project.client.get(f"{project.path}/profiles/own/hours.{ending}?units=IP")
        assert body.status_code == 200
        answer = project.client.post(f"{project.path}/schedules/table", files={"file": (f"t.{ending}", body.content)})
        columns = answer.json()
        assert [c["head"] for c in columns] == ["People", "Lighting", "Equipment", "Heating setpoint by the hour °F"]
        assert abs(columns[3]["values"][100] - 20.0) < 1e-6
    short = project.client.post(f"{project.path}/schedules/table", files={"file": ("t.csv", b"1\n" * 8759)})
    assert short.status_code == 422
    assert "8,759" in short.json()["message"]
    assert project.client.get(f"{project.path}/profiles/none/hours.csv").status_code == 404


def test_profiles_are_kept_for_all_projects(client: TestClient) -> None:
    assert client.post("/api/library/profiles", json=PROFILE).json()["profiles"][0]["name"] == "Own"
    assert client.post("/api/library/profiles", json={**PROFILE, "person_area": -1}).status_code == 422
    assert client.delete("/api/library/profiles/own").json()["profiles"] == []


def test_a_profile_of_the_project_stands_before_the_shipped_one_of_its_id(project: Project) -> None:
    project.edit(op="put", path="library/profiles", item={**PROFILE, "id": "library"})
    (one,) = [p for p in project.get("shelf")["profiles"] if p["id"] == "library"]
    assert (one["own"], one["shipped"], one["person_area"]) == (True, True, 10)
    project.edit(op="remove", path="library/profiles/library")
    (one,) = [p for p in project.get("shelf")["profiles"] if p["id"] == "library"]
    assert (one["own"], one["person_area"]) == (False, 8.0)


def test_the_cost_table_is_given_over_and_schemes_are_held_against_the_reference(project: Project) -> None:
    project.edit(op="set", path="schemes/scheme-1/plant/main/ready", value="gas-radiators")
    project.edit(op="duplicate_scheme", scheme="scheme-1", id="other", name="Other")
    project.edit(op="set", path="schemes/other/plant/main/ready", value="ground-pump-floor")
    held = project.get("schemes/other/held")
    assert held["extra"] > 0
    assert held["sentence"].startswith(f"{held['extra']:,.0f} € more to build than {held['than']}")
    project.edit(op="put", path="factors/costs", item={"id": "heat-ground_heat_pump", "cost": 5000})
    assert project.get("schemes/other/held")["extra"] > held["extra"]
    (row,) = [r for r in project.get("costs") if r["id"] == "heat-ground_heat_pump"]
    assert (row["cost"], row["given"]) == (5000, ["cost"])
    fault = project.edit(422, op="put", path="factors/costs", item={"id": "pv", "cost": -5})
    assert fault["path"].startswith("factors/costs/pv")
    project.get("schemes/none/held", 404)
