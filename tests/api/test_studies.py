"""Studies as jobs: planned, run, followed, resumed; and what comes of them."""

from __future__ import annotations

import csv
import io
import threading
from collections.abc import Iterator, Sequence
from pathlib import Path

import openpyxl
import pandas as pd
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select

from eurythm.api.app import create_app
from eurythm.api.cases import told_apart
from eurythm.api.jobs import MOST_ATTEMPTS, StudyJobs, _Lead
from eurythm.store.database import open_database
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.store.tables import CaseRow
from eurythm.study.runner import CaseResult, InProcess, Job, Starting, untold
from tests.api.conftest import Project, with_weather

LEVERS = [
    {"kind": "turn", "steps": [0, 90]},
    {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.6]},
    {"kind": "field", "path": "use/heating_c", "steps": [20, 28]},
]


class Held(InProcess):
    """Runs no case before it is told to go."""

    def __init__(self) -> None:
        self.go = threading.Event()

    def run(self, job: Job, numbers: Sequence[int], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        assert self.go.wait(60)
        yield from super().run(job, numbers, starting)


def run_study(project: Project, levers: list[dict] = LEVERS, name: str = "S") -> dict:
    body = {"revision": project.state["revision"], "study": {"name": name, "levers": levers}}
    study = project.post("studies", body, 201)
    project.client.app.state.office.jobs.wait(study["id"])
    return project.get(f"studies/{study['id']}")


def test_plan_tells_cases_and_time_before_anything_runs(project: Project) -> None:
    plan = project.post("studies/plan", {"revision": project.state["revision"], "study": {"name": "S", "levers": LEVERS}}, 200)
    assert plan["cases"] == 8
    assert plan["seconds"] > 0
    assert plan["levers"][1]["labels"] == ["20%", "60%"]
    assert project.get("studies") == []


def test_no_time_is_told_while_a_study_runs_which_comes_first(tmp_path: Path) -> None:
    held = Held()
    with TestClient(create_app(tmp_path, held)) as client:
        project = with_weather(client)
        body = {"revision": project.state["revision"], "study": {"name": "S", "levers": LEVERS[1:2]}}
        study = project.post("studies", body, 201)
        assert project.post("studies/plan", body, 200) | {"levers": []} == {
            "levers": [],
            "cases": 2,
            "same": 0,
            "seconds": None,
            "bytes": 2400,
            "processes": 1,
        }
        held.go.set()
        client.app.state.office.jobs.wait(study["id"])
        assert project.post("studies/plan", body, 200)["seconds"] > 0


def test_only_the_last_question_about_time_is_answered(project: Project) -> None:
    jobs = project.client.app.state.office.jobs
    first = jobs.trial()
    assert first()
    second = jobs.trial()
    assert second()
    assert not first()


def test_failed_cases_keep_their_reason_and_stop_no_other(project: Project) -> None:
    study = run_study(project)
    assert (study["status"], study["done"], study["failed"]) == ("done", 4, 4)
    answer = project.get(f"studies/{study['id']}/cases")
    failed = [c for c in answer["cases"] if c["status"] == "failed"]
    assert all("stands above cooling" in c["reason"] for c in failed)
    assert all(c["attempts"] == 1 for c in answer["cases"])


def test_a_case_equals_the_scheme_changed_by_hand(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    cases = project.get(f"studies/{study['id']}/cases")
    project.edit(op="set", path="schemes/scheme-1/turn_deg", value=90)
    project.edit(op="set", path="schemes/scheme-1/skin/glazing_ratio/south", value=0.6)
    by_hand = project.get("schemes/scheme-1/outcome")["totals"]
    assert cases["cases"][3]["steps"] == [1, 1]
    assert cases["cases"][3]["figures"]["eui_kwh_per_m2"] == pytest.approx(by_hand["eui_kwh_per_m2"], rel=1e-12)
    assert project.get(f"studies/{study['id']}")["outdated"]


def test_matters_and_csv_say_what_the_cases_say(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    cases = project.get(f"studies/{study['id']}/cases")["cases"]
    matters = project.get(f"studies/{study['id']}/matters?figure=cooling_demand_kwh&against=cost_per_m2")
    by_glass = [sum(c["figures"]["cooling_demand_kwh"] for c in cases if c["steps"][1] == s) / 2 for s in (0, 1)]
    effect = next(e for e in matters["effects"] if e["lever"] == "skin/glazing_ratio/south")
    assert effect["means"] == pytest.approx(by_glass)
    text = project.client.get(f"{project.path}/studies/{study['id']}/cases.csv").text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [float(r["cooling_demand_kwh"]) for r in rows] == pytest.approx([c["figures"]["cooling_demand_kwh"] for c in cases])


def test_events_end_with_the_study(project: Project) -> None:
    study = run_study(project, LEVERS[:1])
    text = project.client.get(f"{project.path}/studies/{study['id']}/events").text
    assert '"status": "done", "done": 2' in text


def test_a_study_goes_on_after_a_stop_without_running_anything_twice(project: Project, tmp_path: Path) -> None:
    sessions = open_database(tmp_path)
    projects, studies = Projects(sessions), Studies(sessions)
    state = projects.state(project.state["id"])
    from eurythm.model.study import StudySpec

    study = studies.create(state.id, state.revision, state.project, StudySpec.model_validate({"levers": LEVERS[:2], "scheme": "scheme-1"}))

    class Stopping(InProcess):
        """Ends after two lots, as if the power had failed."""

        def run(self, job, numbers, starting=lambda _: None):
            for k, lot in enumerate(super().run(job, numbers, starting)):
                if k == 2:
                    raise SystemExit
                yield lot

    first = StudyJobs(projects, studies, Stopping())
    studies.mark(study.id, "running")
    with pytest.raises(SystemExit):
        first._run(study.id, _Lead(None))
    kept = [c for c in studies.cases(study.id) if c.status == "done"]
    assert len(kept) == 2
    with TestClient(create_app(tmp_path)) as again:
        again.app.state.office.jobs.wait(study.id)
        after = list(studies.cases(study.id))
    assert studies.state(study.id).status == "done"
    assert all(c.status == "done" for c in after)
    assert [c.attempts for c in after if c.number in {k.number for k in kept}] == [1, 1]
    assert [next(a for a in after if a.number == k.number).figures for k in kept] == [k.figures for k in kept]


def test_a_stopped_or_broken_study_goes_on(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    here = f"studies/{study['id']}"
    studies, jobs = project.client.app.state.office.studies, project.client.app.state.office.jobs
    cases = {c.number: c for c in studies.cases(study["id"])}
    with studies._database.write() as session:  # as if it had been stopped before its last two cases
        for row in session.scalars(select(CaseRow).where(CaseRow.study_id == study["id"], CaseRow.number >= len(cases) - 2)):
            row.status, row.figures = "waiting", None
    for status in ("cancelled", "broken"):
        studies.mark(study["id"], status)
        project.post(f"{here}/go-on", {}, 200)
        jobs.wait(study["id"])
        assert studies.state(study["id"]).status == "done"
    after = list(studies.cases(study["id"]))
    assert all(c.status == "done" for c in after)
    assert [c.attempts for c in after] == [1] * (len(after) - 2) + [2, 2]
    assert after[-1].figures == cases[len(after) - 1].figures
    assert project.post(f"{here}/go-on", {}, 200)["status"] == "done"  # nothing to go on with


def test_a_case_that_was_begun_again_and_again_fails(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    studies, jobs = project.client.app.state.office.studies, project.client.app.state.office.jobs
    with studies._database.write() as session:
        row = session.get(CaseRow, (study["id"], 0))
        row.status, row.figures, row.attempts = "waiting", None, MOST_ATTEMPTS
    studies.mark(study["id"], "broken")
    project.post(f"studies/{study['id']}/go-on", {}, 200)
    jobs.wait(study["id"])
    first = next(studies.cases(study["id"]))
    assert (first.status, first.attempts) == ("failed", MOST_ATTEMPTS)
    assert "never came back" in first.reason


def test_study_on_a_stale_revision_is_refused(project: Project) -> None:
    body = {"revision": project.state["revision"] - 1, "study": {"levers": LEVERS}}
    assert project.post("studies", body, 409)["code"] == "stale-revision"


def test_offered_levers_can_all_be_pulled(project: Project) -> None:
    project.edit(op="duplicate_scheme", scheme="scheme-1", id="other", name="Other")
    for offer in project.get("schemes/scheme-1/levers"):
        lever = {"kind": offer["kind"], "path": offer["path"], "steps": offer["steps"]}
        plan = project.post("studies/plan", {"revision": project.state["revision"], "study": {"levers": [lever]}}, 200)
        assert plan["cases"] == len(offer["steps"]) >= 1, offer


def test_findings_put_pinned_cases_beside_the_reference_in_words(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    pin = project.post("pins", {"study": study["id"], "number": 3}, 201)
    assert project.post("pins", {"study": study["id"], "number": 3}, 201) == pin
    assert project.post("pins", {"study": study["id"], "number": 99}, 404)["code"] == "no-such-case"
    columns = project.get("findings")["columns"]
    assert [c["title"] for c in columns] == ["Scheme 1", "Scheme 1, 90°, 60%"]
    case = columns[1]
    change = case["outcome"]["totals"]["eui_kwh_per_m2"] / columns[0]["outcome"]["totals"]["eui_kwh_per_m2"] - 1
    assert case["differences"]["eui_kwh_per_m2"] == f"{abs(change) * 100:.0f}% {'more' if change > 0 else 'less'}"
    assert case["outcome"]["peaks"]["substeps"] == 4
    assert "against Scheme 1" in case["sentences"][0] or "than in Scheme 1" in case["sentences"][0]
    client = project.client
    assert client.put(f"{project.path}/pins/{pin['id']}/note", json={"note": "try this"}).status_code == 204
    assert project.get("findings")["columns"][1]["note"] == "try this"
    assert client.delete(f"{project.path}/pins/{pin['id']}").status_code == 204
    assert len(project.get("findings")["columns"]) == 1


def test_cases_that_would_be_called_the_same_say_what_differs(project: Project) -> None:
    turn, ratio, glass = ({"kind": "turn", "steps": [0, 90]}, {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2]},
                          {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "triple-clear"]})  # fmt: skip
    study = run_study(project, [turn, ratio, glass])
    again = run_study(project, [turn, ratio, glass], name="Again")

    def titles() -> list[str]:
        return [c["title"] for c in project.get("findings")["columns"]]

    for number in (0, 1, 3):
        project.post("pins", {"study": study["id"], "number": number}, 201)
    apart = ["Scheme 1, 0°, 20%, Double, low-emissive", "Scheme 1, 0°, 20%, Triple, low-emissive"]
    assert titles() == ["Scheme 1", *apart, "Scheme 1, 90°, 20%"]
    project.post("pins", {"study": again["id"], "number": 0}, 201)  # the same steps: only the study tells them apart
    assert len(set(titles())) == 5
    cases = [{"study": study["id"], "number": 0}, {"study": again["id"], "number": 1}]
    lines = project.post("hourly", {"cases": cases, "zones": [""], "lines": ["air_c"], "start": 0, "hours": 2}, 200)
    assert [s["case"] for s in lines["series"]] == apart


def test_a_label_that_is_a_part_of_a_title_tells_apart_too() -> None:
    called = [("Quay, 15°, 45%", ("15°", "45%", label), "") for label in ("5%", "10%")]
    assert told_apart(called) == ["Quay, 15°, 45%, 5%", "Quay, 15°, 45%, 10%"]


def test_the_table_is_sent_by_pages_and_columns(project: Project) -> None:
    study = run_study(project)
    where = f"studies/{study['id']}/cases"
    every = project.get(where)
    assert every["total"] == len(every["cases"]) == 8
    assert [c["number"] for c in project.get(f"{where}?first=3&most=2")["cases"]] == [3, 4]
    done = [c for c in every["cases"] if c["status"] == "done"]
    best = sorted(done, key=lambda c: c["figures"]["eui_kwh_per_m2"])
    shown = project.post(f"{where}/shown", {"first": 1, "most": 2}, 200)
    assert shown["cases"] == best[1:3]
    assert (shown["running"], [f["number"] for f in shown["failed"]]) == (
        4,
        [c["number"] for c in every["cases"] if c["status"] == "failed"],
    )
    assert "stands above cooling" in shown["failed"][0]["reason"]
    least = best[0]["figures"]["eui_kwh_per_m2"]
    failed = project.post(f"{where}/shown", {"sieve": {"which": "failed", "says": "above cooling"}, "spreads": ["eui_kwh_per_m2"]}, 200)
    assert [c["number"] for c in failed["cases"]] == [f["number"] for f in shown["failed"]]
    assert list(failed["spreads"]) == ["eui_kwh_per_m2"]
    assert project.post(f"{where}/shown", {"sieve": {"says": "no such words"}}, 200)["running"] == 0
    assert project.post(f"{where}/shown", {"spreads": ["noise"]}, 422)["code"] == "no-such-figure"
    only = project.post(f"{where}/shown", {"sieve": {"ranges": {"eui_kwh_per_m2": [0, least]}}}, 200)
    assert [c["number"] for c in only["cases"]] == [best[0]["number"]]
    assert sum(still for _, still in only["strips"][0]) == 1
    points = project.post(f"{where}/points", {"x": "peak_cooling_w", "y": "eui_kwh_per_m2"}, 200)
    assert dict(zip(points["numbers"], points["y"], strict=True)) == {c["number"]: c["figures"]["eui_kwh_per_m2"] for c in done}
    baseline = project.get(f"studies/{study['id']}/baseline")
    assert baseline["figures"]["eui_kwh_per_m2"] == project.get("schemes/scheme-1/outcome")["totals"]["eui_kwh_per_m2"]
    assert project.post(f"{where}/points", {"x": "noise", "y": "eui_kwh_per_m2"}, 422)["code"] == "no-such-figure"
    assert project.post(f"{where}/shown", {"most": 5000}, 422)


def test_the_table_follows_a_study_that_runs(client: TestClient, project: Project) -> None:
    """What had come in when it was first looked at does not stand for what comes in later."""
    studies = client.app.state.office.studies
    study = run_study(project, LEVERS[:1])
    with studies._database.write() as session:
        row = session.get(CaseRow, (study["id"], 1))
        kept, row.status, row.figures, row.came = row.figures, "waiting", None, None
    where = f"studies/{study['id']}/cases"
    assert project.post(f"{where}/shown", {}, 200)["running"] == 1
    with studies._database.write() as session:
        row = session.get(CaseRow, (study["id"], 1))
        row.status, row.figures, row.came = "done", kept, 3
    assert project.post(f"{where}/shown", {}, 200)["running"] == 2


RANGES = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "low": 0.1, "high": 0.8} for side in ("south", "north")]


def asked(project: Project, study: dict) -> dict:
    made = project.post("studies", {"revision": project.state["revision"], "study": study}, 201)
    project.client.app.state.office.jobs.wait(made["id"])
    return project.get(f"studies/{made['id']}")


def test_a_sample_is_extended_and_what_ran_stays(project: Project) -> None:
    study = asked(project, {"kind": "sample", "levers": RANGES, "size": 8})
    here = f"studies/{study['id']}"
    before = project.get(f"{here}/cases")["cases"]
    assert project.get(f"{here}/matters")["method"] == "sample"
    extended = project.post(f"{here}/extend", {"size": 12}, 200)
    assert extended["total"] == 12
    project.client.app.state.office.jobs.wait(study["id"])
    after = project.get(f"{here}/cases")["cases"]
    assert after[:8] == before
    assert [(c["status"], c["attempts"]) for c in after] == [("done", 1)] * 12
    assert all(0.1 <= v <= 0.8 for c in after for v in c["values"])
    shown = project.post(f"{here}/cases/shown", {"by": RANGES[0]["path"]}, 200)
    taken = [c["values"][0] for c in shown["cases"]]
    assert taken == sorted(taken)
    assert [sum(every for every, _ in strip) for strip in shown["strips"]] == [12, 12]
    for size, code in ((12, "not-larger"), (10**6, "wrong-size")):
        assert project.post(f"{here}/extend", {"size": size}, 422)["code"] == code
    other = run_study(project, LEVERS[:1])
    assert project.post(f"studies/{other['id']}/extend", {"size": 12}, 422)["code"] == "no-sample"


def test_a_search_keeps_every_case_and_its_best(project: Project) -> None:
    steps = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "steps": [0.1, 0.3, 0.5, 0.7]} for side in ("south", "north")]
    goals = [{"outcome": "eui_kwh_per_m2"}, {"outcome": "peak_cooling_w"}]
    study = asked(project, {"kind": "search", "levers": steps, "goals": goals, "size": 40})
    assert (study["status"], study["done"], study["total"]) == ("done", 16, 16)  # there are no more
    matters = project.get(f"studies/{study['id']}/matters")
    cases = project.get(f"studies/{study['id']}/cases")["cases"]
    points = {c["number"]: [c["figures"][g["outcome"]] for g in goals] for c in cases}
    best = [n for n, p in points.items() if not any(q != p and q[0] <= p[0] and q[1] <= p[1] for q in points.values())]
    assert sorted(matters["best"]) == best


