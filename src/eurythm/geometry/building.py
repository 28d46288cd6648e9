"""What the computation sees of a scheme's form: zones, faces with one boundary each, windows and shades."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.model.library import Element
from eurythm.model.scheme import ORIENTATIONS, Orientation

Vec = NDArray[np.float64]
Boundary = Literal["outdoors", "ground", "zone", "adiabatic", "fixed"]
Kind = Literal["wall", "floor", "ceiling"]
WALLS: dict[Boundary, Element] = {
    "outdoors": "wall", "ground": "basement_wall", "zone": "partition", "adiabatic": "party_wall", "fixed": "party_wall"
}  # fmt: skip
"""Which element a wall is, by what it meets."""


@dataclass(frozen=True)
class Window:
    """A rectangle on a face, from its lower left corner seen from outside, m. `glazing` is None for the scheme's."""

    s: float
    z: float
    width: float
    height: float
    glazing: str | None = None

    @property
    def area(self) -> float:
        """Area with frame, m²."""
        return self.width * self.height


class Louvres(NamedTuple):
    """Louvres before a face's windows: how deep and how far apart, m; crossed ones are an egg-crate, upright leaves as far apart."""

    depth: float = 0.0
    spacing: float = 0.3
    crossed: bool = False


NO_LOUVRES = Louvres()


@dataclass(frozen=True)
class Face:
    """A flat part of a zone's enclosure that meets exactly one thing.

    Attributes
    ----------
    loops : tuple of (n, 3) arrays, m; the outer loop counter-clockwise seen from outside the zone, then holes.
    normal : outward unit vector of `zone`.
    area : gross, external, windows included, m².
    zone, other : zone ids; `other` only where the boundary is a zone.
    edge : ``volume/storey/edge`` of the outline for a wall on it, else "".
    module : spacing of the window pattern along the face, m (0 where there is none).
    storey_height : floor to floor, m, for walls.
    boundary_c : temperature beyond a fixed boundary, °C.
    part, other_part : the zones as they were before merging, where one of them was merged.
    blinds : where this face's blinds are, where they are not as the scheme's.
    air : whether only air is there, which counts where the zones on both sides are merged.
    border : whether it only divides an open storey into zones, so that light passes.
    """

    id: str
    zone: str
    kind: Kind
    boundary: Boundary
    loops: tuple[Vec, ...]
    normal: Vec
    area: float
    other: str | None = None
    edge: str = ""
    construction: str | None = None
    windows: tuple[Window, ...] = ()
    module: float = 0.0
    origin: Vec = field(default_factory=lambda: np.zeros(3))
    along: Vec = field(default_factory=lambda: np.array([1.0, 0.0, 0.0]))
    size: tuple[float, float] = (0.0, 0.0)
    boundary_c: float = 10.0
    part: str = ""
    other_part: str | None = None
    louvres: Louvres = NO_LOUVRES
    blinds: str | None = None
    clad_by: str = ""
    reference: str | None = None
    air: bool = False
    border: bool = False

    @property
    def element(self) -> Element:
        """Which construction of the skin applies unless the face says otherwise."""
        if self.kind == "wall":
            return WALLS[self.boundary]
        if self.boundary in ("zone", "adiabatic", "fixed"):
            return "intermediate_floor"
        if self.kind == "ceiling":
            return "roof"
        return "ground_floor" if self.boundary == "ground" else "exposed_floor"

    @cached_property
    def window_area(self) -> float:
        """Area of all windows with frame, m²."""
        return sum(w.area for w in self.windows)

    @cached_property
    def plane(self) -> tuple[float, ...]:
        """The plane in which it lies, by its normal and its distance, as seen from its zone."""
        away = float(self.loops[0][0] @ self.normal)
        return (*(round(v, 3) for v in self.normal.tolist()), round(away, 2))

    @property
    def tilt_deg(self) -> float:
        """0 looks up, 90 is upright, 180 looks down."""
        return round(float(np.degrees(np.arccos(np.clip(self.normal[2], -1, 1)))), 6)

    def azimuth_deg(self, north_deg: float) -> float:
        """True azimuth of the outward normal, clockwise from north, 0 to 360."""
        drawn = np.degrees(np.arctan2(self.normal[0], self.normal[1]))
        return round(float(drawn + north_deg), 3) % 360.0

    def orientation(self, north_deg: float) -> Orientation:
        """Quarter of the compass: north from 315 to 45 degrees, and so on clockwise."""
        return ORIENTATIONS[int(((self.azimuth_deg(north_deg) + 45.0) % 360.0) // 90.0)]


@dataclass(frozen=True)
class Zone:
    """Air at one temperature. `plan` is None for a zone given by its faces; areas are external here, m², m³.

    Under a pitched roof `height` is that of the eaves, and the slopes reach `rise` above it, m.

    `furnished` zones hold furniture, whose heat capacity counts; a box that is given outright is bare.

    `parts` are the zones that a merged one was made of, their `gross_floor` without floor that stands open.
    """

    id: str
    name: str
    volume: str
    storey: str
    level: float
    height: float
    plan: Polygon | None
    gross_floor: float
    gross_volume: float
    profile: str | None = None
    given: bool = False
    furnished: bool = True
    parts: tuple[Zone, ...] = ()
    rise: float = 0.0

    @property
    def top(self) -> float:
        """Level of its highest point, m."""
        return self.level + self.height + self.rise


@dataclass(frozen=True)
class Shade:
    """An opaque, flat shade by its corners (n, 3), m."""

    face: str
    corners: Vec


@dataclass(frozen=True, eq=False)
class Building:
    """All zones, faces and shades of a scheme in the drawing's axes; `inner` are the faces that merging took away, with `air` where nothing stands."""

    zones: tuple[Zone, ...]
    faces: tuple[Face, ...]
    shades: tuple[Shade, ...] = ()
    footprint_m2: float = 0.0
    inner: tuple[Face, ...] = ()

    @property
    def nbytes(self) -> int:
        """What it takes in memory, more or less: a face with its loops and windows some kilobytes."""
        return 5000 * (len(self.faces) + len(self.inner)) + 1000 * (len(self.zones) + len(self.shades))

    def with_openings(self, faces: tuple[Face, ...], shades: tuple[Shade, ...]) -> Building:
        """Return the same form with windows and shades on its faces, beside the shades that stand by themselves."""
        return replace(self, faces=faces, shades=(*self.shades, *shades))
