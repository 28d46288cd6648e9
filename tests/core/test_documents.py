"""Documents, origins, edits and levers."""

from __future__ import annotations

import json
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from eurythm.brief.edits import Edit, apply_edit
from eurythm.brief.readiness import document_remarks
from eurythm.brief.resolve import Shelf, origins
from eurythm.exchange.demo import demo_project, demo_study
from eurythm.fabric.opaque import u_value
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.field import describe
from eurythm.model.library import Construction
from eurythm.model.place import Place
from eurythm.model.project import Bundle, Project
from eurythm.model.reading import dump, parse_json, read_document
from eurythm.model.scheme import Scheme
from eurythm.model.study import StudySpec
from eurythm.study.levers import CaseInputs
from eurythm.study.matters import best_tradeoffs, main_effects
from eurythm.study.plan import case, check, count, in_order, inputs_of, run_order
from tests.conftest import make_scheme, volume


def edit(**parts: object) -> Edit:
    return TypeAdapter(Edit).validate_python(parts)


def test_documents_hold_only_what_was_given_and_come_back_the_same() -> None:
    project = demo_project()
    data = dump(project)
    assert data["factors"] == {"money": {"horizon_years": 30}}
    assert "sill_m" not in data["schemes"][0]["skin"]
    assert dump(read_document(Project, json.loads(json.dumps(data)))) == data


def test_origin_is_given_only_where_a_value_was_given() -> None:
    scheme = make_scheme(skin={"sill_m": 0.9})
    found = origins(scheme)
    assert found["skin/sill_m"].kind == "given"
    assert found["skin/head_m"].kind == "assumed"
    assert found["skin/head_m"].source


def test_every_number_is_described() -> None:
    described = describe(Bundle)
    sill = described["Skin.sill_m"]
    assert (sill["title"], sill["unit"], sill["usual"]) == ("Sill above floor", "m", [0, 1.2])
    assert sill["ip"]["unit"] == "ft"
    assert all(note["title"] for note in described.values())


@pytest.mark.parametrize(
    ("data", "code", "path"),
    [
        ({"id": "a", "name": "A", "version": 9}, "newer-version", "version"),
        ({"id": "a", "name": "A", "format": "eurythm.place"}, "wrong-format", "format"),
        ({"id": "a", "name": "A", "skn": {}}, "wrong-field", "skn"),
        ({"id": "a", "name": "A", "volumes": [volume("v9", form={"length": -2})]}, "wrong-field", "volumes/v9/form/length"),
        ({"id": "a", "name": "A", "turn_deg": float("nan")}, "wrong-field", "turn_deg"),
        ([], "wrong-document", ""),
    ],
)
def test_bad_documents_are_refused_with_their_path(data: object, code: str, path: str) -> None:
    with pytest.raises(EurythmError) as fault:
        read_document(Scheme, data)
    assert (fault.value.code, fault.value.path) == (code, path)


def test_json_that_is_none_or_not_finite_is_refused() -> None:
    for text in ("{", '{"a": NaN}', "\x00"):
        with pytest.raises(EurythmError):
            parse_json(text)


def test_set_then_reset_leaves_no_trace() -> None:
    project = demo_project()
    given = apply_edit(project, edit(op="set", path="schemes/quay/skin/sill_m", value=1.1))
    assert given.scheme("quay").skin.sill_m == 1.1
    assert dump(apply_edit(given, edit(op="reset", path="schemes/quay/skin/sill_m"))) == dump(project)


def test_items_are_put_and_removed_by_id() -> None:
    project = demo_project()
    more = apply_edit(project, edit(op="put", path="schemes/quay/volumes", item=volume("annex", x=70, y=6)))
    assert [v.id for v in more.scheme("quay").volumes] == ["bar", "annex"]
    assert dump(apply_edit(more, edit(op="remove", path="schemes/quay/volumes/annex"))) == dump(project)


def test_edits_together_are_one_or_none() -> None:
    project = demo_project()
    good = {"op": "set", "path": "place/north_deg", "value": 5}
    bad = {"op": "set", "path": "place/north_deg", "value": "up"}
    with pytest.raises(EurythmError) as fault:
        apply_edit(project, edit(op="together", edits=[good, bad]))
    assert fault.value.path == "place/north_deg"
    assert project.place.north_deg == -11


