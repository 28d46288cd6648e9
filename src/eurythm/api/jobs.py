"""Studies as jobs: one thread leads each, cases run on the pool, every lot of results is committed at once."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Mapping

from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.study.plan import run_order
from eurythm.study.runner import CaseResult, Closed, Job, Runner
from eurythm.study.same import run_all

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 6
"""So often a case is begun, over restarts of the server, before it counts as failed."""


class StudyJobs:
    """Starts, follows, cancels and resumes studies."""

    def __init__(self, projects: Projects, studies: Studies, runner: Runner) -> None:
        self._projects, self._studies, self._runner = projects, studies, runner
        self._cancelled: set[str] = set()
        self._threads: dict[str, threading.Thread] = {}
        self._one_at_a_time = threading.Lock()
        self._stopping = threading.Event()
        self._asked = object()

    def start(self, study_id: str) -> None:
        """Run a study's waiting cases in the background."""
        self._cancelled.discard(study_id)
        thread = threading.Thread(target=self._lead, args=(study_id,), name=f"study-{study_id}", daemon=True)
        self._threads[study_id] = thread
        thread.start()

    def resume(self) -> list[str]:
        """Go on with what was under way when the server stopped."""
        unfinished = self._studies.unfinished()
        for study_id in unfinished:
            self.start(study_id)
        return unfinished

    def cancel(self, study_id: str) -> None:
        """Stop a study after the lots that are running; its results stay."""
        self._cancelled.add(study_id)

    def wait(self, study_id: str) -> None:
        """Wait until a study has ended."""
        thread = self._threads.get(study_id)
        if thread is not None:
            thread.join()

    def trial(self) -> Callable[[], bool]:
        """Begin to find out how long a study would take; return what says whether that may go on: no study runs, none was asked about since."""
        self._asked = mine = object()  # one step: whoever asks at once is told apart
        return lambda: mine is self._asked and not any(t.is_alive() for t in list(self._threads.values()))

    def stop(self) -> None:
        """Let go of everything that runs; it is resumed at the next start."""
        self._stopping.set()

    def _lead(self, study_id: str) -> None:
        with self._one_at_a_time:
            if self._stopping.is_set():
                return
            started = time.perf_counter()
            try:
                status = self._run(study_id)
            except Closed:
                return  # with the server; it is resumed at the next start
            except Exception:
                log.exception("study %s stopped", study_id)
                status = "broken"
            if not self._stopping.is_set():
                self._studies.mark(study_id, status, time.perf_counter() - started)

    def _run(self, study_id: str) -> str:
        state = self._studies.state(study_id)
        self._studies.mark(study_id, "running")
        files: Mapping[str, str] = self._projects.files(state.project_id)
        job = Job(state.spec, state.inputs(), files, study_id)
        spent = self._studies.spent(study_id, MOST_ATTEMPTS)
        if spent:
            never = f"It was begun {MOST_ATTEMPTS} times and never came back."
            self._studies.keep(study_id, [CaseResult(n, "failed", None, never, 0.0) for n in spent])
        waiting = self._studies.waiting(study_id)
        order = [n for n in run_order(state.spec) if n in waiting]
        lots = run_all(self._runner, job, order, lambda numbers: self._studies.starting(study_id, numbers))
        for results in lots:
            self._studies.keep(study_id, results)
            if study_id in self._cancelled:
                return "cancelled"
            if self._stopping.is_set():
                return "running"
        return "done"
