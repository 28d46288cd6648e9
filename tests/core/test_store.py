"""What is kept: revisions, undo, weather, studies, pins; nothing half-done stays."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from eurythm.brief.edits import Edit
from eurythm.climate.standin import standin_epw
from eurythm.exchange.demo import demo_project
from eurythm.model.errors import EurythmError, NotFound, StaleRevision
from eurythm.model.reading import dump
from eurythm.model.study import StudySpec
from eurythm.store.database import open_database, pack, unpack
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.study.runner import CaseResult

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


@pytest.fixture
def projects(tmp_path: Path) -> Projects:
    return Projects(open_database(tmp_path))


def north(value: float) -> Edit:
    return EDIT.validate_python({"op": "set", "path": "place/north_deg", "value": value})


def test_packed_data_comes_back() -> None:
    data = {"ä": [1, 2.5, None, True], "b": {"c": "€"}}
    assert unpack(pack(data)) == data


def test_a_project_is_kept_as_it_was_given(projects: Projects, tmp_path: Path) -> None:
    made = projects.create(demo_project())
    again = Projects(open_database(tmp_path)).state(made.id)
    assert dump(again.project) == dump(demo_project())
    assert (again.revision, again.can_undo, again.can_redo) == (1, False, False)
    assert [p["name"] for p in projects.listed()] == ["Merrowhaven Library"]


def test_journal_and_foreign_keys_are_on(projects: Projects, tmp_path: Path) -> None:
    made = projects.create(demo_project())
    projects.edit(made.id, 1, north(5))
    with sqlite3.connect(tmp_path / "eurythm.sqlite") as raw:
        assert raw.execute("PRAGMA journal_mode").fetchone() == ("wal",)
        assert raw.execute("SELECT count(*) FROM revision").fetchone() == (2,)
    projects.remove(made.id)
    with sqlite3.connect(tmp_path / "eurythm.sqlite") as raw:
        assert raw.execute("SELECT count(*) FROM revision").fetchone() == (0,)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.one_of(st.integers(-90, 90), st.sampled_from(["undo", "redo"])), max_size=14))
def test_any_walk_through_revisions_lands_where_a_plain_list_does(tmp_path: Path, walk: list) -> None:
    """Edits, undo and redo in any order, against a list with a cursor."""
    projects = Projects(open_database(tmp_path))
    state = projects.create(demo_project())
    line, at = [state.project.place.north_deg], 0
    for step in walk:
        if step == "undo" or step == "redo":
            to = at + (-1 if step == "undo" else 1)
            move = getattr(projects, step)
            if 0 <= to < len(line):
                state, at = move(state.id, state.revision), to
            else:
                with pytest.raises(EurythmError, match="nothing further"):
                    move(state.id, state.revision)
        else:
            state = projects.edit(state.id, state.revision, north(step))
            line, at = [*line[: at + 1], step], at + 1
        assert state.project.place.north_deg == line[at]
        assert (state.can_undo, state.can_redo) == (at > 0, at < len(line) - 1)


def test_a_stale_edit_or_a_refused_one_keeps_nothing(projects: Projects) -> None:
    made = projects.create(demo_project())
    projects.edit(made.id, 1, north(5))
    with pytest.raises(StaleRevision):
        projects.edit(made.id, 1, north(6))
    with pytest.raises(StaleRevision):
        projects.undo(made.id, 1)
    with pytest.raises(EurythmError):
        projects.edit(made.id, 2, north(9999))
    assert projects.state(made.id).revision == 2
    assert projects.state(made.id).project.place.north_deg == 5


def test_weather_comes_with_its_revision_and_stays_through_undo(projects: Projects) -> None:
    made = projects.create(demo_project())
    latin = standin_epw("karsk-basin").replace("Karsk Basin", "Kårsk Bäsin").encode("latin-1")
    state = projects.add_climate(made.id, 1, latin, "old file.epw")
    ref = state.project.place.climate
    assert ref is not None
    assert (ref.kind, ref.name) == ("file", "Kårsk Bäsin")
    assert "Kårsk Bäsin" in projects.files(made.id)[ref.id]
    assert projects.file_names(made.id) == {ref.id: "old file.epw"}
    back = projects.undo(made.id, 2)
    assert back.project.place.climate is not None
    assert back.project.place.climate.id == "merrowhaven"
    assert ref.id in projects.files(made.id)
    again = projects.add_climate(made.id, 1, latin, "same.epw")
    assert len(projects.files(made.id)) == 1
    assert again.project.place.climate == ref


def test_a_broken_weather_file_keeps_nothing(projects: Projects) -> None:
    made = projects.create(demo_project())
    with pytest.raises(EurythmError):
        projects.add_climate(made.id, 1, standin_epw("karsk-basin").encode()[:90_000], "cut.epw")
    assert projects.files(made.id) == {}
    assert projects.state(made.id).revision == 1


def test_what_is_not_there_is_said(projects: Projects) -> None:
    for call in (lambda: projects.state("x"), lambda: projects.remove("x"), lambda: projects.edit("x", 1, north(1))):
        with pytest.raises(NotFound, match="no project"):
            call()


@pytest.fixture
def studies(projects: Projects, tmp_path: Path) -> tuple[Studies, str, str]:
    made = projects.create(demo_project())
    kept = Studies(open_database(tmp_path))
    spec = StudySpec.model_validate({"levers": [{"kind": "turn", "steps": [0, 1, 2, 3]}], "scheme": "quay"})
    return kept, made.id, kept.create(made.id, 1, made.project, spec).id


def result(number: int, status: str = "done") -> CaseResult:
    return CaseResult(number, status, {"totals": {"n": number}} if status == "done" else None, "" if status == "done" else "why", 0.1)


def test_a_case_is_committed_once(studies: tuple[Studies, str, str]) -> None:
    kept, _, study = studies
    kept.starting(study, [0, 1])
    kept.keep(study, [result(0), result(1, "failed")])
    kept.keep(study, [CaseResult(0, "failed", None, "too late", 0.1)])
    cases = list(kept.cases(study))
    assert [c.status for c in cases] == ["done", "failed", "waiting", "waiting"]
    assert [c.attempts for c in cases] == [1, 1, 0, 0]
    assert cases[0].figures == {"totals": {"n": 0}}
    assert kept.waiting(study) == {2, 3}
    far = kept.progress(study)
    assert (far.status, far.done, far.failed, far.total) == ("waiting", 1, 1, 4)


def test_unfinished_studies_are_found_again(studies: tuple[Studies, str, str]) -> None:
    kept, _, study = studies
    assert kept.unfinished() == [study]
    kept.mark(study, "running")
    assert kept.unfinished() == [study]
    kept.mark(study, "done", 2.0)
    kept.mark(study, "done", 1.5)
    assert kept.unfinished() == []
    assert kept.state(study).seconds == 3.5


def test_a_study_keeps_the_documents_it_was_asked_of(studies: tuple[Studies, str, str], projects: Projects) -> None:
    kept, project, study = studies
    projects.edit(project, 1, north(77))
    state = kept.state(study)
    assert state.base.place.north_deg == -11
    assert state.inputs().scheme.id == "quay"


def test_pins_are_unique_ordered_and_go_with_their_study(studies: tuple[Studies, str, str]) -> None:
    kept, project, study = studies
    first = kept.pin(project, study, 2, None)
    second = kept.pin(project, None, None, "court")
    assert kept.pin(project, study, 2, None) == first
    kept.note(first, "look at this")
    assert [(p.id, p.note) for p in kept.pins(project)] == [(first, "look at this"), (second, "")]
    kept.remove(study)
    assert [p.id for p in kept.pins(project)] == [second]
    kept.unpin(second)
    with pytest.raises(NotFound):
        kept.unpin(second)
    with pytest.raises(NotFound):
        kept.state(study)
