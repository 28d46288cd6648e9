"""Reshaping volumes and rooms: to a free outline, mirrored, repeated beside, cut in two, joined; one step of undo each."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, Literal

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry import LineString, Polygon
from shapely.geometry.polygon import orient
from shapely.ops import split

from eurythm.brief.edits import Edit, Put, Remove, Set, Together
from eurythm.geometry.building import Building
from eurythm.geometry.clean import GRID, areal, polygons_of
from eurythm.geometry.loops import STRAIGHT, straightened
from eurythm.geometry.outline import PlacedOutline, form_outline, rotation, turning_point
from eurythm.geometry.polygons import loops_of
from eurythm.geometry.roofs import Cover, eaves_of, refitted, slopes_of
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.field import Described
from eurythm.model.ids import Id, fresh_id
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.model.shape import Volume

LEAST_M2 = 0.5
LOWEST_EAVES_M = 0.3
"""Least height of a top storey at its eaves, m."""
NEAR_M = 1e-3
"""How near to a corner a cut goes through it, m."""
GAP_M = 0.3
"""How far apart two volumes may stand and still be joined, m."""
Corner = tuple[float, float]


class ToOutline(Described):
    """Turn a volume's form into a free outline with the same edges."""

    op: Literal["to_outline"] = "to_outline"
    volume: Id


class Mirror(Described):
    """Mirror a volume about the middle of its outline, left to right or front to back in the drawing."""

    op: Literal["mirror"] = "mirror"
    volume: Id
    axis: Literal["x", "y"] = "x"


class Beside(Described):
    """Repeat a volume beside itself, so that the copies touch it."""

    op: Literal["beside"] = "beside"
    volume: Id
    side: Literal["east", "north", "west", "south"] = "east"
    count: Annotated[int, Field(ge=1, le=50)] = 1


class CutVolume(Described):
    """Cut a volume in two along a line through the drawing."""

    op: Literal["cut"] = "cut"
    volume: Id
    a: Corner
    b: Corner


class Join(Described):
    """Join a volume with another one that has the same storeys and touches it."""

    op: Literal["join"] = "join"
    volume: Id
    other: Id


Reshape = Annotated[ToOutline | Mirror | Beside | CutVolume | Join, Field(discriminator="op")]


def reshape(scheme: Scheme, wish: Reshape) -> Edit:
    """Return the edit that reshapes a volume of a scheme; names of edges stay where edges stay.

    Raises
    ------
    EurythmError
        ``no-such-volume``, ``cut-misses``, ``cut-sliver``, ``joined-apart``, ``joined-unlike`` or ``roof-parts``.
    """
    volume = _volume(scheme, wish.volume)
    if isinstance(wish, ToOutline):
        return _put(scheme, [_free(volume, _placed(volume))])
    if isinstance(wish, Mirror):
        return _put(scheme, [_mirrored(volume, wish.axis)])
    if isinstance(wish, Beside):
        return _put(scheme, _copies(scheme, volume, wish))
    if isinstance(wish, CutVolume):
        return _put(scheme, _cut(scheme, volume, wish))
    other = _volume(scheme, wish.other)
    made = _put(scheme, [_joined(volume, other)])
    return Together(edits=(*made.edits, Remove(path=f"schemes/{scheme.id}/volumes/{other.id}")))


def _volume(scheme: Scheme, name: str) -> Volume:
    found = next((v for v in scheme.volumes if v.id == name), None)
    if found is None:
        raise NotFound("no-such-volume", f"There is no volume “{name}”.", f"schemes/{scheme.id}/volumes/{name}")
    return found


def _put(scheme: Scheme, volumes: Iterable[dict[str, Any]]) -> Together:
    puts = tuple(Put(path=f"schemes/{scheme.id}/volumes", item=v) for v in volumes)
    return Together(edits=(*_kept_in_place(scheme), *puts))