@pytest.mark.parametrize(
    "wrong",
    [
        {"op": "set", "path": "nothing/here", "value": 1},
        {"op": "set", "path": "schemes/quay/volumes/none/x", "value": 1},
        {"op": "set", "path": "schemes/quay/volumes/bar", "value": 1},
        {"op": "remove", "path": "schemes/quay"},
        {"op": "remove", "path": "place/north_deg"},
        {"op": "put", "path": "schemes", "item": {"id": "quay"}},
        {"op": "duplicate_scheme", "scheme": "quay", "id": "court", "name": "Copy"},
    ],
)
def test_wrong_edits_are_refused(wrong: dict) -> None:
    with pytest.raises(EurythmError):
        apply_edit(demo_project(), edit(**wrong))


@given(
    st.sampled_from(["place/north_deg", "schemes/quay/turn_deg", "schemes/court/skin/sill_m", "factors/export_price"]), st.floats(-1e6, 1e6)
)
def test_any_number_is_taken_whole_or_refused_with_its_path(path: str, value: float) -> None:
    project = demo_project()
    fault, changed = attempted(project, edit(op="set", path=path, value=value))
    if changed is None:
        assert fault is not None
        assert fault.path == path
        return
    here = dump(changed)
    for step in path.split("/"):
        here = here[step] if isinstance(here, dict) else next(i for i in here if i["id"] == step)
    assert here == value


def attempted(project: Project, change: Edit) -> tuple[EurythmError | None, Project | None]:
    try:
        return None, apply_edit(project, change)
    except EurythmError as fault:
        return fault, None


def test_unusual_values_are_questioned_with_the_likely_slip() -> None:
    scheme = make_scheme(volumes=[volume()], skin={"wall_insulation_m": 0.9})
    sentences = [said(r.sentence) for r in document_remarks(Place(), scheme)]
    assert any("0.9 m is unusual" in s and "0.09" in s for s in sentences)
    assert any("Waiting for weather" in s for s in sentences)


def test_shipped_u_values_are_plausible_and_hand_checked() -> None:
    shelf = Shelf(demo_project().library)
    wall = shelf.construction("wall-good", "")
    by_hand = 1 / (0.13 + 0.015 / 0.87 + 0.16 / 0.035 + 0.24 / 0.7 + 0.012 / 0.5 + 0.04)
    assert u_value(wall) == pytest.approx(by_hand)
    assert all(0.08 < u_value(c) < 4 for c in shelf.constructions.values())


def test_construction_takes_layers_or_a_u_value() -> None:
    with pytest.raises(EurythmError, match="either by layers or by its U-value"):
        read_document(Construction, {"id": "c", "name": "C"})


def demo_inputs() -> CaseInputs:
    project = demo_project()
    return CaseInputs(project.place, project.library, project.factors, project.scheme("quay"), project.schemes)


def study(*levers: dict) -> StudySpec:
    return read_document(StudySpec, {"name": "S", "levers": list(levers)})


def test_plan_has_every_combination_once() -> None:
    spec = demo_study()
    assert count(spec) == 300
    assert len({c.steps for c in in_order(spec)}) == 300
    assert sorted(run_order(spec)) == list(range(300))
    assert case(spec, 299).steps == (30, 0.75, "triple-clear", 1.8)


def test_levers_change_the_documents_they_say() -> None:
    base = demo_inputs()
    spec = study(
        {"kind": "scheme", "steps": ["terraces"]},
        {"kind": "climate", "steps": ["karsk-basin"]},
        {"kind": "turn", "steps": [25]},
        {"kind": "fins", "steps": [0.5]},
        {"kind": "field", "path": "use/infiltration_ach", "steps": [0.4]},
        {"kind": "field", "path": "volumes/hall/form/length", "steps": [40]},
    )
    made = inputs_of(spec, case(spec, 0), base)
    assert made.scheme.id == "terraces"
    assert made.place.climate is not None
    assert made.place.climate.id == "karsk-basin"
    assert made.scheme.turn_deg == 25
    assert made.scheme.skin.fin_depth_m.west == 0.5
    assert made.scheme.use.infiltration_ach == 0.4
    assert made.scheme.volumes[0].form.length == 40
    assert base.scheme.id == "quay"


