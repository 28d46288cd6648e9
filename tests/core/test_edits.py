"""Edits open only what lies on their way: all else is shared with the project before, and the result is as if read anew."""

from __future__ import annotations

import pytest

from eurythm.brief.edits import DuplicateScheme, Edit, Put, Remove, Reset, Set, Together, apply_edit
from eurythm.exchange.demo import demo_project
from eurythm.model.errors import EurythmError
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.store.database import open_database
from eurythm.store.projects import Projects

DEMO = demo_project()


def first_volume() -> str:
    return f"schemes/quay/volumes/{DEMO.scheme('quay').volumes[0].id}"


EDITS: dict[str, Edit] = {
    "a number": Set(path="place/north_deg", value=12.5),
    "deep in a list": Set(path=f"{first_volume()}/storeys/{DEMO.scheme('quay').volumes[0].storeys[0].id}/height_m", value=3.9),
    "a part that was not given": Set(path="schemes/terraces/use/airing/openable_share", value=0.2),
    "a value taken away": Reset(path="schemes/quay/skin/glazing_ratio"),
    "an item": Put(path="place/boxes", item={"id": "new", "x": 90, "y": 1, "length": 4, "depth": 4, "height": 5}),
    "an item replaced": Put(path="schemes", item=dump(DEMO.scheme("quay")) | {"name": "Quay again"}),
    "an item gone": Remove(path=first_volume()),
    "a copy": DuplicateScheme(scheme="court", id="court-2", name="Court, second"),
    "several": Together(
        edits=(Set(path="name", value="Other"), Set(path="factors/export_price", value=0.03), Reset(path="schemes/quay/turn_deg"))
    ),
}


@pytest.mark.parametrize("name", EDITS)
def test_what_comes_of_an_edit_is_as_if_it_were_read_anew(name: str) -> None:
    before = dump(DEMO)
    changed = apply_edit(DEMO, EDITS[name])
    again = read_document(Project, dump(changed))
    assert again == changed
    assert dump(again) == dump(changed)
    assert dump(changed) != before
    assert dump(DEMO) == before


def test_what_an_edit_does_not_touch_is_shared() -> None:
    changed = apply_edit(DEMO, EDITS["deep in a list"])
    assert changed.place is DEMO.place
    assert changed.library is DEMO.library
    assert changed.scheme("court") is DEMO.scheme("court")
    assert changed.scheme("quay") is not DEMO.scheme("quay")
    assert changed.scheme("quay").skin is DEMO.scheme("quay").skin
    assert changed.scheme("quay").volumes[0].form is DEMO.scheme("quay").volumes[0].form


@pytest.mark.parametrize(
    ("edit", "code", "path"),
    [
        (Set(path="schemes/quay/skin/sill_m", value="high"), "wrong-field", "schemes/quay/skin/sill_m"),
        (Set(path=f"{first_volume()}/form/length", value=-3), "wrong-field", f"{first_volume()}/form/length"),
        (Set(path="schemes/none/skin/sill_m", value=1), "no-such-item", "schemes/none/skin/sill_m"),
        (Remove(path="schemes/quay/skin"), "path-names-field", "schemes/quay/skin"),
        (DuplicateScheme(scheme="quay", id="court", name="x"), "doubled-id", "schemes/court"),
        (Put(path="schemes/quay/volumes/none/storeys", item={"id": "s"}), "no-such-item", "schemes/quay/volumes/none/storeys"),
    ],
)
def test_a_wrong_edit_names_its_place(edit: Edit, code: str, path: str) -> None:
    with pytest.raises(EurythmError) as fault:
        apply_edit(DEMO, edit)
    assert (fault.value.code, fault.value.path) == (code, path)


def test_an_edit_is_applied_once_and_kept_only_where_it_passes(tmp_path, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    applied = []
    monkeypatch.setattr("eurythm.store.projects.apply_edit", lambda *args: applied.append(1) or apply_edit(*args))
    projects = Projects(open_database(tmp_path))
    made = projects.create(DEMO)
    seen = []
    state = projects.edit(made.id, 1, EDITS["a number"], lambda before, after: seen.append((before.place.north_deg, after.place.north_deg)))
    assert (len(applied), seen, state.revision, state.project.place.north_deg) == (1, [(DEMO.place.north_deg, 12.5)], 2, 12.5)
    assert projects.state(made.id) == state

    def refuse(before: Project, after: Project) -> None:
        raise EurythmError("no", "No.", "x")

    with pytest.raises(EurythmError):
        projects.edit(made.id, 2, EDITS["an item"], refuse)
    assert projects.state(made.id) == state
