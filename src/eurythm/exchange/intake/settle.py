"""Settling a sifted file into zones: rooms with their openings and constructions, ready to be a scheme."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from eurythm.exchange.intake.checks import Checked, called, check, levels_of, proposed_name
from eurythm.exchange.intake.fabric import Fabric
from eurythm.exchange.intake.glass import Glass
from eurythm.exchange.intake.masses import masses_to_volumes
from eurythm.exchange.intake.openings import PANES, Laid, Layout, room_side
from eurythm.exchange.intake.received import Finding, Kind, Received, ReceivedElement, ReceivedFace, ReceivedSpace
from eurythm.exchange.intake.sift import Basis, Sift, Verdict, mended, verdicts
from eurythm.exchange.intake.unroomed import rooms_from_outline, rooms_from_walls
from eurythm.exchange.intake.uses import Uses
from eurythm.geometry.building import Building, Face
from eurythm.geometry.form import make_building
from eurythm.geometry.given import Given, bystander, given_zone
from eurythm.geometry.merging import hanging_together
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.ids import fresh_id, slug
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme, Use
from eurythm.model.shape import GivenZone, LeftOut

SLABS: frozenset[Kind] = frozenset({"slab", "roof", "covering"})
MOST_NAMED = 5
LEAST_COVERED = 0.25
"""Share of a window that a room's face must cover for it to lie there."""


@dataclass
class Settled:
    """What a file comes to: documents' parts, the decision about every object, and everything to be said about it."""

    scheme: Scheme
    library: Library
    place: dict[str, Any]
    building: Building
    ids: dict[str, str]
    verdicts: dict[str, Verdict]
    findings: list[Finding]
    received: Received
    basis: Basis
    north_deg: float = 0.0
    """True azimuth of the drawing's y axis: the file's, the project's where it has none."""
    file_north_counts: bool = False
    """Whether it counts for the project as well, where that has another one."""
    taken: list[str] = field(default_factory=list)
    assumed: list[str] = field(default_factory=list)


def settle(received: Received, sift: Sift, scheme: Mapping[str, Any], place: Place, known: Mapping[str, str] | None = None) -> Settled:
    """Turn what a file holds into a scheme.

    Parameters
    ----------
    scheme : what the scheme is to be beside its rooms: id, name, and whatever else is given.
    place : of the project; its ground level decides what lies in the ground.
    known : zone ids by reference in the file, of an earlier import, which stay.

    Raises
    ------
    EurythmError
        ``nothing-to-settle`` where the file holds nothing that zones can be made of.
    """
    given = mended(received, sift)
    basis = sift.basis or ("spaces" if given.spaces else "walls" if any(e.kind == "wall" for e in given.elements) else "outline")
    findings = list(received.findings)
    if basis != "spaces":
        made = rooms_from_walls(given) if basis == "walls" else rooms_from_outline(given)
        given = given.model_copy(update={"spaces": made})
        what = "walls and slabs" if basis == "walls" else "the outline of each storey"
        findings.append(
            Finding(code="made-from-" + basis, object="", sentence=f"Zones were made from {what}: {len(made)} of them.", mended=True)
        )
    first = verdicts(given, sift, {})
    checked = check(given, {name for name, v in first.items() if v.keep})
    decided = verdicts(given, sift, checked.leave_out)
    findings += [f for f in checked.findings if f.object not in decided or decided[f.object].keep or f.object in checked.leave_out]
    rooms = [s for s in given.spaces if decided[s.id].keep and s.faces]
    if not rooms:
        raise EurythmError(
            "nothing-to-settle",
            f"“{received.file}” holds no room that an energy model could be made of; see what was left out.",
            received.file,
        )
    elements = [e for e in given.elements if decided[e.id].keep and e.points]
    own_profile = str(scheme.get("use", {}).get("profile", Use().profile))
    return _Settling(given, sift, rooms, elements, checked, findings, decided, basis, own_profile).settled(scheme, place, known or {})


NO_PLAN = ("doubled", "without form", "overlaps")
"""Why a room is left out that has no place of its own."""


def _bystanders(given: Received, decided: Mapping[str, Verdict]) -> list[ReceivedSpace]:
    """Rooms that are left out, but whose place is taken: neither zone nor outdoors."""
    left = [s for s in given.spaces if not decided[s.id].keep and s.faces and s.kind == "room" and not s.external]
    return [s for s in left if not decided[s.id].reason.startswith(NO_PLAN)]


