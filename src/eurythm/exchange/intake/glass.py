"""Glazings of panes and openings of which a file says something."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from eurythm.exchange.intake.received import Finding, Received, ReceivedElement
from eurythm.model.errors import EurythmError
from eurythm.model.ids import slug
from eurythm.model.library import Glazing
from eurythm.model.reading import read_document

UNSAID_U = {1: 5.6, 2: 1.3, 3: 0.8, 4: 0.6}
"""U-value of a window by its panes where only its g-value or light is given, W/m²K: our own assumption for low-emissive panes."""


class Glass:
    """The glazings that a file comes to; what cannot be one is told among the findings."""

    def __init__(self, given: Received, findings: list[Finding]) -> None:
        self.made: dict[str, Glazing] = {}
        self._given, self._findings = given, findings

    def of_pane(self, pane: ReceivedElement) -> str | None:
        """Return the name of a glazing for a pane of which the file says something; the rest of it is assumed and says so."""
        door = pane.kind == "door" and not pane.g_value
        said = {k: v for k in ("u_value", "g_value", "visible", "panes", "frame_share") if (v := getattr(pane, k)) is not None}
        if not {"u_value", "g_value", "visible"} & said.keys():
            return None
        kind = "door" if door else "window"
        marks = [f"u{pane.u_value:.2f}" if pane.u_value is not None else ""]
        marks += [f"{mark}{said[k]:.2f}" for k, mark in (("g_value", "g"), ("visible", "light"), ("frame_share", "frame")) if k in said]
        name = "-".join([kind, *(m for m in marks if m), *([f"{pane.panes}panes"] if pane.panes else [])])
        label = ", ".join(
            [
                kind.capitalize(),
                *(m for m in (f"U {pane.u_value:.2f}" if pane.u_value else "", f"g {pane.g_value:.2f}" if pane.g_value else "") if m),
            ]
        )
        opaque = {"g_value": 0.0, "visible": 0.0, "panes": 1, "frame_share": 0.0} if door else {}
        return self._added(name, label, pane.id, opaque | said, known=("g_value", "visible") if door else ())

    def stated(self, ref: str | None) -> str | None:
        """Return the name of a glazing that an opening refers to in the file."""
        found = next((g for g in self._given.glazings if g.id == ref), None)
        if found is None or (found.u_value is None and found.g_value is None and found.visible is None):
            return None
        said = {k: v for k in ("u_value", "g_value", "visible", "panes") if (v := getattr(found, k)) is not None}
        said |= self._given.extra.glazings.get(found.id, {})
        return self._added(slug(found.id) or "glazing", found.name or found.id, found.id, said)

    def _added(self, name: str, label: str, ref: str, said: Mapping[str, Any], known: Sequence[str] = ()) -> str | None:
        """Add a glazing by what is said of it; what is not said is assumed, what cannot be is left to the scheme and told.

        Parameters
        ----------
        known : values that are neither read nor assumed: those of an opaque door.
        """
        if name in self.made:
            return name
        values = {"u_value": UNSAID_U.get(int(said.get("panes", 2)), UNSAID_U[2]), "g_value": 0.6, "visible": 0.78, **said}
        words = {"u_value": "U", "g_value": "g", "visible": "light"}
        asked = [k for k in words if k not in known]
        read, assumed = ([words[k] for k in asked if (k in said) == wanted] for wanted in (True, False))
        source = f"{_listed(read)} read from the file" + (
            f"; {_listed(assumed)} as double low-emissive glass, our own assumption" if assumed else ""
        )
        try:
            self.made[name] = read_document(Glazing, {"id": name, "name": label, "source": source, **values})
        except EurythmError as fault:
            sentence = f"“{label}” is no glass that can be: {fault.message} The scheme's own stands in its place."
            self._findings.append(Finding(code="glazing-impossible", object=ref, sentence=sentence))
            return None
        return name


def _listed(words: Sequence[str]) -> str:
    return " and ".join(filter(None, [", ".join(words[:-1]), words[-1]])) if words else ""
