"""The user's own library, common to all projects: constructions, materials, glazings and use profiles that may be taken into any of them."""

from __future__ import annotations

from typing import Any, Literal, get_args

from sqlalchemy import select

from eurythm.model.errors import NotFound
from eurythm.model.library import Library
from eurythm.model.reading import read_document
from eurythm.store.database import Database, pack, unpack
from eurythm.store.tables import KeptRow

Group = Literal["constructions", "materials", "glazings", "profiles"]


class OwnLibrary:
    """What the user keeps for all projects; a project that takes a thing has its own copy from then on."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> Library:
        """Return everything that is kept."""
        found: dict[str, list[Any]] = {group: [] for group in get_args(Group)}
        with self._database.read() as session:
            for row in session.scalars(select(KeptRow).order_by(KeptRow.entry)):
                found[row.kind].append(unpack(row.body))
        return read_document(Library, found)

    def keep(self, group: Group, item: dict[str, Any]) -> Library:
        """Keep a thing, in place of the one with its id if there is one; returns everything.

        Raises
        ------
        EurythmError
            Where the thing is not as the library's documents are.
        """
        made = getattr(read_document(Library, {group: [item]}), group)[0]
        with self._database.write() as session:
            session.merge(KeptRow(kind=group, entry=made.id, body=pack(made.model_dump(mode="json", exclude_none=True))))
        return self.all()

    def remove(self, group: Group, entry: str) -> Library:
        """Remove a thing; projects that took it keep their copy. Raises NotFound."""
        with self._database.write() as session:
            row = session.get(KeptRow, (group, entry))
            if row is None:
                raise NotFound("not-kept", f"Nothing called “{entry}” is kept among your {group}.", f"{group}/{entry}")
            session.delete(row)
        return self.all()