def test_a_search_that_no_case_satisfies_tells_the_nearest(project: Project) -> None:
    limits = [{"outcome": "eui_kwh_per_m2", "at_most": 1.0}]
    study = asked(project, {"kind": "search", "levers": RANGES, "goals": [{"outcome": "cost_per_m2"}], "limits": limits, "size": 32})
    matters = project.get(f"studies/{study['id']}/matters")
    cases = project.get(f"studies/{study['id']}/cases")["cases"]
    least = min(cases, key=lambda c: c["figures"]["eui_kwh_per_m2"])
    assert (matters["best"], matters["nearest"]) == ([], least["number"])
    assert matters["missed"] == [{"outcome": "eui_kwh_per_m2", "by": pytest.approx(least["figures"]["eui_kwh_per_m2"] - 1.0)}]


def test_a_case_of_measures_is_pinned_by_the_names_of_those_taken(project: Project) -> None:
    measures = [
        {"id": "heat", "name": "Cooler winters", "changes": [{"kind": "field", "path": "use/heating_c", "step": 18}]},
        {"id": "glass", "name": "Less glass", "changes": [{"kind": "glazing_ratio", "step": 0.2}]},
    ]
    study = asked(project, {"kind": "measures", "measures": measures})
    assert study["total"] == 4
    project.post("pins", {"study": study["id"], "number": 3}, 201)
    column = project.get("findings")["columns"][1]
    assert "Cooler winters, Less glass" in column["subtitle"]
    effects = {e["lever"]: e["figures"] for e in project.get(f"studies/{study['id']}/matters")["effects"]}
    assert effects["heat"]["share"] + effects["glass"]["share"] == pytest.approx(
        column["outcome"]["totals"]["eui_kwh_per_m2"] - project.get("schemes/scheme-1/outcome")["totals"]["eui_kwh_per_m2"], rel=0.02
    )
    assert project.post("pins", {"study": study["id"], "number": 4}, 404)["code"] == "no-such-case"


