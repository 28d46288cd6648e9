"""Speeds of studies beside those of their cases: tables of many cases, search, workers of a cluster, reports; printed by `tests.bench.run`."""

from __future__ import annotations

import copy
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from dask.distributed import LocalCluster

from eurythm.api.case_tables import CaseTables
from eurythm.climate.standin import standin_year
from eurythm.exchange.demo import demo_project
from eurythm.explain.case import Case
from eurythm.model.library import Library
from eurythm.model.place import ClimateRef, Place
from eurythm.model.project import Factors, Project
from eurythm.model.reading import read_document
from eurythm.model.study import StudySpec
from eurythm.report.compared.assumptions import still_assumed
from eurythm.report.compared.content import Asked, content
from eurythm.report.compared.paper import pdf_of
from eurythm.store.database import open_database
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.study.cluster import Cluster
from eurythm.study.levers.base import CaseInputs
from eurythm.study.plan import in_order
from eurythm.study.pool import Pool
from eurythm.study.runner import CaseResult, Job, run_case
from eurythm.study.table import Sieve
from eurythm.study.whole import run_study
from tests.conftest import make_scheme, volume

FIVE = {"length": 56, "depth": 17}
"""A storey of five zones."""


def tables() -> None:
    """Tables of 10,000 and of 100,000 cases: kept, looked at for the first time, sieved and sorted, each in a process of its own that tells its memory."""
    for count in (10_000, 100_000):
        subprocess.run([sys.executable, "-m", "tests.bench.studies", str(count)], check=True)


def _table_of(count: int) -> None:
    scheme = make_scheme(volumes=[volume(form=FIVE)])
    steps = [0.1 + 0.005 * k for k in range(100)]
    levers = [
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": steps},
        {"kind": "field", "path": "skin/glazing_ratio/north", "steps": steps},
        {"kind": "turn", "steps": [3.0 * k for k in range(count // 10_000)]},
    ]
    spec = read_document(StudySpec, {"name": "t", "scheme": scheme.id, "levers": levers})
    project = Project(name="t", place=Place(climate=ClimateRef(kind="stand-in", id="merrowhaven")), schemes=(scheme,), reference=scheme.id)
    inputs = CaseInputs(project.place, project.library, project.factors, scheme, (scheme,))
    cases = in_order(spec)
    figures = run_case(Job(spec, inputs, {}, "t"), cases[0]).figures
    assert figures is not None
    with tempfile.TemporaryDirectory() as folder:
        database = open_database(Path(folder))
        state = Projects(database).create(project)
        studies = Studies(database)
        study = studies.create(state.id, state.revision, project, spec)
        keeping = 0.0
        for first in range(0, count, 32):
            lot = []
            for number in range(first, min(first + 32, count)):
                told = copy.deepcopy(figures)
                told["totals"]["eui_kwh_per_m2"] *= 1.0 + (number * 7919 % 1000) / 5000.0
                lot.append(CaseResult(number, "done", told, "", 0.0))
            started = time.perf_counter()
            studies.keep(study.id, lot)
            keeping += time.perf_counter() - started
        shelf, study = CaseTables(studies), studies.state(study.id)
        started = time.perf_counter()
        table = shelf.of(study)
        looking = time.perf_counter() - started
        started = time.perf_counter()
        running = table.running(Sieve(ranges={"eui_kwh_per_m2": (0.0, float(table.column("eui_kwh_per_m2").mean()))}))
        table.sorted(running, "cost_per_m2")
        table.strips(running)
        sieving = time.perf_counter() - started
        database.close()
    most = int(next(x for x in Path("/proc/self/status").read_text().splitlines() if x.startswith("VmHWM")).split()[1]) / 1024
    print(
        f"tables: {count:,} cases kept in {keeping:.1f} s ({keeping / count * 1000:.2f} ms each), first looked at in {looking:.1f} s, sieved and sorted in {sieving:.3f} s; {most:.0f} MB at most",
        flush=True,
    )


def search() -> None:
    """A search of 600 cases of five zones on two processes, and the share of it that is not the cases' own time."""
    job = _job({"kind": "search", "size": 600, "goals": [{"outcome": "eui_kwh_per_m2"}, {"outcome": "cost_per_m2"}]})
    pool = Pool(2)
    try:
        pool.warm()
        list(pool.run(Job(_asked(size=32), job.base, {}, "warm"), in_order(_asked(size=32))))
        started = time.perf_counter()
        ran = run_study(pool, job)
        took = time.perf_counter() - started
    finally:
        pool.close()
    own = sum(r.seconds for r in ran.results) / 2
    print(f"search: {len(ran.results)} cases in {took:.1f} s, {(took - own) / took:.0%} of it beside the cases' own time")


def workers() -> None:
    """600 cases by one and by two local workers of a cluster."""
    before = 0.0
    for count in (1, 2):
        with LocalCluster(n_workers=count, threads_per_worker=1, preload=["eurythm.study.cluster"], dashboard_address=None) as local:
            cluster = Cluster(local.scheduler_address)
            try:
                spec = _asked(size=64)
                list(cluster.run(Job(spec, _inputs(), {}, "warm"), in_order(spec)))
                spec = _asked(size=600)
                started = time.perf_counter()
                done = sum(len(lot) for lot in cluster.run(Job(spec, _inputs(), {}, "w"), in_order(spec)))
                rate = done / (time.perf_counter() - started)
            finally:
                cluster.close()
        print(f"workers: {count}: {rate:.1f} cases a second" + (f", {rate / before:.2f} times one" if before else ""))
        before = rate


def report() -> None:
    """A report of four cases of the demo as PDF, the first time and again, without the ranking of what is assumed."""
    project, climate = demo_project(), standin_year("merrowhaven")
    scheme = project.scheme("quay")
    asked = []
    for k in range(4):
        one = scheme.model_copy(update={"turn_deg": 5.0 * k})
        asked.append(Asked(f"Case {k}", "", Case(project.place, project.library, one, project.factors, climate)))
    for again in ("first", "again"):
        started = time.perf_counter()
        size = len(pdf_of(content(project.name, asked, assumed=still_assumed(project, scheme, None))))
        print(f"report: four cases {again} {time.perf_counter() - started:.1f} s, {size / 1000:.0f} kB")


def _inputs() -> CaseInputs:
    project = demo_project()
    scheme = make_scheme(volumes=[volume("bar", zoning="perimeter_core", form=FIVE, x=6, y=6)])
    return CaseInputs(project.place, Library(), Factors(), scheme, (scheme,))


LEVERS = [
    {"kind": "field", "path": "skin/glazing_ratio/south", "low": 0.2, "high": 0.8},
    {"kind": "field", "path": "skin/glazing_ratio/north", "low": 0.2, "high": 0.8},
    {"kind": "field", "path": "skin/wall_insulation_m", "low": 0.1, "high": 0.35},
    {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0, 0.6, 1.2, 1.8]},
]


def _asked(**more: Any) -> StudySpec:
    return read_document(StudySpec, {"name": "b", "kind": "sample", "scheme": "t", "levers": LEVERS} | more)


def _job(more: dict[str, Any]) -> Job:
    return Job(_asked(**more), _inputs(), {}, "bench")


if __name__ == "__main__":
    _table_of(int(sys.argv[1]))
