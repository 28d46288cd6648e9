"""Studies as jobs: one thread leads each, cases run on the pool, every lot of results is committed at once."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator, Mapping

import numpy as np

from eurythm.assess.figures import flat
from eurythm.model.errors import NotFound
from eurythm.model.study import StudySpec
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.study.kinds import Rows, rounds
from eurythm.study.outcomes import outcomes_of
from eurythm.study.plan import CaseList, run_order
from eurythm.study.pool import Closed
from eurythm.study.runner import CaseResult, Job, Runner
from eurythm.study.same import run_all

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 20
"""So often a case is begun, over restarts of the server, before it counts as failed: a server that was killed ten times is no fault of its cases."""


class _Lead:
    """One thread that leads a study, and what tells it to stop."""

    def __init__(self, before: _Lead | None) -> None:
        self.before = before
        self.stop = threading.Event()
        self.ended = threading.Event()


class StudyJobs:
    """Starts, follows, cancels and resumes studies. All run at once; the runner shares its workers between them."""

    def __init__(self, projects: Projects, studies: Studies, runner: Runner) -> None:
        self._projects, self._studies, self._runner = projects, studies, runner
        self._leads: dict[str, _Lead] = {}
        self._stopping = threading.Event()
        self._asked = object()

    def start(self, study_id: str) -> None:
        """Run a study's waiting cases in the background; where it is just being stopped, once that has happened."""
        lead = self._leads[study_id] = _Lead(self._leads.get(study_id))
        threading.Thread(target=self._lead, args=(study_id, lead), name=f"study-{study_id}", daemon=True).start()

    def resume(self) -> list[str]:
        """Go on with what was under way when the server stopped."""
        unfinished = self._studies.unfinished()
        for study_id in unfinished:
            self.start(study_id)
        return unfinished

    def cancel(self, study_id: str) -> None:
        """Stop a study; its results stay. What its workers are at is not waited for."""
        lead = self._leads.get(study_id)
        if lead is not None:
            lead.stop.set()
        self._studies.cancel(study_id)

    def wait(self, study_id: str) -> None:
        """Wait until a study has ended."""
        lead = self._leads.get(study_id)
        if lead is not None:
            lead.ended.wait()

    def trial(self) -> Callable[[], bool]:
        """Begin to find out how long a study would take; return what says whether that may go on: no study runs, none was asked about since."""
        self._asked = mine = object()  # one step: whoever asks at once is told apart
        return lambda: mine is self._asked and all(lead.ended.is_set() for lead in list(self._leads.values()))

    def stop(self) -> None:
        """Let go of everything that runs; it is resumed at the next start."""
        self._stopping.set()

    def _lead(self, study_id: str, lead: _Lead) -> None:
        try:
            if lead.before is not None:
                lead.before.ended.wait()
                lead.before = None
            self._led(study_id, lead)
        except (Closed, NotFound):
            pass  # with the server, and it is resumed at the next start; or it was removed
        finally:
            if self._leads.get(study_id) is lead:
                del self._leads[study_id]
            lead.ended.set()

    def _led(self, study_id: str, lead: _Lead) -> None:
        started = time.perf_counter()
        try:
            status = self._run(study_id, lead)
        except (Closed, NotFound):
            raise
        except Exception:
            log.exception("study %s stopped", study_id)
            status = "broken"
        if not self._stopping.is_set():
            current = self._leads.get(study_id) is lead  # else it was stopped and goes on already
            self._studies.mark(study_id, status if current else None, time.perf_counter() - started)

    def _run(self, study_id: str, lead: _Lead) -> str:
        if lead.stop.is_set():
            return "cancelled"
        state = self._studies.state(study_id)
        self._studies.mark(study_id, "running")
        files: Mapping[str, str] = self._projects.files(state.project_id)
        job = Job(state.spec, state.inputs(), files, study_id, state.processes)
        spent = self._studies.spent(study_id, MOST_ATTEMPTS)
        if spent:
            never = f"It was begun {MOST_ATTEMPTS} times and never came back."
            self._studies.keep(study_id, [CaseResult(n, "failed", None, never, 0.0) for n in spent])
        spec, first = state.spec, 0
        for rows in self._rounds(study_id, spec):
            waiting = self._studies.waiting(study_id)
            order = [first + k for k in run_order(spec, rows) if first + k in waiting]
            lots = run_all(self._runner, job, CaseList(spec, order, rows, first), lambda numbers: self._studies.starting(study_id, numbers))
            for results in lots:
                self._studies.keep(study_id, results)
                if lead.stop.is_set():
                    return "cancelled"
                if self._stopping.is_set():
                    return "running"
            first += len(rows)
        self._studies.ended_at(study_id)
        return "done"

    def _rounds(self, study_id: str, spec: StudySpec) -> Iterator[Rows]:
        """The cases of a study that run together, each kept before it runs; what is on record stands before what would be drawn today."""
        first, ids = 0, [f.id for f in outcomes_of(spec)]
        for rows in rounds(spec, lambda numbers: [flat(f, ids) for f in self._studies.figures(study_id, numbers)]):
            self._studies.add(study_id, first, rows)
            kept = self._studies.rows(study_id, spec, first)[: len(rows)]
            yield kept
            if not np.array_equal(kept, rows):
                return  # it was begun by a version that asked for other cases
            first += len(rows)