def test_a_report_is_made_of_pins_and_a_study(project: Project) -> None:
    study = run_study(project, LEVERS[:2])
    project.post("pins", {"study": study["id"], "number": 2}, 201)
    made = project.client.post(f"{project.path}/report", json={"study": study["id"], "title": "First look"})
    assert made.status_code == 200, made.text[:200]
    assert made.content.startswith(b"%PDF")
    page = project.client.post(f"{project.path}/report", json={"form": "html", "ranked": False, "units": "IP"}).text
    assert "case 2 of" in page
    assert "kBtu/ft²" in page
    named = {"form": "html", "ranked": False, "cases": [{"scheme": "scheme-1"}, {"study": study["id"], "number": 1}]}
    assert "case 1 of" in project.client.post(f"{project.path}/report", json=named).text
    for wrong, status in (({"cases": [{"study": study["id"]}]}, 422), ({"cases": [{"pin": "x"}]}, 404), ({"study": "x"}, 404)):
        assert project.client.post(f"{project.path}/report", json=wrong).status_code == status


def test_a_case_is_tried_taken_over_and_drawn_as_columns(project: Project) -> None:
    body = {"revision": project.state["revision"], "study": {"name": "S", "levers": LEVERS[:2]}, "number": 3}
    tried = project.post("studies/try", body, 200)
    assert (tried["number"], tried["of"], tried["labels"]) == (3, 4, ["90°", "60%"])
    study = run_study(project, LEVERS[:2])
    here = f"studies/{study['id']}/cases"
    columns = project.post(f"{here}/columns", {"names": ["turn", "eui_kwh_per_m2"], "most": 3}, 200)
    assert (columns["of"], len(columns["numbers"])) == (4, 3)
    assert project.post(f"{here}/columns", {"names": ["noise"]}, 422)["code"] == "no-such-figure"
    cases = project.get(here)["cases"]
    assert tried["figures"]["eui_kwh_per_m2"] == pytest.approx(cases[3]["figures"]["eui_kwh_per_m2"])
    assert columns["columns"]["eui_kwh_per_m2"][0] == cases[0]["figures"]["eui_kwh_per_m2"]
    made = project.post(f"{here}/3/take-over", {}, 201)
    assert made["besides"] == []
    assert project.get(f"schemes/{made['scheme']}/outcome")["totals"]["eui_kwh_per_m2"] == pytest.approx(tried["figures"]["eui_kwh_per_m2"])
    again = project.post(f"{here}/3/take-over", {}, 201)
    assert again["scheme"] != made["scheme"]
    assert project.client.post(f"{project.path}/{here}/9/take-over", json={}).status_code == 404
    changes = project.get(f"schemes/scheme-1/changes?to={made['scheme']}")
    assert {(c["kind"], c["path"]): c["step"] for c in changes} == {("turn", None): 90.0, ("field", "skin/glazing_ratio/south"): 0.6}


