"""Running cases, in lots, in whatever process this is; `pool` runs them wide. Nothing in the core knows which."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from eurythm.assess.figures import by_zone
from eurythm.assess.outcome import zone_sums
from eurythm.climate.epw import read_epw
from eurythm.climate.standin import standin_year
from eurythm.climate.year import ClimateYear
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.model.study import StudySpec
from eurythm.simulate import Prepared, Year, prepare_case, run_years, simulate
from eurythm.study.levers import CaseInputs
from eurythm.study.outcomes import of_zones
from eurythm.study.plan import Case, CaseList, casting, inputs_of

log = logging.getLogger(__name__)
SAMPLE = 8


@dataclass(frozen=True)
class Job:
    """What workers need to know of a study: its question, its documents, the text of its own weather files by digest, and how many of them may run it."""

    study: StudySpec
    base: CaseInputs
    files: Mapping[str, str]
    token: str
    processes: int | None = None


@dataclass(frozen=True)
class CaseResult:
    """What a case came to. A failed one keeps its reason and stops no other."""

    number: int
    status: str
    figures: dict[str, Any] | None
    reason: str
    seconds: float


Starting = Callable[[list[int]], None]


def untold(_: list[int]) -> None:
    """Tell nobody."""


class Runner(Protocol):
    """One interface for all ways of running cases."""

    def run(self, job: Job, cases: Sequence[Case], starting: Starting = ...) -> Iterator[list[CaseResult]]:
        """Yield results in lots, as they come; `starting` is told the numbers of each lot just before it runs."""

    def close(self) -> None:
        """Give up what runs, and leave no process behind."""


def climate_of(place: Place, files: Mapping[str, str]) -> ClimateYear:
    """Return a place's climate year: a stand-in, or a file of the project.

    Raises
    ------
    EurythmError
        ``no-climate`` where none is chosen or the file is not there.
    """
    ref = place.climate
    if ref is None:
        raise EurythmError("no-climate", "Waiting for weather: choose a stand-in climate or drop an EPW.", "place/climate")
    if ref.kind == "stand-in":
        return standin_year(ref.id)
    if ref.id not in files:
        raise EurythmError("no-climate", f"The weather file “{ref.name or ref.id}” is not in this project.", "place/climate")
    return _file_year(ref.id, files[ref.id])


_YEARS: dict[str, ClimateYear] = {}


def _file_year(digest: str, text: str) -> ClimateYear:
    if digest not in _YEARS:
        if len(_YEARS) > 8:
            _YEARS.clear()
        _YEARS[digest] = read_epw(text)
    return _YEARS[digest]


def run_case(job: Job, case: Case) -> CaseResult:
    """Run one case."""
    return run_lot(job, [case])[0]


def run_lot(job: Job, cases: Sequence[Case]) -> list[CaseResult]:
    """Run a lot of cases, side by side where they can stand so. One that fails keeps its reason and stops no other."""
    started = time.perf_counter()
    ready: dict[int, Prepared] = {}
    results: dict[int, CaseResult] = {}
    for case in cases:
        try:
            inputs = inputs_of(job.study, case, job.base)
            climate = climate_of(inputs.place, job.files)
            ready[case.number] = prepare_case(inputs.place, inputs.library, inputs.scheme, inputs.factors, climate)
        except Exception as fault:
            results[case.number] = _failed(case.number, fault)
    try:
        years = run_years(list(ready.values()))
    except Exception as fault:
        if len(cases) == 1:
            return [_failed(cases[0].number, fault)]
        if not isinstance(fault, EurythmError):
            log.error("a batch of %s cases failed", len(ready), exc_info=fault)
        return [run_lot(job, [case])[0] for case in cases]  # one of them spoils the batch: each on its own tells which
    each = (time.perf_counter() - started) / len(cases)
    for (number, made), ran in zip(ready.items(), years, strict=True):
        results[number] = CaseResult(number, "done", _figures(job.study, made, ran), "", each)
    return [results[case.number] for case in cases]


def _failed(number: int, fault: Exception) -> CaseResult:
    if isinstance(fault, EurythmError):
        reason = f"{fault.message} ({fault.path})" if fault.path else fault.message
        return CaseResult(number, "failed", None, reason, 0.0)
    log.error("case %s failed", number, exc_info=fault)
    return CaseResult(number, "failed", None, "A fault of ours; the log of the server says more.", 0.0)


def _figures(study: StudySpec, made: Prepared, ran: Year) -> dict[str, Any]:
    """Return what is kept of each case: totals, peaks, comfort, closure, its remarks by their codes and as sentences, and what its study names beyond."""
    remarks = sorted({(r.code, r.sentence) for r in made.remarks})
    kept = {**vars(ran.summary), "remarks": sorted({code for code, _ in remarks}), "said": [sentence for _, sentence in remarks]}
    if study.kind == "measures":  # they are held against each other over the years
        kept["worth"] = ran.worth
    if named := of_zones(study):
        kept["by_zone"] = by_zone(zone_sums(made.arrays, ran.course), named)
    return kept


def remarks_of(figures: Mapping[str, Any]) -> list[str]:
    """Return a case's remarks as sentences; of results that were kept without them, what their codes say."""
    said: list[str] | None = figures.get("said")
    return said if said is not None else [f"{code.replace('-', ' ').capitalize()}." for code in figures.get("remarks", ())]


class InProcess:
    """Runs cases one after another, for tests and single cores."""

    def run(self, job: Job, cases: Sequence[Case], starting: Starting = untold) -> Iterator[list[CaseResult]]:
        """Yield each result on its own."""
        for case in cases:
            starting([case.number])
            yield [run_case(job, case)]

    def close(self) -> None:
        """Nothing is left to stop."""


def load() -> None:
    """Have in this process what is compiled for a year: one small room is simulated, so that the first one asked for need not wait."""
    room = {"id": "warm", "name": "Warm", "zones": [{"id": "room", "box": {"length": 5, "depth": 4, "height": 3}}]}
    simulate(Place(), Library(), read_document(Scheme, room), Factors(), standin_year("merrowhaven"))


def expected_seconds(job: Job, cases: CaseList, processes: int, wanted: Callable[[], bool] = lambda: True) -> float | None:
    """Estimate the time of cases, in the order in which they would run, from two small lots of them: some of one form, and one of another.

    Cases that share a form are cheap beside the first of it, so both are measured, and forms counted by the levers that make them.
    Nothing is told once the answer is no longer `wanted`, which is asked before each part of the trial.
    """
    formed = cases.rows[cases.numbers - cases.first][:, casting(job.study)]
    forms = len(np.unique(formed, axis=0)) if formed.shape[1] else 1
    alike = list(cases[: max(1, int((formed[:SAMPLE] == formed[0]).all(axis=1).argmin() or SAMPLE))])
    taken = []
    for lot in [alike[:1], alike, alike] + [list(cases[-1:])] * (forms > 1):
        if not wanted():
            return None
        started = time.perf_counter()
        run_lot(job, lot)
        taken.append(time.perf_counter() - started)
    each = taken[2] / len(alike)
    first = max(taken[3] - each, 0.0) if forms > 1 else 0.0
    return (forms * first + each * len(cases)) / processes
