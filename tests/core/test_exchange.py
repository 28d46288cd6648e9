"""Files out and in again: bundles, projects with their weather, studies, hourly tables; damaged ones refused whole."""

from __future__ import annotations

import base64
import csv
import json
import zlib
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import eurythm
from eurythm.brief.edits import apply_edit
from eurythm.climate.epw import read_epw
from eurythm.climate.standin import standin_epw
from eurythm.exchange import project_file
from eurythm.exchange.bundle import open_bundle, open_study, write_bundle, write_json
from eurythm.exchange.demo import demo_form_study, demo_project, demo_study, write_examples
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.project_file import ImportedModel, WeatherFile, open_cases, read_project, write_project
from eurythm.model.errors import EurythmError
from eurythm.model.project import Bundle, BundleClimate, Project
from eurythm.model.reading import dump
from eurythm.report.hourly import write_hourly
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import check, count
from tests.conftest import make_scheme, run_scheme, volume
from tests.core.test_checks import model, room
from tests.core.test_documents import edit

EPW = standin_epw("vallarena")


@pytest.fixture(scope="module")
def examples(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("examples")
    write_examples(folder)
    return folder


def with_weather() -> tuple[Project, dict[str, WeatherFile]]:
    digest = read_epw(EPW).digest
    project = apply_edit(
        demo_project(), edit(op="set", path="place/climate", value={"kind": "file", "id": digest, "name": "Vallarena"})
    )  # fmt: skip
    return project, {digest: WeatherFile("coast, 2023.epw", EPW)}


def test_a_project_with_its_weather_comes_back_whole() -> None:
    project, files = with_weather()
    opened = read_project(write_project(project, files), "p.json")
    again, kept = opened.project, opened.files
    assert dump(again) == dump(project)
    assert kept == files


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    st.text(st.characters(exclude_categories=("Cs", "Cc")), min_size=1, max_size=40).filter(lambda t: t.strip()),
    st.floats(-360, 360),
    st.floats(0, 0.95),
    st.sampled_from(["quay", "court", "terraces"]),
)
def test_any_project_comes_back_to_the_last_digit(name: str, north: float, ratio: float, scheme: str) -> None:
    project = apply_edit(demo_project(), edit(op="set", path="name", value=name))
    project = apply_edit(project, edit(op="set", path="place/north_deg", value=north))
    project = apply_edit(project, edit(op="set", path=f"schemes/{scheme}/skin/glazing_ratio/west", value=ratio))
    again = read_project(write_project(project, {}), "p.json").project
    assert dump(again) == dump(project)


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_a_damaged_project_file_is_refused_or_read_never_half(data: st.DataObject) -> None:
    text = write_project(demo_project(), {})
    start = data.draw(st.integers(0, len(text) - 1))
    length = data.draw(st.integers(1, 60))
    damaged = text[:start] + data.draw(st.text(max_size=4)) + text[start + length :]
    try:
        project = read_project(damaged, "p.json").project
    except EurythmError as fault:
        said = fault.message
    else:
        said = project.name
        assert project.schemes
    assert said is not None


def test_weather_that_is_too_long_is_not_unpacked_without_end() -> None:
    bomb = base64.b64encode(zlib.compress(b"0" * 50_000_000)).decode()
    data = {**dump(demo_project()), "files": {"x": {"name": "bomb.epw", "epw": bomb}}}
    with pytest.raises(EurythmError):
        read_project(json.dumps(data), "p.json")


def with_imports() -> tuple[ImportedModel, ImportedModel]:
    received = model(room("a", 0, 0, 6, 4))
    sift = Sift.model_validate({"gap_m": 0.3, "rules": [{"id": "r", "by": "class", "value": "IfcDoor", "keep": False}]})
    base = dump(demo_project().scheme("court"))
    first = ImportedModel("court.ifc", b"ISO-10303-21;" * 400, {}, received, sift, "court", base)
    newer = ImportedModel("newer.ifc", None, {"unit": "mm"}, received, Sift(), None, None, 0)
    return first, newer


def test_imported_models_come_back_with_what_was_decided() -> None:
    models = with_imports()
    opened = read_project(write_project(demo_project(), {}, None, models), "p.json")
    assert opened.imports == models
    assert opened.imports[0].sift.gap_m == 0.3


