"""What routes work with: the store, the jobs, and the folder of the built front end."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, HTTPException, Request

from eurythm.api.case_tables import CaseTables
from eurythm.api.importing import ImportJobs
from eurythm.api.jobs import StudyJobs
from eurythm.explain.case import Case
from eurythm.explain.ranking import Hands, Ranked, Rankings, rank
from eurythm.memo import digest
from eurythm.store.drawings import Drawings
from eurythm.store.imports import Imports
from eurythm.store.own_library import OwnLibrary
from eurythm.store.projects import Projects, State
from eurythm.store.studies import Studies


@dataclass(frozen=True)
class Office:
    """The parts of a running server."""

    projects: Projects
    studies: Studies
    tables: CaseTables
    jobs: StudyJobs
    imports: Imports
    import_jobs: ImportJobs
    drawings: Drawings
    own_library: OwnLibrary
    hands: Hands
    turns: asyncio.Semaphore
    rankings: Rankings = field(default_factory=Rankings)

    @property
    def processes(self) -> int:
        """How many cases run at once."""
        return self.hands.processes

    def ranked(self, state: State, case: Case, rays: bool) -> list[Ranked]:
        """Return the register of a scheme as it stands, ranked; worked out once for the same documents."""
        documents = (case.place, case.library, case.scheme, case.factors)
        key = (state.id, digest(*(document.model_dump_json(exclude_unset=True) for document in documents)), rays)
        return self.rankings.of(key, lambda: rank(state.project, case.scheme, case.climate, rays, self.hands))


def _office(request: Request) -> Office:
    office: Office = request.app.state.office
    return office


Here = Annotated[Office, Depends(_office)]
"""The running server's parts, handed to a route."""


def belonging(request: Request, here: Here) -> None:
    """Refuse what a path names that does not belong together: an unknown project, another one's study or pin.

    Raises
    ------
    NotFound
    """
    of = request.path_params
    if "project_id" in of:
        here.projects.revision(of["project_id"])
        if "study_id" in of:
            here.studies.refuse_other(of["project_id"], of["study_id"])
        if "pin_id" in of:
            here.studies.pin_of(of["project_id"], of["pin_id"])


async def in_turn(request: Request, here: Here) -> AsyncIterator[None]:
    """Let as many computations of weight run at once as there are processors; others wait without a thread, who went away is not served, and
    workers at studies stand aside.

    Without it twenty at once held each other up, and whoever held the database with them, and took 5 GB.
    """
    async with here.turns:
        if await request.is_disconnected():
            raise HTTPException(499, "Nobody waits for this any more.")
        with here.hands.aside():
            yield


InTurn = Depends(in_turn)
"""For routes that simulate, cast or look at light."""
