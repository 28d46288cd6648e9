"""Arrays over HTTP: how they lie, what moves them, what they give, and what is refused without a trace."""

from __future__ import annotations

import pytest

from tests.api.conftest import Project


def put(project: Project, **array: object) -> None:
    project.edit(op="put", path="schemes/scheme-1/plant/arrays", item={"id": "a", **array})


def test_an_array_lies_where_it_is_told_and_says_how_it_is_moved(project: Project) -> None:
    put(project, x=2, y=1, width_m=10, depth_m=6, tilt_deg=0, pitch_m=1.2)
    (panel,) = project.get("schemes/scheme-1/geometry")["panels"]
    handle = panel["handle"]
    x, y, width, depth = handle["rectangle"]
    assert (x, y) == pytest.approx((2, 1), abs=0.01)
    assert width <= 10 + 0.01
    assert depth <= 6 + 0.01
    corner = [handle["origin"][k] + handle["x"][k] * x + handle["y"][k] * y for k in range(3)]
    nearest = min(sum((corner[k] - p[k]) ** 2 for k in range(2)) for loop in panel["loops"] for p in loop)
    assert nearest < 0.05**2
    told = project.get("schemes/scheme-1/outcome")["renewables"]["arrays"][0]
    assert told["area_m2"] == pytest.approx(panel["area_m2"])


def test_an_array_by_itself_is_moved_about_its_middle(project: Project) -> None:
    put(project, on="free", x=5, y=-8, level_m=2.5, width_m=6, depth_m=3, tilt_deg=30)
    geometry = project.get("schemes/scheme-1/geometry")
    handle = geometry["panels"][0]["handle"]
    assert handle["centred"] is True
    assert handle["rectangle"] == pytest.approx([5, -8, 6, 3], abs=1e-3)
    assert geometry["shades"] == []  # it is drawn as what it is


def test_a_share_of_all_roofs_is_drawn_and_cannot_be_moved(project: Project) -> None:
    project.edit(op="set", path="schemes/scheme-1/plant/photovoltaics/roof_share", value=0.3)
    (panel,) = project.get("schemes/scheme-1/geometry")["panels"]
    assert (panel["array"], panel["handle"]) == ("", None)
    assert panel["loops"]


@pytest.mark.parametrize(
    ("part", "item", "path"),
    [
        ("inverters", {"id": "i", "rated_kw": 0}, "plant/inverters/i/rated_kw"),
        ("arrays", {"id": "a", "tilt_deg": 95}, "plant/arrays/a/tilt_deg"),
        ("collectors", {"id": "c", "zero_loss": 2}, "plant/collectors/c/zero_loss"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field_and_leaves_no_trace(project: Project, part: str, item: dict, path: str) -> None:
    before = project.get("")["revision"]
    fault = project.edit(422, op="put", path=f"schemes/scheme-1/plant/{part}", item=item)
    assert fault["path"] == f"schemes/scheme-1/{path}"
    assert project.get("")["revision"] == before


def test_an_unknown_inverter_is_told_with_its_place(project: Project) -> None:
    put(project, inverter="gone")
    fault = project.get("schemes/scheme-1/outcome", 422)
    assert (fault["code"], fault["path"]) == ("no-such-inverter", "scheme/plant/arrays/a/inverter")
