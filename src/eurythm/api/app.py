"""The application: routes first, then unknown API paths, then assets, then the page for any other path."""

from __future__ import annotations

import asyncio
import logging
import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from sqlalchemy.exc import DBAPIError

from eurythm import __version__
from eurythm.api.access import Access
from eurythm.api.case_tables import CaseTables
from eurythm.api.guard import HEADS, Guard
from eurythm.api.importing import ImportJobs
from eurythm.api.jobs import StudyJobs
from eurythm.api.office import Office, belonging
from eurythm.api.routes import (
    daylight,
    drawings,
    files,
    findings,
    imports,
    library,
    projects,
    report,
    reshaping,
    results,
    site,
    skin,
    studies,
    sun,
    use,
    why,
)
from eurythm.api.uploads import Bounded
from eurythm.api.views import project_state
from eurythm.explain.ranking import Hands, InTurn
from eurythm.model.errors import EurythmError, NotFound, StaleRevision
from eurythm.model.project import stage_at
from eurythm.model.reading import path_in, what_is_wrong
from eurythm.store.database import open_database
from eurythm.store.drawings import Drawings
from eurythm.store.imports import Imports
from eurythm.store.own_library import OwnLibrary
from eurythm.store.projects import Projects
from eurythm.store.studies import Studies
from eurythm.store.trouble import trouble
from eurythm.study.pool import Pool
from eurythm.study.runner import InProcess, Runner

log = logging.getLogger(__name__)
PACKED = Path(__file__).resolve().parents[1] / "page"
WEB = PACKED if PACKED.is_dir() else Path(__file__).resolve().parents[3] / "web" / "dist"
"""The built front end: within the package where it was installed as one, else of the repository."""
HOSTS = {"127.0.0.1", "localhost", "[::1]", "testserver"}


def create_app(
    data: Path, runner: Runner | None = None, hosts: set[str] | None = None, access: Access | None = None, wide: Runner | None = None
) -> FastAPI:
    """Return the application on the database in `data`; studies that were under way go on when it starts.

    Parameters
    ----------
    hosts : names that it is called by besides this computer's own
    access : what asks for a token, where other computers are served
    wide : what studies run on, where that is not the runner that answers what is asked here
    """
    database = open_database(data)
    kept_projects, kept_studies = Projects(database), Studies(database)
    running = runner or InProcess()
    jobs = StudyJobs(kept_projects, kept_studies, wide or running)
    kept_imports = Imports(database, data / "imports")
    import_jobs = ImportJobs(kept_imports)

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        jobs.resume()
        import_jobs.resume()
        yield
        jobs.stop()
        import_jobs.stop()
        if wide is not None:
            wide.close()
        running.close()  # here, since a server that is told to end by a signal comes back from nowhere else
        database.close()

    app = FastAPI(title="Eurythm", version=__version__, lifespan=life, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    hands: Hands = running if isinstance(running, Pool) else InTurn()
    app.state.office = Office(
        kept_projects,
        kept_studies,
        CaseTables(kept_studies),
        jobs,
        kept_imports,
        import_jobs,
        Drawings(database),
        OwnLibrary(database),
        hands,
        asyncio.Semaphore(os.cpu_count() or 1),
    )
    # pressed lightly: a harder press costs more than it saves on the way to a browser
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=2)
    app.add_middleware(Bounded)
    if access is not None:
        access.guard(app)
    app.add_middleware(Guard, hosts=HOSTS | (hosts or set()))
    _tell_errors(app)
    for module in (
        projects,
        results,
        studies,
        findings,
        report,
        why,
        imports,
        files,
        drawings,
        reshaping,
        library,
        skin,
        sun,
        daylight,
        site,
        use,
    ):
        app.include_router(module.router, dependencies=[Depends(belonging)])
    _serve_pages(app)
    return app


def _tell_errors(app: FastAPI) -> None:
    @app.exception_handler(EurythmError)
    async def known(request: Request, fault: EurythmError) -> JSONResponse:
        status = 404 if isinstance(fault, NotFound) else 409 if isinstance(fault, StaleRevision) else 422
        body = fault.as_dict() | {"stage": stage_at(fault.path)}
        if isinstance(fault, StaleRevision) and "project_id" in request.path_params:
            now = request.app.state.office.projects.state(request.path_params["project_id"])
            body |= {"revision": now.revision, "state": project_state(now).model_dump(mode="json")}
        return JSONResponse(body, status)

    @app.exception_handler(RequestValidationError)
    async def malformed(_: Request, fault: RequestValidationError) -> JSONResponse:
        first = fault.errors()[0]
        path = path_in({}, tuple(p for p in first["loc"] if p != "body"))
        return JSONResponse({"code": "wrong-request", "path": path, "message": f"{path or 'request'}: {what_is_wrong(first)}."}, 422)

    @app.exception_handler(DBAPIError)
    @app.exception_handler(OSError)
    async def refused(request: Request, fault: Exception) -> JSONResponse:
        told = trouble(fault)
        if told is None:
            return await unknown(request, fault)
        log.error("%s", told, exc_info=fault)
        return JSONResponse(told.as_dict() | {"path": ""}, 507 if told.code == "disk-full" else 503)

    @app.exception_handler(Exception)
    async def unknown(_: Request, fault: Exception) -> JSONResponse:
        log.error("fault of ours", exc_info=fault)
        return JSONResponse({"code": "our-fault", "path": "", "message": "A fault of ours; the server's log says more."}, 500, HEADS)


class _Lasting(StaticFiles):
    """Files whose names say what is in them: a browser that has one need never ask again."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _serve_pages(app: FastAPI) -> None:
    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "DELETE"], include_in_schema=False)
    async def no_such_route(rest: str) -> JSONResponse:
        return JSONResponse({"code": "no-such-route", "path": rest, "message": f"There is nothing at /api/{rest}."}, 404)

    if (WEB / "assets").is_dir():
        app.mount("/assets", _Lasting(directory=WEB / "assets"), name="assets")

    @app.get("/{rest:path}", include_in_schema=False)
    async def page(rest: str) -> Response:
        if not (WEB / "index.html").is_file():
            return JSONResponse({"code": "no-front-end", "path": "", "message": "The front end is not built; run bin/setup."}, 503)
        return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})
