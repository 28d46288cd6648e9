"""One pipeline, cut where inputs change: what runs again after a change, and what does not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from time import sleep

import numpy as np
import pytest

from eurythm import simulate as pipeline
from eurythm import steps
from eurythm.exchange.demo import demo_project
from eurythm.memo import Budget, Memo
from eurythm.model.project import Factors, Project
from eurythm.model.reading import dump, read_document
from eurythm.sun import caster
from tests.conftest import make_scheme, run_scheme, volume

STEPS = ("make_building", "place_openings", "light_on_faces", "use_series", "prepare", "balance")


@pytest.fixture
def counted(monkeypatch: pytest.MonkeyPatch) -> Iterator[Counter[str]]:
    """Count how often each step runs, from an empty memory."""
    counts: Counter[str] = Counter()

    def count(owner: object, name: str) -> None:
        real = getattr(owner, name)

        def counting(*args: object, **more: object) -> object:
            counts[name] += 1
            return real(*args, **more)

        monkeypatch.setattr(owner, name, counting)

    for step in STEPS:
        count(steps if hasattr(steps, step) else pipeline, step)
    count(caster, "_cast_layer")
    monkeypatch.setattr(pipeline, "MEMO", Memo())
    return counts


def again(counted: Counter[str], merrowhaven, path: str, value: object) -> set[str]:
    """Run Quay, change one value, run again; return the steps that the second run needed."""
    project = demo_project()
    pipeline.simulate(project.place, project.library, project.scheme("quay"), project.factors, merrowhaven)
    counted.clear()
    data = dump(project)
    *way, last = path.split("/")
    here = data
    for step in way:
        here = next(i for i in here if i["id"] == step) if isinstance(here, list) else here.setdefault(step, {})
    here[last] = value
    changed = read_document(Project, data)
    pipeline.simulate(changed.place, changed.library, changed.scheme("quay"), changed.factors, merrowhaven)
    return set(counted)


@pytest.mark.parametrize(
    ("path", "value", "needed"),
    [
        ("factors/gas/price", 0.2, set()),
        ("schemes/quay/plant/heating/efficiency", 0.8, set()),
        ("schemes/quay/use/cooling_c", 24.0, {"use_series", "prepare", "balance"}),
        ("schemes/quay/skin/glazing", "triple-clear", {"prepare", "balance"}),
        ("schemes/quay/skin/wall_insulation_m", 0.3, {"prepare", "balance"}),
        ("schemes/quay/skin/glazing_ratio/south", 0.6, {"place_openings", "light_on_faces", "prepare", "balance"}),
        ("schemes/quay/skin/overhang_depth_m/south", 0.55, {"place_openings", "light_on_faces", "_cast_layer", "prepare", "balance"}),
    ],
)
def test_a_change_runs_only_what_depends_on_it(counted: Counter[str], merrowhaven, path: str, value: object, needed: set[str]) -> None:
    assert again(counted, merrowhaven, path, value) == needed


def test_an_overhang_casts_its_own_layer_only(counted: Counter[str], merrowhaven, monkeypatch: pytest.MonkeyPatch) -> None:
    """Bodies and crowns are cast again only for what the overhang itself gives back: a few points on it."""
    cast: list[tuple[int, int]] = []
    real = caster._cast_layer
    monkeypatch.setattr(
        caster, "_cast_layer", lambda layer, points: (cast.append((len(layer.triangles), len(points.at))), real(layer, points))[1]
    )
    again(counted, merrowhaven, "schemes/quay/skin/overhang_depth_m/south", 0.85)
    cast.clear()
    again(counted, merrowhaven, "schemes/quay/skin/overhang_depth_m/south", 0.9)
    overhangs = 2 * 3  # triangles of three storeys' overhangs
    assert {count for triangles, count in cast if triangles > overhangs and count > 200} == set()
    assert sum(count for triangles, count in cast if triangles == overhangs) > 1000


def test_a_turned_form_casts_anew(counted: Counter[str], merrowhaven) -> None:
    assert again(counted, merrowhaven, "schemes/quay/turn_deg", 23.0) >= {"make_building", "light_on_faces", "_cast_layer"}


def test_same_inputs_same_result_whatever_was_remembered(merrowhaven) -> None:
    project = demo_project()
    first = pipeline.simulate(project.place, project.library, project.scheme("court"), project.factors, merrowhaven)
    pipeline.simulate(project.place, project.library, project.scheme("quay"), Factors(), merrowhaven)
    second = pipeline.simulate(project.place, project.library, project.scheme("court"), project.factors, merrowhaven)
    assert first.as_dict() == second.as_dict()


def test_memory_is_bounded() -> None:
    memo = Memo()
    for k in range(200):
        assert memo.get("light", str(k), lambda k=k: k) == k
    assert memo.get("light", "199", lambda: -1) == 199
    assert memo.get("light", "0", lambda: -1) == -1


def test_large_results_are_bounded_by_what_they_take() -> None:
    memo = Memo(Budget(14_000))
    for k in range(8):
        memo.get("light", str(k), lambda: {"zone": (np.zeros(500), [np.zeros(250)])})  # 6,000 bytes
    assert [memo.get("light", str(k), lambda: "gone") == "gone" for k in (7, 6, 5)] == [False, False, True]


def test_a_failed_step_is_not_remembered() -> None:
    memo = Memo()

    def broken() -> int:
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"):
        memo.get("light", "k", broken)
    assert memo.get("light", "k", lambda: 5) == 5


def test_order_of_zones_does_not_matter_to_demand() -> None:
    pair = [volume("a", zoning="perimeter_core"), volume("b", x=20, zoning="perimeter_core")]
    one, two = (run_scheme(make_scheme(volumes=v)) for v in (pair, pair[::-1]))
    rows = {z["id"]: z["heating_demand_kwh"] for z in one.outcome.zones}
    for zone in two.outcome.zones:
        assert zone["heating_demand_kwh"] == pytest.approx(rows[zone["id"]], rel=1e-5, abs=1e-3)


def test_what_is_being_made_is_waited_for_and_a_fault_leaves_nothing_behind() -> None:
    """Many who ask for one step at once have it made once; after a fault it is made anew."""
    memo, made = Memo(), []

    def make() -> str:
        sleep(0.05)
        made.append(1)
        return "form"

    with ThreadPoolExecutor(6) as askers:
        assert set(askers.map(lambda _: memo.get("form", "a", make), range(6))) == {"form"}
    assert len(made) == 1

    def fail() -> str:
        raise ValueError("no form")

    for _ in range(2):
        with pytest.raises(ValueError, match="no form"):
            memo.get("form", "b", fail)
    assert memo.get("form", "b", lambda: "later") == "later"