def _kept_in_place(scheme: Scheme) -> tuple[Set, ...]:
    """While the scheme is turned, what is not reshaped stays where it stands though the middle of the footprint moves."""
    if scheme.turn_deg == 0 or scheme.turned_about is not None:
        return ()
    x, y = turning_point(scheme).tolist()
    return (Set(path=f"schemes/{scheme.id}/turned_about", value={"x": round(x, 4), "y": round(y, 4)}),)


def _placed(volume: Volume) -> PlacedOutline:
    return PlacedOutline(form_outline(volume, f"volumes/{volume.id}"), rotation(volume.turn_deg), np.array([volume.x, volume.y]))


def _free(volume: Volume, placed: PlacedOutline) -> dict[str, Any]:
    """A volume as a free outline in the drawing's axes, from its lower left corner, with the edges that it had."""
    outline = placed.placed
    return _with_rings(volume, [list(zip(names, ring, strict=True)) for names, ring in zip(outline.edges, outline.rings, strict=True)])


def _with_rings(volume: Volume, rings: list[list[tuple[str, Any]]]) -> dict[str, Any]:
    points = np.array([p for ring in rings for _, p in ring], dtype=float)
    x, y = np.round(points.min(axis=0), 6)
    made = [[{"id": n, "x": round(float(p[0] - x), 6), "y": round(float(p[1] - y), 6)} for n, p in ring] for ring in rings]
    form: dict[str, Any] = {"kind": "polygon", "points": made[0]}
    if made[1:]:
        form["courts"] = made[1:]
    data = dump(volume) | {"form": form, "x": float(x), "y": float(y)}
    data.pop("turn_deg", None)
    if volume.roof.kind != "flat":  # which edge is the longest may not be the same one any more
        eaves = eaves_of(volume.roof, form_outline(volume), f"volumes/{volume.id}")
        data["roof"] = {**data["roof"], "eaves": eaves if any(p["id"] == eaves for p in made[0]) else None}
    return data


def _cover(volume: Volume) -> Cover:
    outline = _placed(volume).placed
    slopes = slopes_of(volume.roof, outline, f"volumes/{volume.id}")
    return Cover(outline.polygon, slopes, volume.base_level_m + sum(s.height_m for s in volume.storeys))


def _under(before: tuple[Volume, ...], data: dict[str, Any], refusal: str) -> dict[str, Any]:
    """What is left of volumes, under the roofs that lay there before: its eaves, and the height of its top storey, follow."""
    volume = before[0]
    pitched = next((v.roof for v in before if v.roof.kind != "flat"), None)
    if pitched is None:
        return data
    found = refitted(_placed(read_document(Volume, data)).placed, pitched, [_cover(v) for v in before])
    below = volume.base_level_m + sum(s.height_m for s in volume.storeys[:-1])
    if found is None or found[1] - below <= LOWEST_EAVES_M:
        raise EurythmError("roof-parts", refusal, f"volumes/{volume.id}/roof")
    roof, eaves = found
    top = round(eaves - below, 4)
    storeys = list(data["storeys"])
    if abs(top - volume.storeys[-1].height_m) > 1e-3:
        storeys[-1] = {**storeys[-1], "height_m": top}
    return data | {"roof": dump(roof), "storeys": storeys}


def _mirrored(volume: Volume, axis: str) -> dict[str, Any]:
    outline = _placed(volume).placed
    k = 0 if axis == "x" else 1
    low, high = outline.polygon.bounds[k], outline.polygon.bounds[k + 2]
    rings = []
    for names, ring in zip(outline.edges, outline.rings, strict=True):
        turned = ring.copy()
        turned[:, k] = low + high - turned[:, k]
        # an edge runs the other way now, so it starts where it ended
        rings.append(list(zip([*names[-2::-1], names[-1]], turned[::-1], strict=True)))
    return _with_rings(volume, rings)