def test_a_model_whose_scheme_is_gone_comes_along_as_not_taken_over() -> None:
    project = apply_edit(demo_project(), edit(op="remove", path="schemes/court"))
    opened = read_project(write_project(project, {}, None, with_imports()), "p.json")
    assert (opened.imports[0].scheme, opened.imports[0].base) == (None, None)


def test_a_large_file_stays_behind_and_what_was_read_from_it_does_not(monkeypatch: pytest.MonkeyPatch) -> None:
    first, _ = with_imports()
    assert first.body is not None
    for limit in ("MOST_BODY_BYTES", "MOST_PACKED_BYTES"):
        with monkeypatch.context() as tight:
            tight.setattr(project_file, limit, 30)
            (kept,) = read_project(write_project(demo_project(), {}, None, [first]), "p.json").imports
        assert kept.body is None
        assert kept.received == first.received


def packed(body: bytes) -> str:
    return base64.b64encode(zlib.compress(body)).decode()


@pytest.mark.parametrize(
    "damage",
    [
        {"received": packed(b"{")},
        {"received": packed(b"[]")},
        {"received": base64.b64encode(zlib.compress(b"0" * 5000)[:-8]).decode()},
        {"received": "no base64"},
        {"received": 3},
        {"body": base64.b64encode(zlib.compress(b"ISO" * 2000)[:-9]).decode()},
        {"body": packed(b"0" * 40_000_000)},
        {"follows": 0},
        {"follows": -1},
        {"sift": {"rules": [{"by": "magic"}]}},
        {"ask": ["mm"]},
        {"base": {"format": "eurythm.place"}},
    ],
)
def test_a_damaged_model_refuses_the_project_file(damage: dict, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(project_file, "MAX_UNPACKED_BYTES", 20_000_000)
    data = json.loads(write_project(demo_project(), {}, None, with_imports()[:1]))
    data["imports"][0] |= damage
    with pytest.raises(EurythmError) as fault:
        read_project(json.dumps(data), "p.json")
    assert fault.value.code.startswith(("wrong", "unknown"))


def test_many_models_share_one_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(project_file, "MAX_UNPACKED_BYTES", 20_000)
    data = json.loads(write_project(demo_project(), {}, None, with_imports()[:1]))
    entry = data["imports"][0]
    assert len(read_project(json.dumps(data), "p.json").imports) == 1
    data["imports"] = [entry] * 20
    with pytest.raises(EurythmError) as fault:
        read_project(json.dumps(data), "p.json")
    assert fault.value.path.startswith("imports/")


@pytest.mark.parametrize(
    ("climate", "code"),
    [
        ({"stand_in": "vallarena"}, None),
        ({"epw": EPW}, None),
        ({"file": "beside.epw"}, "no-climate"),
        ({"epw": EPW[:5000]}, "epw-cut-record"),
        ({"epw": "x"}, "not-epw"),
    ],
)
def test_a_bundle_s_climate_in_all_its_ways(climate: dict, code: str | None) -> None:
    demo = demo_project()
    text = json.dumps(dump(Bundle(place=demo.place, scheme=demo.scheme("quay"), climate=BundleClimate(**climate))))
    if code is None:
        opened = read_project(text, "b.json")
        project, files = opened.project, opened.files
        assert project.reference == "quay"
        assert project.place.climate is not None
        assert len(files) == ("epw" in climate)
        return
    with pytest.raises(EurythmError) as fault:
        read_project(text, "b.json")
    assert fault.value.code == code


def test_a_bundle_with_its_weather_beside_it_is_reported_and_opened_as_it_is_simulated(examples: Path, tmp_path: Path) -> None:
    bundle = examples / "quay.eurythm.json"
    opened = open_bundle(bundle)
    project, (case,) = open_cases(bundle)
    assert case.climate.digest == opened.climate.digest
    assert eurythm.open_project(bundle).schemes == [project.reference]
    alone = tmp_path / "quay.eurythm.json"
    alone.write_bytes(bundle.read_bytes())
    with pytest.raises(EurythmError, match=r"merrowhaven\.epw"):
        open_cases(alone)


def test_a_weather_file_stands_before_what_the_bundle_names(examples: Path) -> None:
    plain = open_bundle(examples / "quay.eurythm.json")
    other = open_bundle(examples / "quay.eurythm.json", examples / "karsk-basin.epw")
    assert (plain.climate.location.city, other.climate.location.city) == ("Merrowhaven", "Karsk Basin")
    assert other.epw == (examples / "karsk-basin.epw").read_text()


@pytest.mark.parametrize("missing", ["bundle", "climate"])
def test_files_that_are_not_there_are_named(examples: Path, tmp_path: Path, missing: str) -> None:
    if missing == "bundle":
        path = tmp_path / "none.eurythm.json"
    else:
        path = tmp_path / "alone.eurythm.json"
        path.write_text((examples / "quay.eurythm.json").read_text())
    with pytest.raises(EurythmError) as fault:
        open_bundle(path)
    assert fault.value.code == "no-such-file"


def test_a_bundle_without_climate_asks_for_one(tmp_path: Path) -> None:
    path = tmp_path / "bare.eurythm.json"
    write_bundle(path, Bundle(scheme=make_scheme(volumes=[volume()])))
    with pytest.raises(EurythmError, match="give one with --climate"):
        open_bundle(path)


@pytest.mark.parametrize(("name", "cases", "schemes"), [("which-glass", 300, 1), ("which-form", 27, 3)])
def test_study_files_open_with_their_bundles(examples: Path, name: str, cases: int, schemes: int) -> None:
    study, inputs, files = open_study(examples / f"{name}.study.json")
    assert count(study.study) == cases
    assert len(inputs.schemes) == schemes
    assert inputs.scheme.id == "quay"
    assert len(files) == 1
    assert len(check(study.study, inputs)) == len(study.study.levers)


def test_a_study_of_a_scheme_that_no_bundle_holds_is_refused(examples: Path) -> None:
    data = json.loads((examples / "which-glass.study.json").read_text())
    data["study"]["scheme"] = "barn"
    write_json(examples / "wrong.study.json", data)
    with pytest.raises(EurythmError) as fault:
        open_study(examples / "wrong.study.json")
    assert (fault.value.code, fault.value.path) == ("no-such-scheme", "study/scheme")


def test_the_demo_s_studies_can_be_asked_of_the_demo() -> None:
    project = demo_project()
    inputs = CaseInputs(project.place, project.library, project.factors, project.scheme("quay"), project.schemes)
    assert count(demo_study()) == 300
    assert [len(v.steps) for v in check(demo_form_study(), inputs)] == [3, 3, 3]


def test_hourly_tables_hold_every_series(tmp_path: Path) -> None:
    made = run_scheme(make_scheme(volumes=[volume(storeys=2)], plant={"photovoltaics": {"roof_share": 0.5}}))
    write_hourly(tmp_path / "hours.csv", made)
    with (tmp_path / "hours.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert (rows[0]["time"], rows[-1]["time"], len(rows)) == ("01-01T00", "12-31T23", 8760)
    building = np.array([float(r["building/cooling_w"]) for r in rows])
    zones = sum(np.array([float(r[f"zone/{z}/cooling_w"]) for r in rows]) for z in made.arrays.zone_ids)
    assert building == pytest.approx(zones, rel=1e-3, abs=0.1)
    used, out = (sum(float(r[f"generation/{k}_w"]) for r in rows) / 1000 for k in ("used", "exported"))
    assert [used, out] == pytest.approx([made.outcome.totals["generation_kwh"][k] for k in ("used", "exported")], rel=1e-4)
    assert sum(float(r["generation/roof-share_w"]) for r in rows) / 1000 == pytest.approx(used + out, rel=1e-4)
    energy = {c for c in rows[0] if c.startswith("energy/")}
    assert energy == {f"energy/{use}_w" for use in made.outcome.totals["energy_kwh"]}


def test_examples_are_the_same_each_time(examples: Path, tmp_path: Path) -> None:
    written = write_examples(tmp_path)
    for name in written:
        assert (tmp_path / name).read_bytes() == (examples / name).read_bytes(), name
