"""What is drawn is asked for again when it looks otherwise, and not when it looks the same."""

from __future__ import annotations

import pytest

from eurythm.api.views import drawn, geometry
from eurythm.model.errors import EurythmError
from tests.api.conftest import Project
from tests.core.test_part import BASE, FOUND, Bundle, changed_somehow


def looks(bundle: Bundle) -> object:
    try:
        return geometry(bundle.place, bundle.scheme)
    except EurythmError as fault:
        return fault.code


def test_every_field_that_changes_what_is_drawn_changes_its_mark() -> None:
    before, mark, moved = looks(BASE), drawn(BASE.place, BASE.scheme), 0
    for way, document, name, _ in FOUND:
        if way[0] not in ("place", "scheme"):
            continue
        other = changed_somehow(way, document, name)
        if other is None or looks(other) == before:
            continue
        moved += 1
        assert drawn(other.place, other.scheme) != mark, f"{way} is drawn"
    assert moved > 80


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("use/heating_c", 19.0),
        ("plant/main", {"ready": "ground-pump-floor"}),
        ("skin/roof_insulation_m", 0.31),
        ("skin/blinds/place", "outside"),
    ],
)
def test_what_is_not_drawn_leaves_the_mark_alone(project: Project, path: str, value: object) -> None:
    before = project.state["drawn"]["scheme-1"]
    project.edit(op="set", path=f"schemes/scheme-1/{path}", value=value)
    assert project.state["drawn"]["scheme-1"] == before
    project.edit(op="set", path="schemes/scheme-1/skin/glazing_ratio/south", value=0.31)
    assert project.state["drawn"]["scheme-1"] != before