def _copies(scheme: Scheme, volume: Volume, wish: Beside) -> list[dict[str, Any]]:
    outline = _placed(volume).placed.polygon
    x0, y0, x1, y1 = outline.bounds
    step = {"east": (x1 - x0, 0.0), "west": (x0 - x1, 0.0), "north": (0.0, y1 - y0), "south": (0.0, y0 - y1)}[wish.side]
    taken = {v.id for v in scheme.volumes} | {z.id for z in scheme.zones}
    made = []
    for k in range(1, wish.count + 1):
        name = fresh_id(f"{volume.id[:56]}-{k + 1}", taken)
        taken.add(name)
        moved = {
            "id": name,
            "name": f"{volume.name or volume.id} {k + 1}",
            "x": round(volume.x + k * step[0], 6),
            "y": round(volume.y + k * step[1], 6),
        }
        made.append(dump(volume) | moved)
    return made


def _cut(scheme: Scheme, volume: Volume, wish: CutVolume) -> list[dict[str, Any]]:
    outline = _placed(volume).placed
    called = volume.name or volume.id
    refusal = f"No roof of ours keeps that of “{called}” on both pieces; cut square to its eaves, or along its ridge, or make it flat."
    a, b = np.array(wish.a), np.array(wish.b)
    long = float(np.hypot(*(b - a)))
    if long < 0.01:
        raise EurythmError("cut-misses", "The two ends of the cut lie in one place.", f"volumes/{volume.id}")
    way = (b - a) / long * 2 * (outline.polygon.length + long)
    corners = shapely.MultiPoint(np.concatenate([np.asarray(ring) for ring in outline.rings]))
    line = shapely.snap(LineString([a - way, b + way]), corners, NEAR_M)
    pieces = [p for p in split(outline.polygon, line).geoms if isinstance(p, Polygon) and p.area > 1e-6]
    if len(pieces) < 2:
        raise EurythmError("cut-misses", f"The cut does not divide “{volume.name or volume.id}”.", f"volumes/{volume.id}")
    if min(p.area for p in pieces) < LEAST_M2:
        raise EurythmError("cut-sliver", f"The cut would leave a piece of less than {amount(LEAST_M2, 'm²')}.", f"volumes/{volume.id}")
    pieces.sort(key=lambda p: -p.area)
    taken = {v.id for v in scheme.volumes} | {z.id for z in scheme.zones}
    made = []
    for k, piece in enumerate(pieces):
        data = _under((volume,), _with_rings(volume, _named(piece, outline.rings, outline.edges, STRAIGHT)), refusal)
        if k > 0:
            data["id"] = fresh_id(f"{volume.id[:56]}-part", taken)
            taken.add(data["id"])
            data["name"] = f"{volume.name or volume.id}, part {k + 1}"
        made.append(data)
    return made


def _named(polygon: Polygon, rings: Iterable[Any], edges: Iterable[tuple[str, ...]], off_line: float = 1e-3) -> list[list[tuple[str, Any]]]:
    """A polygon's corners, each with the name of the old edge that its side lies on, else with a new one."""
    known = [(n, ring[k], ring[(k + 1) % len(ring)]) for ring, names in zip(rings, edges, strict=True) for k, n in enumerate(names)]
    used: set[str] = set()
    made = []
    turned = orient(straightened(shapely.set_precision(polygon, GRID), off_line))
    for ring in (turned.exterior, *turned.interiors):
        points = np.asarray(ring.coords)[:-1]
        named = []
        for k, p in enumerate(points):
            q = points[(k + 1) % len(points)]
            name = next((n for n, a, b in known if n not in used and _within(p, q, a, b)), None)
            name = name or fresh_id("cut", used | {n for n, _, _ in known})
            used.add(name)
            named.append((name, p))
        made.append(named)
    return made


def _within(p: Any, q: Any, a: Any, b: Any) -> bool:
    """Whether a side lies on an edge and runs the same way."""
    long = float(np.hypot(*(b - a)))
    along = (b - a) / long
    off = [abs(float((r - a)[0] * along[1] - (r - a)[1] * along[0])) for r in (p, q)]
    return max(off) < 1e-4 and float((q - p) @ along) > 0 and float((p - a) @ along) > -1e-4 and float((q - a) @ along) < long + 1e-4


