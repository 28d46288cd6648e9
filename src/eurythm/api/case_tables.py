"""Tables of the studies that are looked at, kept up with the cases that come in."""

from __future__ import annotations

from threading import Lock
from typing import Any

from eurythm.assess.figures import Figure, figures_of
from eurythm.exchange.bundle import remarks_of
from eurythm.memo import Shelf
from eurythm.plant.delivered import END_USES
from eurythm.store.studies import Studies, StudyState
from eurythm.study.plan import sizes
from eurythm.study.table import FAILED, STATUS, WAITING, CaseTable

MOST_BYTES = 100_000_000


def compared_figures() -> tuple[Figure, ...]:
    """Return the figures that a case has."""
    return figures_of("building", "array")


def flat(figures: dict[str, Any] | None) -> dict[str, float | None]:
    """Return the figures of an outcome by their ids, and its end uses."""
    if figures is None:
        return {}
    found: dict[str, float | None] = {f.id: f.known(figures) for f in compared_figures()}
    return found | {f"energy_{use}_kwh": kwh for use, kwh in figures["totals"]["energy_kwh"].items()}


class CaseTables:
    """Tables by study; each case is read from the database once, when it has come in."""

    def __init__(self, studies: Studies) -> None:
        self._studies = studies
        self._tables: Shelf[str, CaseTable] = Shelf(MOST_BYTES)
        self._lock = Lock()

    def of(self, study: StudyState) -> CaseTable:
        """Return the table of a study, with all that is committed now."""
        with self._lock:
            table = self._tables.find(study.id)
            if table is None:
                columns = [*(f.id for f in compared_figures()), *(f"energy_{use}_kwh" for use in END_USES)]
                table = self._tables.keep(study.id, CaseTable(sizes(study.spec), columns))
            self._catch_up(table, study.id)
        return table

    def _catch_up(self, table: CaseTable, study_id: str) -> None:
        if not (table.status == WAITING).any():
            return
        news = []
        for number, status, attempts in self._studies.attempts(study_id):
            table.attempts[number] = attempts
            if status != STATUS[WAITING] and table.status[number] == WAITING:
                news.append(number)
        for case in self._studies.cases(study_id, news):
            if case.figures is None or case.status == STATUS[FAILED]:
                table.finish(case.number, None, case.reason)
                continue
            hours = {k: case.figures["peaks"][f"{k}_at"] for k in ("heating", "cooling")}
            table.finish(case.number, flat(case.figures), case.reason, remarks_of(case.figures), hours)
