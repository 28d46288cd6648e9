"""Use profiles of rooms: what a file says of them, and what the words of their names propose."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from eurythm.brief.profiles import PROFILES as SHIPPED_PROFILES
from eurythm.exchange.intake.checks import called
from eurythm.exchange.intake.received import IMPORTED, Finding, Received, ReceivedSpace
from eurythm.model.library import Profile
from eurythm.model.reading import dump, read_document
from eurythm.model.schedule import Schedule

PROFILES = {
    "library": "library", "reading": "library", "meeting": "meeting", "conference": "meeting", "single office": "office-cell", "cell": "office-cell",
    "office": "office", "lecture": "lecture-hall", "auditori": "lecture-hall", "teach": "classroom", "class": "classroom", "seminar": "classroom",
    "school": "classroom", "hotel": "hotel-room", "guest room": "hotel-room", "ward": "ward", "patient": "ward", "dwell": "dwelling",
    "living": "dwelling", "bed": "dwelling", "residen": "dwelling", "workshop": "workshop", "laborator": "laboratory", "shop": "shop", "retail": "shop",
    "restaurant": "restaurant", "dining": "restaurant", "canteen": "restaurant", "kitchen": "kitchen", "sport": "sports-hall", "gymnas": "sports-hall",
    "parking": "car-park", "garage": "car-park", "car park": "car-park", "corridor": "corridor", "stair": "corridor", "lobby": "corridor",
    "circulation": "corridor", "storage": "store", "archive": "store", "stores": "store", "store room": "store",
}  # fmt: skip
"""Words in a room's use, and the shipped profile that they propose."""


class Uses:
    """The profiles of a file's rooms; `own_profile` is the scheme's."""

    def __init__(self, given: Received, own_profile: str, findings: list[Finding]) -> None:
        self._given, self._own, self._findings = given, own_profile, findings
        self._unknown: dict[str, list[ReceivedSpace]] = {}
        self._made: dict[str, dict[str, Any]] = {}

    def of(self, room: ReceivedSpace) -> str | None:
        """Return the profile of a room, None where it is used as the scheme is."""
        code = room.properties.get("TypeCode")
        if code in {p.id for p in SHIPPED_PROFILES}:
            return str(code)
        read = self._given.extra.zone_use.get(room.id, {}).get("profile")
        if read is not None:
            return str(read)
        words = f"{room.use} {room.name}".casefold()
        profile = next((profile for word, profile in PROFILES.items() if word in words), None)
        if profile is None and room.use:
            self._unknown.setdefault(room.use, []).append(room)
        return profile if room.person_area is None else self._peopled(profile, room.person_area)

    def _peopled(self, profile: str | None, person_area: float) -> str | None:
        """A profile with the floor area per person that the file states; of the scheme's own where the use is not known."""
        usual = next((p for p in SHIPPED_PROFILES if p.id == (profile or self._own)), None)
        if usual is None or abs(usual.person_area - person_area) < 0.05 or not 0.2 <= person_area <= 10000:
            return profile
        name = f"{usual.id}-{person_area:.1f}m2"
        entry = {"id": name, "name": f"{usual.name}, {person_area:.1f} m² a person", "person_area": person_area}
        self._made[name] = dump(usual) | entry | {"source": f"People {IMPORTED}; the rest as “{usual.name}”"}
        return name

    def tell(self) -> None:
        """Say which uses are none that a profile is known for; one sentence a use."""
        for use, rooms in self._unknown.items():
            who = f"“{called(rooms[0])}” is" if len(rooms) == 1 else f"{len(rooms)} rooms are"
            sentence = f"No use profile is known for “{use}”; {who} used as the scheme is."
            self._findings.append(Finding(code="use-not-known", object=rooms[0].id, sentence=sentence))

    def profiles(self, used: set[str | None]) -> tuple[Profile, ...]:
        """Return those profiles in use that are the file's own, or made from shipped ones."""
        return tuple(read_document(Profile, p) for p in (*self._given.extra.profiles, *self._made.values()) if p["id"] in used)

    def of_zones(self, rooms: Sequence[ReceivedSpace], ids: Mapping[str, str]) -> list[dict[str, Any]]:
        """Return what the file says of single rooms' temperatures and air, but for what their profile says itself."""
        entries = []
        shipped = {p.id: p for p in SHIPPED_PROFILES}
        for room in rooms:
            read = {k: v for k, v in self._given.extra.zone_use.get(room.id, {}).items() if k != "profile"}
            own = shipped.get(str(room.properties.get("TypeCode")))
            if own is not None:
                for name, usual in (
                    ("heating_c", {own.heating_c, own.heating_setback_c}),
                    ("cooling_c", {own.cooling_c, own.cooling_setback_c}),
                ):
                    if name in read and {round(v, 2) for v in read_document(Schedule, read[name]).values} <= usual:
                        del read[name]
            if read:
                entries.append({"id": f"read-{ids[room.id]}"[:64], "zone": ids[room.id], **read})
        return entries