def _joined(volume: Volume, other: Volume) -> dict[str, Any]:
    pitched = any(v.roof.kind != "flat" for v in (volume, other))
    # under slopes the top storeys may differ at their eaves; the roof over both decides
    mine, theirs = ([s.height_m for s in (v.storeys[:-1] if pitched else v.storeys)] for v in (volume, other))
    unlike = mine != theirs or len(volume.storeys) != len(other.storeys)
    if unlike or abs(volume.base_level_m - other.base_level_m) > 1e-3:
        raise EurythmError("joined-unlike", "Only volumes with the same storeys on the same level can be joined.", f"volumes/{other.id}")
    outlines = [_placed(volume).placed, _placed(other).placed]
    whole = shapely.union_all([o.polygon.buffer(GAP_M / 2, join_style="mitre") for o in outlines]).buffer(-GAP_M / 2, join_style="mitre")
    parts = areal(shapely.union_all([whole, *(o.polygon for o in outlines)])).geoms
    if len(parts) != 1:
        raise EurythmError("joined-apart", "The two volumes do not touch, so they cannot be joined.", f"volumes/{other.id}")
    (clean,) = polygons_of(parts[0])
    rings = [r for o in outlines for r in o.rings]
    taken = set(outlines[0].edges[0])
    names: list[tuple[str, ...]] = list(outlines[0].edges)
    for ring in outlines[1].edges:
        fresh = []
        for n in ring:
            fresh.append(fresh_id(n, taken))
            taken.add(fresh[-1])
        names.append(tuple(fresh))
    called = [v.name or v.id for v in (volume, other)]
    refusal = f"The roofs of “{called[0]}” and “{called[1]}” do not go on into each other; make both flat, or pitch them alike."
    return _under((volume, other), _with_rings(volume, _named(clean, rings, names)), refusal)


def alone(building: Building, scheme: Scheme, zone_id: str, new_id: str, name: str) -> Scheme:
    """Return one zone of a scheme as a scheme of its own: what it shared with other zones is adiabatic there.

    Raises
    ------
    NotFound
        Where the scheme has no such zone.
    """
    zone = next((z for z in building.zones if z.id == zone_id), None)
    if zone is None:
        raise NotFound("no-such-zone", f"There is no zone “{zone_id}”.", f"zones/{zone_id}")
    faces: list[dict[str, Any]] = []
    for face in building.faces:
        if zone_id not in (face.zone, face.other):
            continue
        for loop in loops_of(face):
            corners = loop if face.zone == zone_id else loop[::-1]
            side: dict[str, Any] = {"id": f"f{len(faces) + 1}", "corners": np.round(corners, 6).tolist()}
            side["boundary"] = "adiabatic" if face.other is not None else face.boundary
            if face.boundary == "fixed":
                side["boundary_c"] = face.boundary_c
            if face.construction:
                side["construction"] = face.construction
            if face.windows and face.other is None:
                side["windows"] = [
                    {"id": f"w{k + 1}", "x": round(w.s, 6), "z": round(w.z, 6), "width": w.width, "height": w.height} | ({"glazing": w.glazing} if w.glazing else {})
                    for k, w in enumerate(face.windows)
                ]  # fmt: skip
            faces.append(side)
    shades = [{"id": f"shade-{k + 1}", "corners": s.corners.tolist()} for k, s in enumerate(building.shades)]
    data = dump(scheme)
    for part in (
        "volumes",
        "zones",
        "merged",
        "air_paths",
        "turn_deg",
        "turned_about",
        "contact_gap_m",
        "left_out",
        "shades",
        "underlays",
        "imported_from",
        "aims",
    ):
        data.pop(part, None)
    use = data.get("use", {})
    if use.get("zones"):
        data["use"] = {**use, "zones": [{**z, "zone": new_zone(zone_id)} if z["zone"] == zone_id else z for z in use["zones"]]}
    room = {"id": new_zone(zone_id), "name": zone.name, "faces": faces} | ({"profile": zone.profile} if zone.profile else {})
    return read_document(Scheme, data | {"id": new_id, "name": name, "zones": [room]} | ({"shades": shades} if shades else {}))


def new_zone(zone_id: str) -> str:
    """A zone's id without the slashes that only zones of volumes have."""
    return zone_id.replace("/", "-")[:64]
