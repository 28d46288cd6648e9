"""Writes what the front end is generated from: `python -m eurythm.api.describe FOLDER`.

``openapi.json`` describes the routes, ``units.json`` how each SI unit is shown in inch-pound, ``fields.json`` the fields of the documents,
``figures.json`` the figures of an outcome, ``systems.json`` the ready systems, what their parts have and kinds of modules, ``readers.json`` the files that are read.
"""

from __future__ import annotations

import json
import sys
import tempfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

from eurythm.api.app import create_app
from eurythm.assess.figures import FIGURES
from eurythm.brief.modules import KINDS
from eurythm.brief.systems import GROUPS, READY
from eurythm.exchange import readers
from eurythm.model.field import describe
from eurythm.model.project import Bundle, Project
from eurythm.model.units import IP_OF


def routes() -> dict[str, Any]:
    """Return the OpenAPI description of all routes."""
    with tempfile.TemporaryDirectory() as data:
        return create_app(Path(data)).openapi()


def write(folder: Path) -> None:
    """Write the files."""
    described = {
        "openapi": routes(),
        "units": {unit: asdict(ip) for unit, ip in IP_OF.items()},
        "fields": describe(Project, Bundle),
        "figures": [figure.as_dict() for figure in FIGURES],
        "systems": {
            "modules": [{"id": id, **asdict(kind)} for id, kind in KINDS.items()],
            "ready": [
                {"id": r.id, "name": r.name, "about": r.about, "kinds": {g: r.kind(g) for g in GROUPS}, "more": r.more} for r in READY
            ],
            "figures": {group: {str(kind): figures for kind, figures in kinds.items()} for group, (_, kinds) in GROUPS.items()},
        },
        "readers": [{"id": r.id, "name": r.name, "endings": r.endings, "brings": r.brings, "asks": r.asks} for r in readers.found()],
    }
    for name, what in described.items():
        (folder / f"{name}.json").write_text(json.dumps(what, indent=1, ensure_ascii=False), encoding="utf-8")


if __name__ == "__main__":
    write(Path(sys.argv[1]))