def test_cases_are_saved_as_workbook_and_parquet_with_chosen_figures(project: Project) -> None:
    levers = [RANGES[0], {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "triple-clear"]}]
    study = asked(project, {"kind": "sample", "levers": levers, "size": 6})
    here = f"{project.path}/studies/{study['id']}/cases"
    cases = project.get(f"studies/{study['id']}/cases")["cases"]
    frame = pd.read_parquet(io.BytesIO(project.client.get(f"{here}.parquet?figures=eui_kwh_per_m2,peak_cooling_w").content))
    assert list(frame.columns) == ["number", RANGES[0]["path"], "skin/glazing", "status", "eui_kwh_per_m2", "peak_cooling_w", "remarks"]
    assert frame["eui_kwh_per_m2"].tolist() == [c["figures"]["eui_kwh_per_m2"] for c in cases]
    assert frame[RANGES[0]["path"]].tolist() == [c["values"][0] for c in cases]
    book = openpyxl.load_workbook(io.BytesIO(project.client.get(f"{here}.xlsx").content))
    rows = list(book["Cases"].iter_rows(values_only=True))
    assert len(rows) == 7
    assert rows[1][rows[0].index("skin/glazing")] in ("double-lowe", "triple-clear")
    assert {"eui_kwh_per_m2", "cost_per_m2"} <= {row[0] for row in book["Figures"].iter_rows(values_only=True)}
    hot = run_study(project, LEVERS[2:])  # one of its cases fails, with amounts in the reason
    frame = pd.read_parquet(io.BytesIO(project.client.get(f"{project.path}/studies/{hot['id']}/cases.parquet").content))
    assert "stands above cooling" in frame["remarks"][1]
    assert "\ue000" not in "".join(frame["remarks"])
    assert project.client.get(f"{here}.xlsx?figures=noise").json()["code"] == "no-such-figure"
    assert project.client.get(f"{here}.doc").status_code == 422


