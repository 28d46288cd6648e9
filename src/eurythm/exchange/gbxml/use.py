"""What spaces of a gbXML file say about people, light, equipment, air and temperatures."""

from __future__ import annotations

from typing import Any

from eurythm.brief.profiles import PROFILES
from eurythm.exchange.gbxml import units
from eurythm.exchange.gbxml.document import Document, first_of, tag_of, text_of
from eurythm.exchange.gbxml.schedules import read_schedule
from eurythm.exchange.intake.received import IMPORTED, Finding
from eurythm.model.reading import dump

PROFILE_OF = {p.id: p for p in PROFILES}
LATENT_J_G = 2430.0


class Uses:
    """The use of spaces as profiles, and as what single zones have of their own, both by id."""

    def __init__(self, document: Document, findings: list[Finding]) -> None:
        self.profiles: dict[str, dict[str, Any]] = {}
        self.of_zones: dict[str, dict[str, Any]] = {}
        self._document, self._findings = document, findings

    def common_leak(self, spaces: int) -> float | None:
        """Take the air changes out of the zones' use, and return them where all so many spaces have the same."""
        leaks = {u.pop("infiltration_ach") for u in self.of_zones.values() if "infiltration_ach" in u}
        return leaks.pop() if len(leaks) == 1 and len(self.of_zones) == spaces else None

    def take(self, space: Any) -> None:
        """Take up what a space says, as a profile and a use of its zone."""
        profiles = self.profiles
        mine: dict[str, Any] = {}
        people, light, equipment = (first_of(space, t) for t in ("PeopleNumber", "LightPowerPerArea", "EquipPowerPerArea"))
        values: dict[str, Any] = {}
        area = first_of(space, "Area")
        if people is not None and self._document.number(people) > 0:
            unit, count = people.get("unit", ""), self._document.number(people)
            per = {"SquareMPerPerson": 1.0, "SquareFtPerPerson": units.FOOT**2}.get(unit)
            if per is not None:
                values["person_area"] = count * per
            elif area is not None and self._document.number(area) > 0:
                values["person_area"] = self._document.size(area, "areaUnit") / count
        for gain in (e for e in space if tag_of(e) == "PeopleHeatGain"):
            watts = self._document.number(gain) * units.factor(units.PERSON_POWER, gain.get("unit"), "PeopleHeatGain")
            if gain.get("heatGainType") == "Sensible":
                values["person_w"] = watts
            elif gain.get("heatGainType") == "Latent":
                values["person_moisture_g_h"] = watts * 3600.0 / LATENT_J_G
        for element, name in ((light, "lighting_w_m2"), (equipment, "equipment_w_m2")):
            if element is not None:
                values[name] = self._document.number(element) * units.factor(units.POWER_AREA, element.get("unit"), tag_of(element))
        zone = self._document.by_id.get(space.get("zoneIdRef"))
        if zone is not None:
            for tag, name, table in (
                ("OAFlowPerPerson", "fresh_air_ls_person", units.FLOW),
                ("OAFlowPerArea", "fresh_air_ls_m2", units.FLOW_AREA),
            ):
                element = first_of(zone, tag)
                if element is not None:
                    values[name] = self._document.number(element) * units.factor(table, element.get("unit"), tag)
            for attribute, name in (("heatSchedIdRef", "heating_c"), ("coolSchedIdRef", "cooling_c")):
                course = read_schedule(self._document, zone.get(attribute), lambda v: round(self._document.celsius(v), 4))
                if course is not None:
                    mine[name] = course
        schedules = {}
        for attribute, name in (
            ("peopleScheduleIdRef", "occupancy"),
            ("lightScheduleIdRef", "lighting"),
            ("equipmentScheduleIdRef", "equipment"),
        ):
            course = read_schedule(self._document, space.get(attribute))
            if course is not None:
                schedules[name] = course
        told = {"person_area", "lighting_w_m2", "equipment_w_m2"} & values.keys()
        if told or len(schedules) == 3:
            usual = PROFILE_OF.get(text_of(space, "TypeCode")) or PROFILE_OF["office"]
            if len(schedules) < 3 or len(told) < 3:
                called = text_of(space, "Name") or space.get("id", "")
                sentence = f"“{called}” does not say all of its use; what is missing is as in “{usual.name}”."
                self._findings.append(Finding(code="use-completed", object=space.get("id", ""), sentence=sentence, mended=True))
            body = {k: v for k, v in dump(usual).items() if k not in ("id", "name", "source")} | values | schedules
            known = next(
                (n for n, p in profiles.items() if {k: v for k, v in p.items() if k not in ("id", "name", "source")} == body), None
            )
            if known is None:
                known = f"use-{len(profiles) + 1}"
                profiles[known] = {
                    "id": known,
                    "name": text_of(space, "TypeCode") or space.get("spaceType") or f"Use {len(profiles) + 1}",
                    "source": IMPORTED,
                    **body,
                }
            mine["profile"] = known
        air = first_of(space, "AirChangesPerHour")
        if air is not None:
            mine["infiltration_ach"] = self._document.number(air)
        if space.get("conditionType") in ("Unconditioned", "Vented"):
            mine["conditioned"] = False
        if mine:
            self.of_zones[space.get("id", "")] = mine
