"""Tables of the studies that are looked at, kept up with the cases that come in."""

from __future__ import annotations

from itertools import takewhile
from threading import Lock

from eurythm.assess.figures import flat
from eurythm.memo import Shelf
from eurythm.store.studies import Studies, StudyState
from eurythm.study.outcomes import outcomes_of
from eurythm.study.runner import remarks_of
from eurythm.study.table import FAILED, STATUS, CaseTable, lever_columns

MOST_BYTES = 100_000_000


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
                columns = [f.id for f in outcomes_of(study.spec)]
                rows = self._studies.rows(study.id, study.spec)
                table = self._tables.keep(study.id, CaseTable(lever_columns(study.spec), rows, columns))
            elif study.done + study.failed + study.waiting > len(table.status):
                table.add(self._studies.rows(study.id, study.spec, len(table.status)))
            self._catch_up(table, study.id)
        return table

    def _catch_up(self, table: CaseTable, study_id: str) -> None:
        have = len(table.status)
        news = list(takewhile(lambda came: came[1] < have, self._studies.came_after(study_id, table.last)))
        for case in self._studies.cases(study_id, [number for _, number in news]):
            if case.figures is None or case.status == STATUS[FAILED]:
                table.finish(case.number, None, case.reason)
                continue
            hours = {k: case.figures["peaks"][f"{k}_at"] for k in ("heating", "cooling")}
            table.finish(case.number, flat(case.figures, table.figures), case.reason, remarks_of(case.figures), hours)
        if news:
            table.last = news[-1][0]