def test_a_study_tells_of_single_zones_and_of_any_case_why(project: Project) -> None:
    zone = project.get("schemes/scheme-1/outcome")["zones"][0]["id"]
    named = [f"zone_cooling_demand_kwh@{zone}", "zone_too_warm_h@*"]
    study = asked(project, {"kind": "every", "levers": LEVERS[:2], "outcomes": named})
    here = f"studies/{study['id']}"
    case = project.get(f"{here}/cases")["cases"][3]
    made = project.post(f"{here}/cases/3/take-over", {}, 201)
    alone = next(z for z in project.get(f"schemes/{made['scheme']}/outcome")["zones"] if z["id"] == zone)
    assert case["figures"][named[0]] == pytest.approx(alone["cooling_demand_kwh"] / alone["floor_area_m2"], rel=1e-4)
    assert project.get(f"{here}/baseline")["figures"][named[0]] > 0
    frame = pd.read_parquet(io.BytesIO(project.client.get(f"{project.path}/{here}/cases.parquet").content))
    assert frame[named[1]].tolist() == [c["figures"][named[1]] for c in project.get(f"{here}/cases")["cases"]]
    head = project.client.get(f"{project.path}/{here}/cases.csv").text.splitlines()[0]
    assert all(name in head for name in named)
    beside, shares = project.get(f"{here}/cases/3/why"), project.get(f"{here}/cases/3/shares")
    assert beside["other_name"] == "case 3"
    assert beside["cooling"]["other"]["load_kwh"] != beside["cooling"]["base"]["load_kwh"]
    energy = shares["figures"]["energy"]
    assert sum(energy["shares"].values()) == pytest.approx(energy["other"] - energy["base"])
    assert len(shares["groups"]) == 2
    for wrong, status in ((f"{here}/cases/99/why", 404), (f"{here}/cases/99/shares", 404)):
        assert project.client.get(f"{project.path}/{wrong}").status_code == status
    refused = {"revision": project.state["revision"], "study": {"name": "S", "levers": LEVERS[:1], "outcomes": ["zone_too_warm_h@cellar"]}}
    assert project.post("studies/plan", refused, 422)["code"] == "no-such-zone"


def test_a_measure_is_not_cut_short_where_two_schemes_differ_in_too_much(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    study = run_study(project, LEVERS[:2])
    made = project.post(f"studies/{study['id']}/cases/3/take-over", {}, 201)
    assert len(project.get(f"schemes/scheme-1/changes?to={made['scheme']}")) == 2
    monkeypatch.setattr("eurythm.api.routes.studies.MOST_CHANGES", 1)
    refused = project.client.get(f"{project.path}/schemes/scheme-1/changes?to={made['scheme']}")
    assert (refused.status_code, refused.json()["code"]) == (422, "too-many-changes")
