"""Drawings to trace over, kept with their project."""

from __future__ import annotations

from sqlalchemy import select

from eurythm.exchange.drawing import Drawing
from eurythm.model.errors import NotFound
from eurythm.store.database import Database, pack, unpack
from eurythm.store.tables import DrawingRow


class Drawings:
    """All drawings of a database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def keep(self, project_id: str, digest: str, drawing: Drawing) -> None:
        """Keep a drawing; one that is there already stays."""
        with self._database.write() as session:
            if session.get(DrawingRow, (project_id, digest)) is None:
                session.add(
                    DrawingRow(project_id=project_id, digest=digest, name=drawing.name, drawn=pack(drawing.model_dump(mode="json")))
                )

    def drawing(self, project_id: str, digest: str) -> Drawing:
        """Return a drawing. Raises NotFound."""
        with self._database.read() as session:
            row = session.get(DrawingRow, (project_id, digest))
        if row is None:
            raise NotFound("no-such-drawing", "There is no such drawing in this project.", f"drawings/{digest}")
        return Drawing.model_validate(unpack(row.drawn))

    def all_of(self, project_id: str) -> dict[str, Drawing]:
        """Return all drawings of a project by digest."""
        with self._database.read() as session:
            rows = session.scalars(select(DrawingRow).where(DrawingRow.project_id == project_id)).all()
        return {row.digest: Drawing.model_validate(unpack(row.drawn)) for row in rows}
