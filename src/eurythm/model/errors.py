"""The one family of errors that a practitioner sees: a code, a sentence, and where to mend it."""

from __future__ import annotations

from typing import Any

from eurythm.model.amount import said


class EurythmError(Exception):
    """Something in the input that must be mended.

    Parameters
    ----------
    code : str
        Stable, short, kebab-case name of the fault, e.g. ``"wrong-field"``.
    message : str
        One sentence for a practitioner: what was found, where, and what to do; its amounts are marked (`model.amount`), and
        written out in SI where the error is printed.
    path : str
        Where in the document or file, e.g. ``"scheme/volumes/v1/storeys/s2/height_m"`` or ``"line 812"``.
    """

    def __init__(self, code: str, message: str, path: str = "") -> None:
        super().__init__(said(message))
        self.code = code
        self.message = message
        self.path = path

    def as_dict(self) -> dict[str, Any]:
        """Return the error as the command line and the API print it."""
        return {"code": self.code, "path": self.path, "message": self.message}


class NotFound(EurythmError):
    """A thing that is named but does not exist."""


class StaleRevision(EurythmError):
    """An edit was made on a revision that is no longer the current one."""