@pytest.mark.parametrize(
    ("lever", "code"),
    [
        ({"kind": "magic", "steps": [1]}, "no-such-lever"),
        ({"kind": "turn", "steps": ["east"]}, "step-not-a-number"),
        ({"kind": "field", "path": "volumes/bar/name", "steps": ["Bar"]}, "no-lever"),
        ({"kind": "field", "path": "skin/sill_m", "steps": [-1]}, "wrong-field"),
        ({"kind": "facade", "path": "bar/*/e1/colour", "steps": ["red"]}, "no-such-path"),
        ({"kind": "facade", "path": "tower/*/e1/glazing_ratio", "steps": [0.3]}, "no-such-path"),
        ({"kind": "facade", "path": "bar/*/e1/glazing_ratio", "steps": [1.3]}, "wrong-field"),
        ({"kind": "zone", "path": "cellar/profile", "steps": ["office"]}, "no-such-path"),
        ({"kind": "field", "path": "skin/nothing", "steps": [1]}, "no-such-path"),
        ({"kind": "field", "path": "use/infiltration_ach", "steps": [-1]}, "wrong-field"),
        ({"kind": "turn", "steps": [1, 1]}, "step-twice"),
        ({"kind": "scheme", "steps": ["barn"]}, "no-such-scheme"),
    ],
)
def test_levers_that_cannot_be_pulled_are_refused_before_the_start(lever: dict, code: str) -> None:
    with pytest.raises(EurythmError) as fault:
        check(study(lever), demo_inputs())
    assert fault.value.code == code


def test_too_many_cases_are_refused() -> None:
    steps = [i / 100 for i in range(60)]
    sides = [{"kind": "field", "path": f"skin/glazing_ratio/{s}", "steps": steps} for s in ("north", "east", "south")]
    with pytest.raises(EurythmError, match="216,000"):
        check(study(*sides), demo_inputs())


def test_main_effects_of_a_known_plane() -> None:
    levers = {"a": 3, "b": 2}
    steps = np.array(list(product(range(3), range(2))))
    effects = main_effects(levers, steps, 10.0 + 3 * steps[:, 0] + steps[:, 1])
    assert [(e.lever, e.span) for e in effects] == [("a", 6.0), ("b", 1.0)]
    assert effects[0].means == (10.5, 13.5, 16.5)


def test_what_matters_counts_complete_blocks_only() -> None:
    """Where the large values of one lever's step failed, the rest would speak for another lever: such blocks are left out and counted."""
    levers = {"a": 2, "b": 3}
    steps = np.array(list(product(range(2), range(3))))[:-1]  # without the one of the last step of both
    values = 10.0 * steps[:, 0] + np.array([0.0, 1.0, 100.0])[steps[:, 1]]
    by_lever = {e.lever: e for e in main_effects(levers, steps, values)}
    assert (by_lever["a"].span, by_lever["a"].left_out) == (10.0, 1)  # the first two steps of b are whole, the last is not
    assert (by_lever["b"].span, by_lever["b"].left_out) == (100.0, 2)  # only the block of the first step of a
    assert main_effects(levers, steps[:1], values[:1])[0].means in ((None, None), (None, None, None))
    assert main_effects({"a": 2}, np.array([[0], [1]]), np.array([1.0, 3.0]))[0].means == (1.0, 3.0)


def test_best_tradeoffs_are_those_none_betters() -> None:
    points = {1: (1.0, 9.0), 2: (2.0, 5.0), 3: (3.0, 6.0), 4: (4.0, 1.0), 5: (2.0, 5.5)}
    assert best_tradeoffs(points) == [1, 2, 4]
    assert best_tradeoffs(points, ("less", "more")) == [1]
    assert best_tradeoffs({1: (60.0, 0.6), 2: (55.0, 0.4), 3: (58.0, 0.3)}, ("less", "more")) == [2, 1]
