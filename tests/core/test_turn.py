"""Turning: glass and shades turn with the building or keep to the compass, and what comes to the same is known before it is run."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config

from eurythm.geometry.openings import skin_north
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors, Project
from eurythm.model.reading import dump, read_document
from eurythm.model.study import StudySpec
from eurythm.simulate import building_of
from eurythm.store.database import MIGRATIONS, open_database
from eurythm.store.projects import Projects
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import CaseList, case, count, in_order, rows_of
from eurythm.study.runner import InProcess, Job, run_case
from eurythm.study.same import run_all, same_cases
from tests.conftest import make_scheme, run_scheme, volume

SIDES = {"south": 0.6, "north": 0.1, "east": 0.2, "west": 0.3}
OPPOSITE = {"south": 0.1, "north": 0.6, "east": 0.3, "west": 0.2}


def demands(**parts: Any) -> tuple[float, float]:
    skin = {"overhang_depth_m": {"south": 1.0}, **parts.pop("skin", {})}
    totals = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core")], skin=skin, **parts)).outcome.totals
    return totals["heating_demand_kwh"], totals["cooling_demand_kwh"]


def test_glass_and_shades_turn_with_the_building_unless_they_keep_to_the_compass() -> None:
    """Turned by half a circle, a rectangle is one with its sides swapped; by the compass it is the one that was there before."""
    plain = demands(skin={"glazing_ratio": SIDES})
    with_building = demands(skin={"glazing_ratio": SIDES}, turn_deg=180)
    swapped = demands(skin={"glazing_ratio": OPPOSITE, "overhang_depth_m": {"south": 0.0, "north": 1.0}})
    by_compass = demands(skin={"glazing_ratio": SIDES, "turn_with": "compass"}, turn_deg=180)
    assert with_building == pytest.approx(swapped, rel=2e-3)
    assert by_compass == pytest.approx(plain, rel=2e-3)
    assert abs(with_building[1] / plain[1] - 1) > 0.05


@pytest.mark.parametrize("turn", [0.0, 37.0, 90.0, -130.0])
def test_each_wall_keeps_its_windows_however_far_it_is_turned(turn: float) -> None:
    scheme = make_scheme(volumes=[volume()], skin={"glazing_ratio": SIDES}, turn_deg=turn)
    walls = {f.edge: f.window_area / f.area for f in building_of(Place(), scheme).faces if f.kind == "wall"}
    still = make_scheme(volumes=[volume()], skin={"glazing_ratio": SIDES})
    assert walls == pytest.approx({f.edge: f.window_area / f.area for f in building_of(Place(), still).faces if f.kind == "wall"}, rel=1e-9)
    assert skin_north(scheme, 12.0) == 12.0 - turn


def test_a_rule_by_orientation_follows_the_wall() -> None:
    rules = [{"id": "r", "element": "wall", "orientation": "north", "construction": "wall-retrofit"}]
    for turn, expected in ((0.0, "north"), (180.0, "south")):
        scheme = make_scheme(volumes=[volume()], skin={"rules": rules}, turn_deg=turn)
        (wall,) = [f for f in building_of(Place(), scheme).faces if f.construction == "wall-retrofit"]
        assert wall.orientation(0.0) == expected


def test_a_scheme_that_was_turned_before_keeps_its_result(tmp_path: Path) -> None:
    """Saved when sides were those of the compass: opening it states so, in every kept revision."""
    turned = dump(make_scheme(volumes=[volume()], turn_deg=30.0))
    level = dump(make_scheme(volumes=[volume()])) | {"id": "level"}
    project = read_document(Project, {"name": "P", "schemes": [turned, level], "reference": "t"})
    made = Projects(open_database(tmp_path)).create(project)
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with sa.create_engine(f"sqlite:///{tmp_path / 'eurythm.sqlite'}").connect() as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, "0003")
        connection.commit()
    again = Projects(open_database(tmp_path)).state(made.id).project
    assert [s.skin.turn_with for s in again.schemes] == ["compass", "building"]


def job(*levers: dict[str, Any], **parts: Any) -> Job:
    scheme = make_scheme(volumes=[volume(zoning="perimeter_core")], **parts)
    place = read_document(Place, {"climate": {"kind": "stand-in", "id": "merrowhaven"}})
    study = read_document(StudySpec, {"name": "S", "levers": list(levers)})
    return Job(study, CaseInputs(place, Library(), Factors(), scheme, (scheme,)), {}, "t")


def same(asked: Job) -> dict[int, int]:
    cases = CaseList(asked.study, range(count(asked.study)), rows_of(asked.study))
    return {n: int(first) for n, first in enumerate(same_cases(asked, cases)) if first != n}


TURNS = {"kind": "turn", "steps": [0, 90, 180, 270]}
GLASS = {"kind": "glazing_ratio", "steps": [0.2, 0.4]}


def test_cases_that_come_to_the_same_are_known_before_the_run() -> None:
    """A rectangle by the compass is the same after half a circle; with sides of its own that turn with it, it is not."""
    by_compass = job(TURNS, GLASS, skin={"turn_with": "compass"})
    assert same(by_compass) == {4: 0, 5: 1, 6: 2, 7: 3}
    assert same(job(TURNS, skin={"glazing_ratio": SIDES})) == {}
    assert same(job(TURNS, GLASS)) == {4: 0, 5: 1, 6: 2, 7: 3}  # one ratio on all sides
    assert same(job(GLASS)) == {}


def test_where_zones_are_told_apart_by_name_turned_forms_are_not_the_same() -> None:
    by_compass = job(TURNS, skin={"turn_with": "compass"})
    assert same(by_compass) == {2: 0, 3: 1}
    assert (
        same(job(TURNS, {"kind": "zone", "path": "v1/s0/e1/profile", "steps": ["office", "library"]}, skin={"turn_with": "compass"})) == {}
    )
    for outcomes, expected in ((["zone_too_warm_h@v1/s0/e1"], {}), (["zone_too_warm_h@*"], {2: 0, 3: 1})):
        asked = by_compass.study.model_copy(update={"outcomes": tuple(outcomes)})
        assert same(replace(by_compass, study=asked)) == expected


@pytest.mark.parametrize(
    "parts",
    [
        {"use": {"zones": [{"id": "u", "zone": "v1/s0/e1", "heating_c": {"hourly": [18.0] * 8760}}]}},
        {"skin": {"overrides": [{"id": "o", "face": "v1/*/e1", "glazing_ratio": 0.9}], "turn_with": "compass"}},
        {"volumes": [volume(kind="l", zoning="perimeter_core")]},
    ],
    ids=["a room of its own use", "a wall of its own glass", "no symmetry"],
)
def test_what_differs_anywhere_is_not_the_same(parts: dict[str, Any]) -> None:
    study = job(TURNS)
    scheme = make_scheme(**({"volumes": [volume(zoning="perimeter_core")]} | parts))
    other = Job(study.study, replace(study.base, scheme=scheme, schemes=(scheme,)), {}, "t")
    assert same(other) == {}


def test_the_same_is_run_once_and_told_for_all() -> None:
    """What was found to be the same differs, run by itself, by no more than the light's own directions do."""
    study = job(TURNS, skin={"turn_with": "compass"})
    ran: list[int] = []
    results = {r.number: r for lot in run_all(InProcess(), study, in_order(study.study), ran.extend) for r in lot}
    assert ran == [0, 1]
    assert results.keys() == {0, 1, 2, 3}
    assert results[2].figures == results[0].figures
    alone = run_case(study, case(study.study, 2)).figures
    assert alone is not None
    assert results[2].figures is not None
    assert alone["totals"]["eui_kwh_per_m2"] == pytest.approx(results[2].figures["totals"]["eui_kwh_per_m2"], rel=1e-3)
