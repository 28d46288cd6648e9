"""The command line's contract: JSON on standard output, errors as JSON on standard error."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.command import eurythm, in_a_process


@pytest.fixture(scope="module")
def examples(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("examples")
    done = eurythm("examples", folder)
    assert done.returncode == 0
    assert "quay.eurythm.json" in json.loads(done.stdout)["written"]
    return folder


@pytest.mark.parametrize("document", ["place", "library", "scheme", "bundle", "study", "project"])
def test_schemas_are_printed(document: str) -> None:
    schema = json.loads(eurythm("schema", document).stdout)
    assert schema["type"] == "object"
    assert schema["properties"]


def test_simulate_prints_the_contract_and_hours(examples: Path, tmp_path: Path) -> None:
    out = tmp_path / "hours.csv"
    done = in_a_process("simulate", examples / "quay.eurythm.json", "--climate", examples / "karsk-basin.epw", "--hourly", out)
    assert done.returncode == 0, done.stderr
    result = json.loads(done.stdout)
    totals = result["totals"]
    assert {
        "conditioned_floor_area_m2",
        "heating_demand_kwh",
        "cooling_demand_kwh",
        "eui_kwh_per_m2",
        "eui_net_kwh_per_m2",
        "carbon_kg",
        "cost",
    } <= totals.keys()
    assert totals["eui_kwh_per_m2"] == pytest.approx(sum(totals["energy_kwh"].values()) / totals["conditioned_floor_area_m2"])
    assert sum(totals["carrier_kwh"].values()) + totals["generation_kwh"]["used"] == pytest.approx(sum(totals["energy_kwh"].values()))
    assert sum(m["heating_demand_kwh"] for m in result["monthly"]) == pytest.approx(totals["heating_demand_kwh"])
    assert result["peaks"]["heating_at"][5] == "T"
    assert result["closure"] < 1e-5
    assert len(result["zones"]) == 15
    with out.open() as file:
        rows = list(csv.DictReader(file))
    assert len(rows) == 8760
    assert rows[0]["time"] == "01-01T00"
    zone = result["zones"][0]
    assert sum(float(r[f"zone/{zone['id']}/heating_w"]) for r in rows) / 1000 == pytest.approx(zone["heating_demand_kwh"], rel=1e-4)


def test_daylight_is_told_by_sensor_and_by_hour(examples: Path, tmp_path: Path) -> None:
    out = tmp_path / "lux.csv"
    done = eurythm("daylight", examples / "quay.eurythm.json", "--hourly", out)
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert told["efficacy"] == "assumed"
    rows = list(csv.DictReader(out.open()))
    assert len(rows) == 8760
    assert len(rows[0]) == 1 + len(told["sensors"])
    for sensor in told["sensors"]:
        assert 0 < sensor["daylight_factor"] < 0.3
        assert 0 <= sensor["useful"] + sensor["beyond_useful"] <= 1
    glazed = {sensor["zone"] for sensor in told["sensors"]}
    assert len(glazed) + len(told["without_windows"]) == 15


def test_study_writes_one_row_a_case(examples: Path, tmp_path: Path) -> None:
    study = json.loads((examples / "which-form.study.json").read_text())
    study["study"]["levers"] = [
        {"kind": "scheme", "steps": ["quay", "terraces"]},
        {"kind": "field", "path": "use/heating_c", "steps": [20, 27.5]},
    ]
    (examples / "small.study.json").write_text(json.dumps(study))
    out = tmp_path / "cases.csv"
    done = eurythm("study", examples / "small.study.json", "--jobs", 1, "--out", out)
    assert done.returncode == 0, done.stderr
    with out.open() as file:
        rows = list(csv.DictReader(file))
    assert [r["id"] for r in rows] == ["0", "1", "2", "3"]
    assert [r["status"] for r in rows] == ["done", "failed", "done", "failed"]
    assert "stands above cooling" in rows[1]["remarks"]
    assert json.loads(done.stdout)["failed"] == 2


def test_bad_input_exits_2_with_code_path_and_message(examples: Path, tmp_path: Path) -> None:
    broken = json.loads((examples / "quay.eurythm.json").read_text())
    broken["scheme"]["volumes"][0]["storeys"][1]["height_m"] = 0
    (tmp_path / "broken.json").write_text(json.dumps(broken))
    done = in_a_process("simulate", tmp_path / "broken.json")
    assert (done.returncode, done.stdout) == (2, "")
    error = json.loads(done.stderr)
    assert error["path"] == "scheme/volumes/bar/storeys/s1/height_m"
    assert set(error) == {"code", "path", "message"}


@pytest.mark.parametrize("wrong", [["simulate", "/nowhere.json"], ["simulate"], ["schema", "poem"], ["dance"]])
def test_wrong_commands_exit_2_with_json(wrong: list[str]) -> None:
    done = eurythm(*wrong)
    assert done.returncode == 2
    assert json.loads(done.stderr)["code"]


def test_box_with_given_windows_runs_from_a_file(examples: Path, tmp_path: Path) -> None:
    wall = [{"name": "panel", "thickness_m": 0.1, "conductivity": 0.04}]
    names = {"south": 12.0}
    faces = [
        {
            "id": side,
            "side": side,
            "construction": "panel",
            "windows": [{"x": 0.5, "z": 0.2, "width": 6, "height": 2}] if side in names else [],
        }
        for side in ("south", "east", "north", "west", "roof")
    ]
    bundle = {
        "format": "eurythm.bundle",
        "library": {"constructions": [{"id": "panel", "name": "Panel", "element": "wall", "layers": wall}]},
        "scheme": {
            "id": "box",
            "name": "Box",
            "zones": [{"id": "room", "box": {"length": 8, "depth": 6, "height": 2.7}, "faces": faces}],
            "use": {
                "zones": [
                    {
                        "id": "r",
                        "zone": "room",
                        "air_changes": 0.5,
                        "gains_w": 200,
                        "gains_radiant_share": 0.6,
                        "heating_c": {"weekday": [20] * 24},
                        "cooling_c": {"weekday": [27] * 24},
                    }
                ]
            },
        },
        "climate": {"stand_in": "karsk-basin"},
    }
    (tmp_path / "box.json").write_text(json.dumps(bundle))
    done = eurythm("simulate", tmp_path / "box.json", "--substeps", 4)
    assert done.returncode == 0, done.stderr
    zone = json.loads(done.stdout)["zones"][0]
    assert zone["floor_area_m2"] == pytest.approx(48)
    assert zone["air_volume_m3"] == pytest.approx(129.6)
    assert zone["air_c"]["min"] >= 20 - 1e-6
    assert zone["air_c"]["max"] <= 27 + 1e-6
    assert zone["solar_kwh"] > 1000


def test_the_library_goes_out_and_comes_in_as_a_table(examples: Path, tmp_path: Path) -> None:
    bundle, table = examples / "terraces.eurythm.json", tmp_path / "constructions.csv"
    assert json.loads(eurythm("library", bundle, "constructions", "--out", table).stdout) == {"table": str(table)}
    with table.open(encoding="utf-8", newline="") as file:
        head, *rows = csv.reader(file)
    stated = dict.fromkeys(head, "") | {"Construction": "Ours", "Element": "wall", "U-value W/m²K": "0.2"}
    own = tmp_path / "own.csv"
    with own.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([head, list(stated.values()), list((stated | {"Construction": "Bad", "U-value W/m²K": "low"}).values())])
    assert len(rows) > 100
    done = eurythm("library", bundle, "constructions", "--take", own, "--into", tmp_path / "new.eurythm.json")
    said = json.loads(done.stdout)
    assert len(said["taken"]) == 1
    assert {f["row"] for f in said["left_out"]} == {3}
    kept = json.loads((tmp_path / "new.eurythm.json").read_text(encoding="utf-8"))["library"]["constructions"]
    assert said["taken"][0] in [c["id"] for c in kept]
    missing = eurythm("library", bundle, "materials", "--take", tmp_path / "none.csv")
    assert missing.returncode == 2
    assert "none.csv" in json.loads(missing.stderr)["message"]
    assert eurythm("library", bundle, "profiles").returncode == 2


def test_a_kept_picture_of_the_sun_is_worked_out_by_name(examples: Path) -> None:
    faces = json.loads(eurythm("irradiation", examples / "quay.eurythm.json", "--picture", "summer").stdout)["faces"]
    assert faces
    assert all("/e1" in f["id"] for f in faces)  # the quay side alone
    refused = eurythm("irradiation", examples / "quay.eurythm.json", "--picture", "winter")
    assert refused.returncode == 2
    assert "it has summer, roof" in json.loads(refused.stderr)["message"]


def test_of_gltf_the_ending_decides(examples: Path, tmp_path: Path) -> None:
    """Text under .gltf, binary under .glb, whichever of the two is asked for; another ending is refused."""
    bundle = examples / "quay.eurythm.json"
    for asked in ("gltf", "glb"):
        for ending, begins in ((".gltf", b'{"'), (".glb", b"glTF")):
            target = tmp_path / f"{asked}{ending}"
            assert eurythm("export", bundle, "--format", asked, "--out", target).returncode == 0
            assert target.read_bytes().startswith(begins)
    refused = eurythm("export", bundle, "--format", "gltf", "--out", tmp_path / "quay.xml")
    assert (refused.returncode, json.loads(refused.stderr)["code"]) == (2, "other-ending")


def test_the_library_of_a_bundle_whose_climate_lies_elsewhere(examples: Path, tmp_path: Path) -> None:
    """A bundle that was moved away from its climate file: the file can be named, as everywhere else."""
    moved = tmp_path / "moved" / "quay.eurythm.json"
    moved.parent.mkdir()
    moved.write_bytes((examples / "quay.eurythm.json").read_bytes())
    year = next(examples.glob("*.epw"))
    done = eurythm("library", moved, "materials", "--climate", year, "--out", tmp_path / "materials.csv")
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "materials.csv").exists()


def test_daylight_all_over_floors_is_told_and_written(examples: Path, tmp_path: Path) -> None:
    out = tmp_path / "light.csv"
    done = eurythm("daylight", examples / "quay.eurythm.json", "--grid", 3, "--out", out, "--target", 500)
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    floors = {floor["zone"]: floor for floor in told["floors"]}
    assert floors["bar/s0/core"]["meets"] < floors["bar/s2/e1"]["meets"]
    assert floors["bar/s2/e1"]["meets"] > 0.5
    assert told["target_lx"] == 500
    assert {"daylight_factor", "hours_above_target", "useful", "lighting_share"} <= set(told["sensors"][0])
    rows = list(csv.DictReader(out.open(encoding="utf-8")))
    assert {row["zone"] for row in rows} == set(floors)
    mean = [float(row["daylight factor %"]) for row in rows if row["zone"] == "bar/s2/e1"]
    areas = [float(row["area m²"]) for row in rows if row["zone"] == "bar/s2/e1"]
    whole = sum(m * a for m, a in zip(mean, areas, strict=True)) / sum(areas)
    assert whole == pytest.approx(floors["bar/s2/e1"]["daylight_factor"] * 100, abs=0.01)


def test_a_kept_picture_of_daylight_is_told_by_its_name(examples: Path, tmp_path: Path) -> None:
    out = tmp_path / "noon.csv"
    done = eurythm("daylight", examples / "quay.eurythm.json", "--picture", "noon", "--out", out)
    assert done.returncode == 0, done.stderr
    assert {floor["zone"] for floor in json.loads(done.stdout)["floors"]} == {f"bar/s1/{part}" for part in ("e1", "e2", "e3", "e4", "core")}
    rows = list(csv.DictReader(out.open(encoding="utf-8")))
    assert max(float(row["in the hour lx"]) for row in rows) > 100
    refused = eurythm("daylight", examples / "quay.eurythm.json", "--picture", "dusk")
    assert refused.returncode == 2
    assert "it has readers, noon" in refused.stderr


def test_a_textbook_room_is_a_file(examples: Path) -> None:
    """A box, a window by its rectangle, sensors by coordinates: its daylight factors fall from the window on, and a sensor moved in the file is moved."""
    path = examples / "rooms" / "side-lit.eurythm.json"
    done = eurythm("daylight", path)
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)["sensors"]
    assert [s["at_m"] for s in told] == [[2.0, float(d), 0.8] for d in range(1, 6)]
    factors = [s["daylight_factor"] for s in told]
    assert factors == sorted(factors, reverse=True)
    assert 0.05 < factors[0] < 0.2
    assert all(0 < s["lighting_share"] <= 1 for s in told)


def test_only_what_is_needed_is_loaded() -> None:
    """What reads and writes files of others takes a second to load, which neither the server's start nor a year waits for."""
    heavy = ("trimesh", "networkx", "ifcopenshell", "openpyxl", "ezdxf", "playwright", "schemathesis", "fastapi")
    told = f"import sys, eurythm.simulate; print(*(name for name in {heavy!r} if name in sys.modules))"
    assert subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True, timeout=120).stdout.split() == []
    told = told.replace("eurythm.simulate", "eurythm.api.app")
    assert subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True, timeout=120).stdout.split() == [
        "fastapi"
    ]


@pytest.mark.skipif((os.cpu_count() or 1) < 2, reason="one processor has no other thread to wait")
def test_no_processor_turns_idly_after_a_product() -> None:
    """A thread that helped with a product sleeps when it is done: it would else take a processor for 30 ms from who needs it."""
    told = (
        "import eurythm, time, numpy as np; a = np.ones((600, 600)); a @ a; began = time.process_time(); "
        "time.sleep(0.05); print(time.process_time() - began)"
    )
    plain = {k: v for k, v in os.environ.items() if not k.startswith(("OPENBLAS", "OMP"))}
    taken = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True, timeout=120, env=plain).stdout
    assert float(taken) < 0.01
