"""A whole study in this process's memory: for the command line and for scripts; the server keeps each case as it comes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from eurythm.assess.figures import flat
from eurythm.study.kinds import Rows, rounds
from eurythm.study.outcomes import outcomes_of
from eurythm.study.plan import CaseList, case_at, run_order
from eurythm.study.runner import CaseResult, Job, Runner, remarks_of
from eurythm.study.same import run_all
from eurythm.study.table import CaseTable, lever_columns


@dataclass(frozen=True)
class Ran:
    """All cases of a study: their rows, and what they came to in the order of their numbers."""

    job: Job
    rows: Rows
    results: list[CaseResult]

    def cases(self) -> Iterator[tuple[tuple[object, ...], CaseResult]]:
        """Yield the steps that each case takes, and what it came to."""
        for result, row in zip(self.results, self.rows, strict=True):
            yield case_at(self.job.study, result.number, row).steps, result

    def table(self) -> CaseTable:
        """Return the cases as columns."""
        ids = [f.id for f in outcomes_of(self.job.study)]
        table = CaseTable(lever_columns(self.job.study), self.rows, ids)
        for r in self.results:
            if r.figures is None:
                table.finish(r.number, None, r.reason)
            else:
                table.finish(r.number, flat(r.figures, ids), "", remarks_of(r.figures))
        return table


def run_study(runner: Runner, job: Job, told: Callable[[list[CaseResult]], None] = lambda _: None) -> Ran:
    """Run all cases of a study; of a search, generation by generation. Results are `told` in lots, as they come."""
    results: dict[int, CaseResult] = {}
    study = job.study
    ran: list[Rows] = []
    first = 0
    ids = [f.id for f in outcomes_of(study)]
    for rows in rounds(study, lambda numbers: [flat(results[n].figures, ids) for n in numbers]):
        order = [first + k for k in run_order(study, rows)]
        for lot in run_all(runner, job, CaseList(study, order, rows, first)):
            results.update((r.number, r) for r in lot)
            told(lot)
        ran.append(rows)
        first += len(rows)
    return Ran(job, np.concatenate(ran), [results[n] for n in range(first)])
