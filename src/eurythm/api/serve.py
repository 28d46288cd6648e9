"""Starting the server."""

from __future__ import annotations

import ctypes
import io
import logging
import signal
import socket
import sys
from pathlib import Path
from typing import Any

import uvicorn

from eurythm.api.app import create_app
from eurythm.api.door import Door
from eurythm.api.jobs import StudyJobs
from eurythm.exchange.demo import (
    COURT_FILE,
    court_received,
    demo_light_study,
    demo_map,
    demo_measures_study,
    demo_project,
    demo_sample_study,
    demo_search_study,
    demo_study,
)
from eurythm.model.reading import dump
from eurythm.model.study import StudySpec
from eurythm.store.database import open_database
from eurythm.store.drawings import Drawings
from eurythm.store.imports import Imports
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.study.cluster import Cluster
from eurythm.study.plan import case
from eurythm.study.pool import Pool
from eurythm.study.runner import Runner, load

DEMO_ID = "merrowhaven"
ARENAS = -8
"""M_ARENA_MAX of malloc.h."""


class _Telling(uvicorn.Server):
    """Says when it serves."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            port = self.servers[0].sockets[0].getsockname()[1]
            print(f"Eurythm is ready at http://{self.config.host}:{port}", flush=True)


def _two_arenas() -> None:
    """Let glibc keep two arenas of memory. With one for each thread, what was freed of hourly series stays with the process
    (1.9 GB after 36 edits of the demo's schemes, 1.5 GB so). Other C libraries are left as they are."""
    try:
        ctypes.CDLL("libc.so.6").mallopt(ARENAS, 2)
    except (OSError, AttributeError):
        return


def serve(door: Door, demo: bool, cluster: str = "") -> None:
    """Serve until stopped; this process gets ready while its workers do. Studies run over a cluster where its address is given."""
    logging.basicConfig(level=logging.WARNING)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))  # uvicorn hands the signal on once it has ended: leave in order
    _two_arenas()
    pool = Pool()
    load()
    pool.warm()
    if demo:
        put_demo(door.data, pool)
    wide = Cluster(cluster) if cluster else None
    app = create_app(door.data, pool, {door.host, *door.names}, door.access, wide)
    config = uvicorn.Config(app, host=door.host, log_level="warning", timeout_graceful_shutdown=2)
    _Telling(config).run([door.socket])  # the application closes the pool


def put_demo(data: Path, runner: Runner) -> None:
    """Put the demo project, its finished studies and some pinned cases into an empty place; leave an existing one alone."""
    database = open_database(data)
    projects, studies = Projects(database), Studies(database)
    if any(p["id"] == DEMO_ID for p in projects.listed()):
        return
    print("Working out the demo's studies (once)", flush=True)
    project = demo_project()
    state = projects.create(project, project_id=DEMO_ID)
    digest, _, drawing = demo_map()
    Drawings(database).keep(DEMO_ID, digest, drawing)
    body, received = court_received()
    imports = Imports(database, data / "imports")
    read = imports.create(DEMO_ID, COURT_FILE, io.BytesIO(body), {}, None)
    imports.end(read.id, "read", received)
    imports.accepted(DEMO_ID, read.id, "court", dump(project.scheme("court")))
    jobs = StudyJobs(projects, studies, runner)

    def done(spec: StudySpec) -> tuple[str, list[tuple[int, dict[str, Any]]]]:
        study = studies.create(DEMO_ID, state.revision, project, spec)
        jobs.start(study.id)
        jobs.wait(study.id)
        return study.id, [(c.number, c.figures) for c in studies.cases(study.id) if c.figures is not None]

    for asked in (demo_sample_study(), demo_measures_study(), demo_search_study()):
        done(asked)
    by_light = demo_light_study()
    light, cases = done(by_light)
    by_hand = next(n for n, _ in cases if case(by_light, n).steps[:3] == (0.45, "double-lowe", "none"))  # the reference but for its lights
    studies.pin(DEMO_ID, light, by_hand, None)
    glass, cases = done(demo_study())
    least = min(cases, key=lambda c: c[1]["totals"]["eui_kwh_per_m2"])
    coolest = min(cases, key=lambda c: c[1]["peaks"]["cooling_w"])
    for number, _ in (least, coolest):
        studies.pin(DEMO_ID, glass, number, None)
    studies.pin(DEMO_ID, None, None, "terraces")
