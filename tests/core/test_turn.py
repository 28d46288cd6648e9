"""Turning: glass and shades turn with the building or keep to the compass, and what comes to the same is known before it is run."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config

from eurythm.geometry.openings import skin_north
from eurythm.model.place import Place
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.simulate import building_of
from eurythm.store.database import MIGRATIONS, open_database
from eurythm.store.projects import Projects
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
