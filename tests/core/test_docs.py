"""The documents that we publish agree with the code."""

from __future__ import annotations

import json
import re
import tomllib
from pathlib import Path

import pytest

from eurythm import steps
from eurythm.brief.calendar import hourly, year_days
from eurythm.brief.systems import systems_of
from eurythm.exchange.reference import DOCUMENT, with_tables
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.plant import Plant
from eurythm.model.project import Bundle, Factors
from eurythm.model.reading import read_document
from eurythm.model.schedule import Calendar, Schedule
from eurythm.model.scheme import Scheme
from eurythm.model.study import StudyFile
from eurythm.simulate import daylight, simulate
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import check

ROOT = DOCUMENT.parents[1]
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").rglob("*.md"))]


def blocks(page: Path) -> list[dict]:
    return [json.loads(text) for text in re.findall(r"```json\n(.*?)```", page.read_text(encoding="utf-8"), re.S)]


def test_tables_of_fields_are_up_to_date() -> None:
    text = DOCUMENT.read_text(encoding="utf-8")
    assert with_tables(text) == text, "run python -m eurythm.exchange.reference"


@pytest.mark.parametrize("page", PAGES, ids=lambda p: p.name)
def test_links_lead_somewhere(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text(encoding="utf-8")):
        assert (page.parent / target).exists(), target


def test_examples_in_the_format_are_sound(merrowhaven) -> None:
    bundle, textbook, lit, schedule, plant, study = blocks(DOCUMENT)
    held = read_document(Bundle, bundle)
    outcome = simulate(held.place, held.library, held.scheme, held.factors, merrowhaven)
    assert outcome.totals["gross_floor_area_m2"] == pytest.approx(2 * 40 * 15)
    room = simulate(Place(), Library(), read_document(Scheme, {"id": "t", "name": "T", **textbook}), Factors(), merrowhaven)
    assert room.totals["window_m2"] == 6
    light = daylight(Place(), Library(), read_document(Scheme, {"id": "t", "name": "T", **lit}), merrowhaven)
    assert [tuple(s.at) for s in light.sensors] == [(2.0, 1.5, 0.8), (2.0, 4.5, 0.8)]
    assert light.daylight_factor[0] > 2 * light.daylight_factor[1] > 0
    assert hourly(read_document(Schedule, schedule), year_days(Calendar(), 0)).sum() == 9 * 261
    assert [s.name for s in systems_of(read_document(Plant, plant)) if s] == ["Ground heat pump, floor heating, free cooling", "Hall"]
    asked = read_document(StudyFile, study).study
    views = check(asked, CaseInputs(held.place, held.library, held.factors, held.scheme, (held.scheme,)))
    assert [len(v.steps) for v in views] == [3, 3, 2]


def test_what_simulate_prints_is_documented(merrowhaven) -> None:
    text = DOCUMENT.read_text(encoding="utf-8")
    held = read_document(Bundle, blocks(DOCUMENT)[0])
    outcome = simulate(held.place, held.library, held.scheme, held.factors, merrowhaven).as_dict()
    assert all(f"`{part}`" in text for part in outcome)
    per_area = {"carbon_kg_per_m2", "cost_per_m2"}  # said together with their sums
    missing = [key for key in outcome["totals"] if f"`{key}`" not in text and key not in per_area]
    assert missing == []


def test_every_picture_is_linked_and_there_are_few() -> None:
    pictures = sorted(p.name for p in (ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    assert 0 < len(pictures) < 20
    assert [p for p in pictures if p not in readme] == []


ARCHITECTURE = Path(__file__).parents[2] / "docs/architecture.md"


def test_the_architecture_names_what_there_is() -> None:
    text = ARCHITECTURE.read_text(encoding="utf-8")
    root = ARCHITECTURE.parents[1]
    own, page = root / "src/eurythm", root / "web/src"
    files = set(re.findall(r"`([\w./]+(?:\.py|\.tsx?|/))`", text))
    assert len(files) > 20
    everywhere = {p.name for p in own.rglob("*.py")}
    missing = [name for name in files if not (any((at / name).exists() for at in (own, root, page)) or name in everywhere)]
    assert missing == []
    told = re.findall(r"^\| `([A-Z]\w+)`", text, re.M)
    light = (steps.Light, steps.Daylight, steps.Floors, steps.LightsOn)
    sun = (steps.Panels, steps.PanelLight, steps.SunPower)
    chain = (steps.Form, steps.Openings, steps.Cladding, *light, steps.Use, steps.Gains, steps.Balance, *sun)
    assert told == [c.__name__ for c in chain]


def test_the_picture_of_the_house_is_that_of_the_imports() -> None:
    picture = ARCHITECTURE.read_text(encoding="utf-8").split("```")[1]
    layers = tomllib.loads((ARCHITECTURE.parents[1] / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"]["contracts"][
        0
    ]["layers"]
    packages = [name.strip().removeprefix("eurythm.") for layer in layers for name in layer.split("|")]
    at = {
        name: next(i for i, line in enumerate(picture.splitlines()) if re.search(rf"(?<![\w`]){name}(?![\w`])", line))
        for name in packages
        if name != "memo"
    }
    ordered = [at[name] for name in packages if name in at]
    assert ordered == sorted(ordered)
    assert len(at) >= 15
