"""What one façade, or one zone, does differently from its scheme: the lever makes the entry that says so, where there is none yet."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from pydantic import BaseModel

from eurythm.brief.edits import opened
from eurythm.brief.resolve import Shelf
from eurythm.geometry.building import Building
from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.ids import fresh_id
from eurythm.model.remark import Stage
from eurythm.model.scheme import FaceOverride, ZoneUse
from eurythm.model.study import LeverSpec
from eurythm.simulate import building_of
from eurythm.study.levers.base import CaseInputs, Offer
from eurythm.study.levers.fields import choices_of, label_of, steps_of

MOST_OFFERED = 60
"""Of more zones (or sides of volumes) than these none is offered by name; their levers are there all the same."""


class _Different:
    """A field of an entry in a list of the scheme; its path is what the entry is for, and the field: ``bar/*/e1/glazing_ratio``."""

    kind: str
    rank = 5
    part: str
    """The document that holds the list."""
    entries: str
    names: str
    """The field of an entry that says what it is for."""
    model: type[BaseModel]
    fields: tuple[str, ...]
    stage: Stage

    def _things(self, building: Building, inputs: CaseInputs) -> dict[str, str]:
        """What there can be an entry for, with its name."""
        raise NotImplementedError

    def _of(self, spec: LeverSpec) -> tuple[str, str]:
        thing, _, field = (spec.path or "").rpartition("/")
        if not thing or field not in self.fields:
            raise EurythmError("no-such-path", f"“{spec.path}” names nothing that {self.kind}s do differently.", f"levers/{self.kind}")
        return thing, field

    def sets(self, spec: LeverSpec) -> str:
        thing, field = self._of(spec)
        return f"scheme/{self.part}/{self.entries}/{thing.replace('/', ' ')}/{field}"

    def offers(self, inputs: CaseInputs) -> list[Offer]:
        try:
            building = building_of(inputs.place, inputs.scheme)
        except EurythmError:
            return []  # what has no form yet has neither façades nor zones
        things = self._things(building, inputs)
        if len(things) > MOST_OFFERED:
            return []
        return [offer for thing, name in things.items() for offer in self._offered(thing, name, inputs)]

    def _offered(self, thing: str, name: str, inputs: CaseInputs) -> Iterator[Offer]:
        shelf = Shelf(inputs.library)
        for field in self.fields:
            note = notes(self.model, field)
            choices = choices_of(self.part, self.model, field, shelf)
            steps = [c["id"] for c in choices[:3]] if choices else steps_of(self.model, field, None, note)
            yield Offer(
                self.kind,
                f"{thing}/{field}",
                f"{note['title']}, {name}",
                note.get("unit", ""),
                self.stage,
                steps,
                choices,
                bool(note.get("share")),
                common=False,
            )

    def title(self, spec: LeverSpec, inputs: CaseInputs) -> str:
        thing, field = self._of(spec)
        name = self._things(building_of(inputs.place, inputs.scheme), inputs).get(thing, thing)
        return f"{notes(self.model, field)['title']}, {name}"

    def unit(self, spec: LeverSpec) -> str:
        return str(notes(self.model, self._of(spec)[1]).get("unit", ""))

    def label(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> str:
        return label_of(notes(self.model, self._of(spec)[1]), step, inputs.library)

    def current(self, spec: LeverSpec, inputs: CaseInputs) -> Any:
        thing, field = self._of(spec)
        return next((getattr(entry, field) for entry in self._entries(inputs) if getattr(entry, self.names) == thing), None)

    def _entries(self, inputs: CaseInputs) -> Sequence[Any]:
        found: Sequence[Any] = getattr(getattr(inputs.scheme, self.part), self.entries)
        return found

    def apply(self, spec: LeverSpec, step: Any, inputs: CaseInputs) -> CaseInputs:
        thing, field = self._of(spec)
        self._refuse_unknown(thing, inputs)
        entries = [opened(entry) for entry in self._entries(inputs)]
        mine = next((entry for entry in entries if entry[self.names] == thing), None)
        if mine is None:
            mine = {"id": fresh_id(self.kind, {entry["id"] for entry in entries}), self.names: thing}
            entries.append(mine)
        mine[field] = step
        holder = opened(getattr(inputs.scheme, self.part)) | {self.entries: entries}
        return inputs.with_scheme(opened(inputs.scheme) | {self.part: holder})

    def _refuse_unknown(self, thing: str, inputs: CaseInputs) -> None:
        """Raise EurythmError ``no-such-path`` where the scheme has nothing of that name; levers of form may make it, so only its own is looked at."""
        raise NotImplementedError


class FacadeLever(_Different):
    """What one side of a volume does differently, on all its storeys (``bar/*/e1``) or on one."""

    kind, part, entries, names, model, stage = "facade", "skin", "overrides", "face", FaceOverride, "skin"
    fields = ("glazing_ratio", "glazing", "window_width_m", "module_m", "sill_m", "head_m", "overhang_m", "fin_m", "louvre_m")

    def _things(self, building: Building, inputs: CaseInputs) -> dict[str, str]:
        volumes = {v.id: v.name for v in inputs.scheme.volumes}
        sides: dict[tuple[str, str], list[str]] = {}
        for face in building.faces:
            volume, _, edge = face.edge.partition("/")
            edge = edge.rpartition("/")[2]
            if volume in volumes and face.kind == "wall" and face.boundary == "outdoors":
                keys = sides.setdefault((volume, face.orientation(inputs.place.north_deg)), [])
                if (key := f"{volume}/*/{edge}") not in keys:
                    keys.append(key)
        return {
            key: f"{volumes[volume]}, {side}" + (f" {k + 1}" if len(keys) > 1 else "")
            for (volume, side), keys in sides.items()
            for k, key in enumerate(keys)
        }

    def _refuse_unknown(self, thing: str, inputs: CaseInputs) -> None:
        volume = thing.partition("/")[0]
        if thing.count("/") != 2 or all(v.id != volume for v in inputs.scheme.volumes):
            raise EurythmError("no-such-path", f"The scheme has no façade “{thing}”.", f"levers/{self.kind}/{thing}")


class ZoneLever(_Different):
    """What one zone does differently, or all whose id matches a pattern."""

    kind, part, entries, names, model, stage = "zone", "use", "zones", "zone", ZoneUse, "use"
    fields = ("profile", "openable_share", "lights", "heating_most_w_m2", "cooling_most_w_m2")

    def _things(self, building: Building, inputs: CaseInputs) -> dict[str, str]:
        return {zone.id: zone.name for zone in building.zones}

    def _refuse_unknown(self, thing: str, inputs: CaseInputs) -> None:
        ids = {*(v.id for v in inputs.scheme.volumes), *(z.id for z in inputs.scheme.zones)}
        first = thing.partition("/")[0]
        if "*" not in thing and {first, thing}.isdisjoint(ids):
            raise EurythmError("no-such-path", f"The scheme has no zone “{thing}”.", f"levers/{self.kind}/{thing}")