class _Settling:
    """One settling: rooms to zones, then openings and constructions onto their faces."""

    def __init__(
        self, given: Received, sift: Sift, rooms: list[ReceivedSpace], elements: list[ReceivedElement], checked: Checked,
        findings: list[Finding], decided: dict[str, Verdict], basis: Basis, own_profile: str,
    ) -> None:  # fmt: skip
        self.given, self.sift, self.rooms, self.elements = given, sift, rooms, elements
        self.checked, self.findings, self.decided, self.basis = checked, findings, decided, basis
        self.bystanders = _bystanders(given, decided)
        self.ids: dict[str, str] = {}
        self.uses = Uses(given, own_profile, findings)
        self.glass, self.fabric = Glass(given, findings), Fabric(given)
        self.panes = {e.id: e for e in given.elements if e.kind in PANES}
        self.sides: dict[str, dict[str, dict[str, Any]]] = {}

    def settled(self, scheme: Mapping[str, Any], place: Place, known: Mapping[str, str]) -> Settled:
        self._name(known)
        masses = [r for r in self.rooms if r.kind == "mass"]
        volumes, cut = masses_to_volumes(masses, self.ids)
        self.findings += cut.findings
        zones = [self._zone(room) for room in self.rooms if room.kind != "mass" or room.id not in cut.taken]
        zones += cut.rooms
        self.uses.tell()
        zones, laid = self._sound(zones)
        left_out = self._left_out()
        beside = [bystander(read_document(LeftOut, room), 0.0, np.zeros(2)) for room in left_out]
        faces = [f for g in (*laid, *beside) for f in (*g.loose, *g.stated)]
        layout = Layout(faces, self.sift.gap_m + 0.05)
        self._open(layout, faces)
        self._clad(layout, faces)
        for zone in zones:
            if "outline" in zone or "faces" in zone:
                zone["faces"] = self._faces(zone)
        where = self._where(place)
        ground = float(where.get("ground_level_m", place.ground_level_m))
        gap = self.sift.gap_m if not masses else 0.0
        document = self._with_extras({**scheme, "zones": zones, "contact_gap_m": gap} | ({"left_out": left_out} if left_out else {}))
        if volumes:
            document["volumes"] = [*document.get("volumes", []), *volumes]
        made = read_document(Scheme, document)
        building = make_building(made, ground)
        profiles = self.uses.profiles({zone.profile for zone in made.zones})
        library = Library(constructions=self.fabric.made(building), glazings=tuple(self.glass.made.values()), profiles=profiles)
        self.findings += self.fabric.without_values(self.elements)
        self._near_misses(building)
        return Settled(
            made,
            library,
            where,
            building,
            self.ids,
            self.decided,
            self.findings,
            self.given,
            self.basis,
            float(where.get("north_deg", place.north_deg)),
            self.sift.north == "file",
            self._taken(where),
            self._assumed(where),
        )

    def _sound(self, zones: list[dict[str, Any]]) -> tuple[list[dict[str, Any]], list[Given]]:
        """Those zones that have a possible form; one that has none is left out and told, the others stay."""
        kept, laid = [], []
        by_id = {name: ref for ref, name in self.ids.items()}
        for zone in zones:
            try:
                laid.append(given_zone(read_document(GivenZone, zone), 0.0, np.zeros(2)))
            except EurythmError as fault:
                ref = by_id.get(zone["id"], zone["id"])
                self.findings.append(Finding(code=fault.code, object=ref, sentence=f"{fault.message} It is left out."))
                self.decided[ref] = Verdict(False, "impossible form")
                continue
            kept.append(zone)
        return kept, laid

    def _name(self, known: Mapping[str, str]) -> None:
        """Give every space an id of its own: the one that it had, else from its number or name."""
        used = set(known.values())
        for space in self.given.spaces:
            wanted = known.get(space.id)
            if wanted is None:
                base = slug(space.number) or slug(space.name) or "room"
                wanted, k = base, 2
                while wanted in used:
                    wanted, k = f"{base[:58]}-{k}", k + 1
            used.add(wanted)
            self.ids[space.id] = wanted

    def _zone(self, room: ReceivedSpace) -> dict[str, Any]:
        storeys = {s.id: s.name for s in self.given.storeys}
        name = self.ids[room.id]
        zone: dict[str, Any] = {
            "id": name, "name": room.name or proposed_name(room), "number": room.number, "use": room.use, "source": room.id,
            "storey": storeys.get(self.checked.storeys.get(room.id, room.storey or ""), ""), "profile": self.uses.of(room),
        }  # fmt: skip
        zone = {k: v for k, v in zone.items() if v not in ("", None)} | ({"by_ratio": True} if room.kind == "mass" else {})
        stated = any(f.boundary or f.holes or f.construction for f in room.faces)
        if room.rings and not stated:
            zone["outline"] = _outline(room)
        else:
            faces: list[dict[str, Any]] = []
            beside = {s.id for s in (*self.rooms, *self.bystanders)}
            for f in room.faces:
                side = _side_of(f, len(faces))
                if f.boundary == "zone" and f.other in beside:
                    side |= {"boundary": "zone", "other": self.ids[f.other]} | ({"open": True} if f.open else {})
                elif f.boundary not in (None, "zone"):
                    side["boundary"] = f.boundary
                if f.construction:
                    side["construction"] = self.fabric.named(f.construction, reversed_=False)
                faces.append(side)
            zone["faces"] = faces
            if room.floor_area_m2 > 0:
                zone["floor_area_m2"] = room.floor_area_m2
            if room.volume_m3 > 0:
                zone["air_volume_m3"] = room.volume_m3
            self._stated_holes(room, zone)
        return zone

    def _left_out(self) -> list[dict[str, Any]]:
        """Rooms that stay as a plan for contact, told in one sentence."""
        made, by_rule = [], []
        for room in self.bystanders:
            form = {"outline": _outline(room)} if room.rings else {"faces": [_side_of(f, k) for k, f in enumerate(room.faces)]}
            entry = {"id": self.ids[room.id], "name": called(room), "why": self.decided[room.id].reason, **form}
            try:
                bystander(read_document(LeftOut, entry), 0.0, np.zeros(2))
            except EurythmError:
                continue
            made.append(entry)
            if room.id not in self.checked.leave_out:  # what the checks leave out, they tell
                by_rule.append(room)
        if by_rule:
            names = ", ".join(f"“{called(r)}”" for r in by_rule[:MOST_NAMED]) + (", …" if len(by_rule) > MOST_NAMED else "")
            what = "A room that is left out keeps its" if len(by_rule) == 1 else f"{len(by_rule)} rooms that are left out keep their"
            sentence = f"{what} place: walls and slabs towards {names} are neither outside nor lose heat."
            self.findings.append(Finding(code="left-out-beside", object=by_rule[0].id, sentence=sentence, mended=True))
        return made

    def _with_extras(self, document: dict[str, Any]) -> dict[str, Any]:
        """Add what only some formats have: shades that stand by themselves, temperatures and air of single rooms."""
        extra = self.given.extra
        if extra.shades:
            document["shades"] = [{"id": f"shade-{k + 1}", **shade.model_dump(mode="json")} for k, shade in enumerate(extra.shades)]
        if extra.infiltration_ach is not None:
            document["use"] = {"infiltration_ach": extra.infiltration_ach, **document.get("use", {})}
        document |= self._open_to_each_other()
        if entries := self.uses.of_zones(self.rooms, self.ids):
            use = document.get("use", {})
            document["use"] = {**use, "zones": [*use.get("zones", []), *entries]}
        return document

    def _open_to_each_other(self) -> dict[str, Any]:
        """Groups of rooms that only air parts: each is one zone, as the file's own zone where it holds just these."""
        kept = [r.id for r in self.rooms]
        pairs = [(a, b) for a, b in self.given.extra.open if a in kept and b in kept]
        if not pairs:
            return {}
        zone_of = self.given.extra.zones
        groups: list[dict[str, Any]] = []
        for rooms in (m for m in hanging_together(kept, pairs) if len(m) > 1):
            group = [self.ids[r] for r in rooms]
            own = {tuple(zone_of[r]) for r in rooms if r in zone_of}
            whole = len(own) == 1 and {r for r in kept if zone_of.get(r) and tuple(zone_of[r]) in own} == set(rooms)
            name = next(iter(own))[1] if whole else ", ".join(group)
            groups.append({"id": fresh_id(f"open-{group[0]}"[:60], self.ids.values()), "name": name[:120], "zones": group})
            if whole:
                continue
            sentence = f"The rooms {', '.join(group)} are parted by air only in the file; they are one zone."
            self.findings.append(Finding(code="open-to-each-other", object=group[0], sentence=sentence, mended=True))
        return {"merged": groups}

    def _side(self, face: Face) -> dict[str, Any]:
        """What is noted about a face so far."""
        name = face.id.rpartition("/")[2]
        return self.sides.setdefault(face.zone, {}).setdefault(name, {})

    def _faces(self, zone: dict[str, Any]) -> list[dict[str, Any]]:
        noted = self.sides.get(zone["id"], {})
        if "outline" in zone:
            return [{"id": name, "side": name, **side} for name, side in noted.items() if side]
        return [{**face, **noted.get(face["id"], {})} for face in zone["faces"]]

    def _stated_holes(self, room: ReceivedSpace, zone: dict[str, Any]) -> None:
        """Openings that the file itself places on a face."""
        if not any(f.holes for f in room.faces):
            return
        bare = given_zone(read_document(GivenZone, {**zone, "floor_area_m2": None, "air_volume_m3": None}), 0.0, np.zeros(2))
        by_id = {f.id.rpartition("/")[2]: f for f in (*bare.loose, *bare.stated)}
        for side, received in zip(zone["faces"], room.faces, strict=True):
            face = by_id[side["id"]]
            for hole in received.holes:
                points = np.asarray(hole.loop, dtype=float) - face.origin
                flat = np.column_stack([points @ face.along, points @ np.cross(face.normal, face.along)])
                area = 0.5 * abs(float(np.sum(flat[:, 0] * np.roll(flat[:, 1], -1) - np.roll(flat[:, 0], -1) * flat[:, 1])))
                (s0, t0), (s1, t1) = flat.min(axis=0), flat.max(axis=0)
                shrink = np.sqrt(area / max((s1 - s0) * (t1 - t0), 1e-9))  # a hole that is no rectangle keeps its area and its middle
                wide, high = (s1 - s0) * shrink, (t1 - t0) * shrink
                bounds = ((s0 + s1 - wide) / 2, (t0 + t1 - high) / 2, (s0 + s1 + wide) / 2, (t0 + t1 + high) / 2)
                kind = "door" if hole.kind == "door" else "window"
                pane = self.panes.get(hole.id)
                glazing = self.glass.stated(hole.glazing) or (self.glass.of_pane(pane) if pane is not None else None)
                self._put(face, hole.id, hole.name or hole.id, kind, bounds, glazing)

    def _open(self, layout: Layout, faces: list[Face]) -> None:
        """Put windows, outside doors and curtain walls onto the room that they belong to; those of rooms that are left out go with them."""
        left_out = {self.ids[room.id] for room in self.bystanders}
        for pane in [e for e in self.elements if e.kind in PANES]:
            best, both = room_side([laid for laid in layout.under(pane) if laid.face.boundary == "outdoors"])
            if best is None:
                if pane.kind == "window" or (pane.kind != "door" and pane.external):
                    self.findings.append(
                        Finding(
                            code="window-without-wall", object=pane.id, sentence=f"“{called(pane)}” lies at no room's face; it is left out."
                        )
                    )
                continue
            if both or best.face.zone in left_out:
                continue
            if best.shared < LEAST_COVERED * _size(best):
                if pane.kind != "door":
                    sentence = f"“{called(pane)}” lies mostly beside the faces of rooms; it is left out."
                    self.findings.append(Finding(code="window-without-wall", object=pane.id, sentence=sentence))
                continue
            self._put(best.face, pane.id, called(pane), "door" if pane.kind == "door" else "window", best.bounds, self.glass.of_pane(pane))

    def _put(self, face: Face, ref: str, name: str, kind: str, bounds: tuple[float, ...], glazing: str | None) -> None:
        s0, t0, s1, t1 = bounds
        x0, z0, x1, z1 = max(s0, 0.0), max(t0, 0.0), min(s1, face.size[0]), min(t1, face.size[1])
        if x1 - x0 < 0.02 or z1 - z0 < 0.02:
            sentence = f"“{name}” lies beside its wall, or is no wider than a crack; it is left out."
            self.findings.append(Finding(code="window-without-wall", object=ref, sentence=sentence))
            return
        if (x1 - x0) * (z1 - z0) < 0.98 * (s1 - s0) * (t1 - t0):
            self.findings.append(
                Finding(code="window-cut", object=ref, sentence=f"“{name}” reaches beyond the room's face; it was cut to it.", mended=True)
            )
        windows = self._side(face).setdefault("windows", [])
        for other in windows:
            wide = min(x1, other["x"] + other["width"]) - max(x0, other["x"])
            high = min(z1, other["z"] + other["height"]) - max(z0, other["z"])
            if wide > 0 and high > 0 and wide * high > 0.5 * (x1 - x0) * (z1 - z0):
                return
        window = {
            "id": f"w{len(windows) + 1}",
            "x": round(x0, 4),
            "z": round(z0, 4),
            "width": round(x1 - x0, 4),
            "height": round(z1 - z0, 4),
        }
        windows.append(window | ({"kind": "door"} if kind == "door" else {}) | ({"glazing": glazing} if glazing else {}))

    def _clad(self, layout: Layout, faces: list[Face]) -> None:
        """Give each face the construction of the wall or slab that covers most of it."""
        best: dict[str, tuple[float, Laid]] = {}
        left_out = {self.ids[room.id] for room in self.bystanders}
        for element in self.elements:
            if element.construction is None or element.kind in PANES:
                continue
            for laid in layout.under(element):
                if laid.face.zone in left_out or (laid.face.kind == "wall") != (element.kind not in SLABS):
                    continue
                weight = laid.shared * (1.0 if abs(laid.near) < 0.1 else 0.3)
                if weight > best.get(laid.face.id, (0.0, laid))[0]:
                    best[laid.face.id] = (weight, laid)
        for _, laid in best.values():
            element = laid.element
            assert element.construction is not None
            follows = element.inward is not None and float(np.dot(element.inward, laid.face.normal)) > 0.5
            name = self.fabric.named(element.construction, follows and element.external is not False)
            if name is not None:
                self._side(laid.face).setdefault("construction", name)

    def _where(self, place: Place) -> dict[str, Any]:
        """What the file says about the place."""
        found: dict[str, Any] = {}
        if self.given.true_north_deg is not None:
            found["north_deg"] = self.given.true_north_deg
        if self.given.latitude_deg is not None and self.given.longitude_deg is not None:
            found |= {"latitude_deg": self.given.latitude_deg, "longitude_deg": self.given.longitude_deg}
        lowest = min(levels_of(room)[0] for room in self.rooms)
        if lowest > place.ground_level_m + max(1.0, 2 * self.sift.gap_m):
            found["ground_level_m"] = round(lowest, 3)
            sentence = f"The lowest room lies at {amount(lowest, 'm', 2)}; ground level was taken to be there."
            self.findings.append(Finding(code="ground-assumed", object="", sentence=sentence, mended=True))
        return found

    def _near_misses(self, building: Building) -> None:
        """Ceilings that miss the room above by little more than the gap: likely a void over a hung ceiling."""
        floors = [z for z in building.zones if z.plan is not None]
        for face in building.faces:
            if face.kind != "ceiling" or face.boundary != "outdoors" or face.area < 2.0:
                continue
            top = float(face.loops[0][:, 2].max())
            for zone in floors:
                away = zone.level - top
                if self.sift.gap_m < away < 2.0 and zone.plan is not None and zone.plan.intersection(_flat(face)).area > 0.5 * face.area:
                    sentence = (
                        f"The ceiling of “{face.zone}” lies {amount(away, 'm', 2)} below “{zone.id}”, more than the gap that contact bridges "
                        f"({amount(self.sift.gap_m, 'm')}); it counts as roof."
                    )
                    self.findings.append(Finding(code="gap-too-wide", object=face.zone, sentence=sentence))
                    break

    def _taken(self, where: Mapping[str, Any]) -> list[str]:
        said = [f"{len(self.rooms)} rooms with names, numbers and storeys"]
        windows = sum(len(side.get("windows", ())) for sides in self.sides.values() for side in sides.values())
        said += [f"{windows} windows and outside doors"] if windows else []
        said += [f"{len(self.fabric.names)} constructions"] if self.fabric.names else []
        said += [f"{len(self.glass.made)} window types"] if self.glass.made else []
        said += ["true north"] if "north_deg" in where else []
        said += ["latitude and longitude"] if "latitude_deg" in where else []
        return said

    def _assumed(self, where: Mapping[str, Any]) -> list[str]:
        said = [] if self.fabric.names else ["constructions"]
        said += [] if self.glass.made else ["window types"]
        said += [] if "north_deg" in where else ["true north"]
        return [*said, "use profiles by the rooms' uses", "plant", "schedules"]


def _outline(room: ReceivedSpace) -> dict[str, Any]:
    """An upright room's outline, its edges numbered through all rings."""
    count, rings = 0, []
    for ring in room.rings:
        rings.append([{"id": f"e{count + k + 1}", "x": x, "y": y} for k, (x, y) in enumerate(ring)])
        count += len(ring)
    return {"points": rings[0], "z": room.level, "height": room.height} | ({"courts": rings[1:]} if rings[1:] else {})


def _side_of(face: ReceivedFace, before: int) -> dict[str, Any]:
    return {"id": slug(face.id) or f"f{before + 1}", "corners": [list(c) for c in face.loop]}


def _size(laid: Laid) -> float:
    s0, t0, s1, t1 = laid.bounds
    return max((s1 - s0) * (t1 - t0), 1e-9)


def _flat(face: Face) -> Any:
    from shapely.geometry import Polygon

    return Polygon(face.loops[0][:, :2]).buffer(0)
