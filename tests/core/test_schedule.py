"""The schedule of constructions and areas, as a workbook, a page and by script."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from openpyxl import load_workbook

from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.report.schedule import Schedule, page, schedule_of, workbook
from tests.command import eurythm
from tests.conftest import make_scheme, run_scheme, volume
from tests.core.test_cli import examples  # noqa: F401

RULE = {"id": "n", "element": "wall", "orientation": "north", "construction": "wall-timber"}


def told(**skin: object) -> Schedule:
    made = run_scheme(make_scheme(volumes=[volume("bar", storeys=2)], skin={"rules": [RULE], **skin}))
    return schedule_of(made.brief, made.building, made.outcome.worth, "Library")


def test_areas_by_orientation_add_up_to_the_faces() -> None:
    schedule = told()
    walls = [r for r in schedule.opaque if r.element == "wall"]
    assert {r.construction.id for r in walls} == {"wall-timber", "wall-good"}
    timber = next(r for r in walls if r.construction.id == "wall-timber")
    assert [w for w, a in timber.areas.items() if a > 0] == ["north"]
    made = run_scheme(make_scheme(volumes=[volume("bar", storeys=2)], skin={"rules": [RULE]}))
    net = sum(f.area - f.window_area for f in made.building.faces if f.element == "wall")
    assert sum(r.area for r in walls) == pytest.approx(net)
    assert sum(w.area for w in schedule.windows) == pytest.approx(made.outcome.totals["window_m2"])
    outer = sum(f.area for f in made.building.faces if f.boundary in ("outdoors", "ground"))
    by_hand = sum(r.u * r.area for r in schedule.opaque if r.element in ("wall", "roof", "ground_floor")) + sum(
        w.u * w.area for w in schedule.windows
    )
    assert schedule.mean_u == pytest.approx(by_hand / outer)


@pytest.mark.parametrize("ip", [False, True], ids=["SI", "IP"])
def test_the_workbook_opens_with_numbers_under_stable_names(ip: bool) -> None:
    schedule = told()
    book = load_workbook(io.BytesIO(workbook(schedule, ip)))
    assert book.sheetnames == ["Constructions", "Layers", "Areas", "Windows", "Costs"]
    head, *rows = book["Areas"].iter_rows(values_only=True)
    assert head[:4] == ("Element", "Reference", "Construction", "U Btu/h·ft²·°F" if ip else "U W/m²K")
    assert head[-3:] == ("Sum ft²" if ip else "Sum m²", "Cost €", "Carbon kg")
    for row, mine in zip(rows, schedule.opaque, strict=True):
        assert row[1] == mine.construction.id
        assert row[3] == pytest.approx(mine.u * (0.1761101838 if ip else 1))
        assert row[9] == pytest.approx(mine.area / (0.09290304 if ip else 1))
        assert sum(v for v in row[4:9]) == pytest.approx(row[9])
        assert [row[10], row[11]] == pytest.approx(schedule.worth_of(mine))
        assert row[10] > 0
    costs = list(book["Costs"].iter_rows(min_row=2, values_only=True))
    walls = [row for row in costs if str(row[1]).startswith("Outside wall")]
    assert sum(row[4] for row in walls) == pytest.approx(sum(schedule.worth_of(r)[0] for r in schedule.opaque if r.element == "wall"))
    assert {row[0] for row in costs} == {"fabric", "glass", "plant"}


def test_insulation_of_the_scheme_is_in_the_u_value() -> None:
    thin, thick = (next(r.u for r in told(wall_insulation_m=t).opaque if r.construction.id == "wall-good") for t in (0.05, 0.30))
    assert thin > 2 * thick


def test_the_page_stands_by_itself_and_escapes_names() -> None:
    wall = {"id": "w", "name": "<b>Wall & co</b>", "element": "wall", "layers": [{"name": "=1+1", "thickness_m": 0.2, "conductivity": 0.1}]}
    from eurythm.model.library import Library

    library = read_document(Library, {"constructions": [wall]})
    made = run_scheme(make_scheme(volumes=[volume()], skin={"wall": "w"}), library=library)
    schedule = schedule_of(made.brief, made.building, made.outcome.worth)
    said = page(schedule)
    assert "&lt;b&gt;Wall &amp; co&lt;/b&gt;" in said
    assert "http" not in said
    book = load_workbook(io.BytesIO(workbook(schedule)))
    assert "'=1+1" in [c.value for c in book["Layers"]["C"]]


def test_schedule_register_and_sun_by_script(examples: Path, tmp_path: Path) -> None:  # noqa: F811
    bundle = examples / "terraces.eurythm.json"
    done = eurythm("schedule", bundle, "--out", tmp_path / "areas.xlsx")
    assert done.returncode == 0, done.stderr
    assert load_workbook(tmp_path / "areas.xlsx")["Constructions"].max_row == json.loads(done.stdout)["constructions"] + 1
    assert eurythm("schedule", bundle, "--out", tmp_path / "areas.html").returncode == 0
    assert json.loads(eurythm("schedule", bundle, "--out", tmp_path / "areas.doc").stderr)["code"] == "unknown-format"
    values = json.loads(eurythm("register", bundle).stdout)["values"]
    assert all({"path", "source", "ends"} <= v.keys() for v in values)
    sun = json.loads(eurythm("irradiation", bundle, "--grid", 4).stdout)["faces"]
    assert all(0 < f["low"] <= f["mean"] + 1e-6 <= f["high"] + 2e-6 < 1500 for f in sun)


def test_a_scheme_file_keeps_rules_overrides_and_own_constructions() -> None:
    given = {
        "id": "s",
        "name": "S",
        "skin": {"rules": [RULE], "overrides": [{"id": "o", "face": "v1/*/e1", "overhang_m": 1.2, "pattern": "ribbon"}]},
    }
    scheme = read_document(Scheme, given)
    assert json.loads(scheme.model_dump_json(exclude_unset=True)) == given
