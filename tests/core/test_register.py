"""The register of assumed values, and how far the year moves with each."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from eurythm.brief.assumed import Assumed, assumed_values
from eurythm.brief.edits import Put, Set, Together, apply_edit
from eurythm.brief.readiness import document_remarks
from eurythm.climate.year import ClimateYear
from eurythm.explain.ranking import Ranked, Rankings, figures_of, rank
from eurythm.model.errors import EurythmError
from eurythm.model.field import OWN
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.reading import read_document
from eurythm.simulate import simulate
from tests.conftest import volume


def project(**scheme: Any) -> Project:
    made = {"id": "s", "name": "S", "volumes": [volume("bar", name="Bar")]} | scheme
    return read_document(Project, {"name": "P", "reference": "s", "schemes": [made]})


def register(of: Project) -> dict[str, Assumed]:
    return {a.path: a for a in assumed_values(of, of.schemes[0])}


def test_what_is_given_is_not_in_it_and_what_is_assumed_is_with_source_and_ends() -> None:
    found = register(project(use={"infiltration_ach": 0.3}))
    assert "schemes/s/use/infiltration_ach" not in found
    surcharge = found["schemes/s/skin/thermal_bridges/surcharge_w_m2k"]
    assert [e.value for e in surcharge.ends] == [0.0, 0.15]
    assert "supplement" in surcharge.source
    assert surcharge.stage == "skin"
    assert not surcharge.rays
    assert found["schemes/s/skin/sill_m"].rays
    assert found["place/north_deg"].rays
    height = next(a for p, a in found.items() if p.endswith("/base_level_m"))
    assert height.part == "Bar"


def test_constructions_are_set_against_the_best_and_the_worst_of_the_shelf() -> None:
    wall = register(project())["schemes/s/skin/wall"]
    assert wall.label == "Brick, 160 mm insulated, rendered"
    assert [e.value for e in wall.ends][-1] == "concrete-1965-wall"
    carrier = register(project())["schemes/s/plant/heating/carrier"]
    assert "gas" in [e.value for e in carrier.ends]


def test_values_of_the_profile_count_until_the_scheme_gives_its_own() -> None:
    plain, own = register(project()), register(project(use={"lighting_w_m2": 6}))
    assert plain["schemes/s/use/lighting_w_m2"].source.startswith("use profile “")
    assert "schemes/s/use/lighting_w_m2" not in own


def test_confirming_takes_a_value_off_the_register_and_moves_nothing(merrowhaven: ClimateYear) -> None:
    before = project()
    asked = list(register(before).values())[:40]
    numbers = [a for a in asked if a.path.startswith("schemes/s/skin")][:5]
    after = apply_edit(before, Together(edits=tuple(Set(path=a.path, value=a.value) for a in numbers)))
    assert set(register(before)) - set(register(after)) == {a.path for a in numbers}
    old, new = (simulate(p.place, p.library, p.schemes[0], p.factors, merrowhaven) for p in (before, after))
    assert figures_of(new) == pytest.approx(figures_of(old))


def test_ranked_moves_are_those_of_single_runs(merrowhaven: ClimateYear) -> None:
    of = project()
    ranked = rank(of, of.schemes[0], merrowhaven, rays=False)
    spans = [r.span["eui_kwh_per_m2"] for r in ranked]
    assert spans == sorted(spans, reverse=True)
    assert spans[0] > 1
    chosen = next(r for r in ranked if r.assumed.path == "schemes/s/use/infiltration_ach")
    for move, end in zip(chosen.moves, chosen.assumed.ends, strict=True):
        tried = apply_edit(of, Set(path=chosen.assumed.path, value=end.value))
        alone = simulate(tried.place, tried.library, tried.schemes[0], tried.factors, merrowhaven).totals
        assert move.figures["eui_kwh_per_m2"] == pytest.approx(alone["eui_kwh_per_m2"], rel=1e-6)


def test_those_that_need_new_rays_come_apart_and_an_impossible_end_says_why(merrowhaven: ClimateYear) -> None:
    of = project(skin={"head_m": 1.0})
    ranked = rank(of, of.schemes[0], merrowhaven, rays=True)
    assert all(r.assumed.rays for r in ranked)
    sill = next(r for r in ranked if r.assumed.path.endswith("/sill_m"))
    assert "not above the sill" in sill.moves[-1].fault
    assert sill.moves[0].figures


def test_values_of_things_alike_stand_in_one_line_and_are_confirmed_together() -> None:
    trees = [{"id": f"t{k}", "name": f"Tree {k}", "x": 8 * k, "y": -5, "height": 9, "crown": 5} for k in range(4)]
    own = trees[3] | {"leaf_transmittance": 0.3}
    of = project(volumes=[volume("bar", storeys=3)]).model_copy(update={"place": read_document(Place, {"trees": [*trees[:3], own]})})
    found = register(of)
    leaves = found["place/trees/t0/leaf_transmittance"]
    assert leaves.paths == tuple(f"place/trees/t{k}/leaf_transmittance" for k in range(3))
    assert leaves.part == "Tree 0 and 2 more"
    after = apply_edit(of, Together(edits=tuple(Set(path=p, value=leaves.value) for p in leaves.paths)))
    assert "place/trees/t0/leaf_transmittance" not in register(after)


def test_what_the_program_chose_for_a_thing_that_was_added_is_assumed_until_it_is_typed() -> None:
    item = {"id": "n", "x": -30, "y": 0, "length": 20, "depth": 15, "height": 10, "assumed": ["length", "depth", "height"]}
    added = apply_edit(project(), Put(path="place/boxes", item=item))
    found = register(added)
    assert [e.value for e in found["place/boxes/n/height"].ends] == [2.5, 120]
    assert found["place/boxes/n/height"].source == OWN
    assert not [r for r in document_remarks(added.place, added.schemes[0]) if "place/boxes" in r.object]
    typed = apply_edit(added, Set(path="place/boxes/n/height", value=10))
    assert "place/boxes/n/height" not in register(typed)
    assert "place/boxes/n/length" in register(typed)
    assert typed.place.boxes[0].assumed == ("length", "depth")
    with pytest.raises(EurythmError, match="no field"):
        apply_edit(project(), Put(path="place/boxes", item=item | {"assumed": ["width"]}))


def test_what_is_being_ranked_is_waited_for_and_a_fault_is_not_kept() -> None:
    kept, made = Rankings(), []

    def slowly() -> list[Ranked]:
        made.append(1)
        time.sleep(0.2)
        return []

    with ThreadPoolExecutor(4) as many:
        found = list(many.map(lambda _: kept.of(("a",), slowly), range(4)))
    assert (found, len(made)) == ([[], [], [], []], 1)

    def failing() -> list[Ranked]:
        raise EurythmError("no-form", "Nothing is drawn yet.", "scheme/volumes")

    for _ in range(2):
        with pytest.raises(EurythmError):
            kept.of(("b",), failing)
    assert kept.of(("b",), slowly) == []
