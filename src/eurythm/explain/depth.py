"""How deep: the overhang, fins or louvres that keep the sun out of a face's windows in one part of the year and let it in else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import ClimateYear
from eurythm.geometry.building import Face, Vec
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.sun.irradiation import hours_between
from eurythm.sun.profile import profile_tangent, shaded_by_fins, shaded_by_overhang, side_tangent
from eurythm.sun.radiation import sun_in_drawing

Series = NDArray[np.float64]
Kind = Literal["overhang", "fins", "louvres"]
DEEPEST_M = 4.0
STEP_M = 0.05


@dataclass(frozen=True)
class Span:
    """When sun is unwanted: days of the year and hours of the day, first to last, both within; a span of days may pass New Year."""

    first_day: int
    last_day: int
    first_hour: int
    last_hour: int

    def hours(self) -> NDArray[np.bool_]:
        """The hours of the year within the span, (8760,)."""
        return hours_between(self.first_day, self.last_day, self.first_hour, self.last_hour)


@dataclass(frozen=True)
class Depth:
    """What one depth does: shares of the beam on the windows, within the span kept out and outside of it let in, 0 to 1."""

    depth_m: float
    kept_out: float
    let_in: float


@dataclass(frozen=True)
class HowDeep:
    """Depths for one face.

    Attributes
    ----------
    depths : what each depth does
    least_m : the least depth that keeps all of the sun out within the span; None where none up to the deepest does
    proposed_m : the depth of the best sum of both shares
    unwanted_kwh_m2, wanted_kwh_m2 : beam on the bare window within the span and outside of it, a year
    angles : of every sunlit hour in front of the face: hour of the year, profile angle in degrees, whether it is in the span
    """

    kind: Kind
    depths: tuple[Depth, ...]
    least_m: float | None
    proposed_m: float
    unwanted_kwh_m2: float
    wanted_kwh_m2: float
    angles: tuple[tuple[int, float, bool], ...]


def how_deep(face: Face, place: Place, climate: ClimateYear, kind: Kind, span: Span, spacing_m: float) -> HowDeep:
    """Return what depths of a shade do for a wall's windows, the shade taken without end; neighbours and trees are left out.

    Parameters
    ----------
    face : an upright outdoor wall with windows; an overhang lies at the height of its highest head, fins stand midway
        between windows
    spacing_m : between louvres

    Raises
    ------
    EurythmError
        ``no-windows`` where the wall has none, ``no-sun`` where the sun never shines on it within the span.
    """
    if face.kind != "wall" or not face.windows:
        raise EurythmError("no-windows", "This face has no windows to shade.", face.id)
    up, directions = sun_in_drawing(place.north_deg, climate.location)
    ahead = directions @ face.normal
    front = np.flatnonzero(ahead > 1e-3)
    hours = up[front]
    beam = climate["direct_normal_wh_m2"][hours] * ahead[front]
    unwanted = span.hours()[hours]
    if not np.any(unwanted & (beam > 0)):
        raise EurythmError("no-sun", "The sun does not shine on this face between these dates and hours.", face.id)
    shaded = _shading(face, directions[front], kind, spacing_m)
    steps = np.round(np.arange(0, DEEPEST_M + STEP_M / 2, STEP_M), 3)
    depths = tuple(_depth(float(d), shaded(float(d)), beam, unwanted) for d in steps)
    whole = [d.depth_m for d in depths if d.kept_out >= 1 - 1e-6]
    best = max(depths, key=lambda d: (round(d.kept_out + d.let_in, 6), -d.depth_m))
    tangent = profile_tangent(face.normal, directions[front]) if kind != "fins" else np.abs(side_tangent(face.normal, directions[front]))
    angles = tuple((int(h), round(float(np.degrees(np.arctan(t))), 2), bool(u)) for h, t, u in zip(hours, tangent, unwanted, strict=True))
    return HowDeep(
        kind,
        depths,
        min(whole) if whole else None,
        best.depth_m,
        float(beam[unwanted].sum()) / 1000,
        float(beam[~unwanted].sum()) / 1000,
        angles,
    )


def _shading(face: Face, toward_sun: Vec, kind: Kind, spacing_m: float) -> Callable[[float], Series]:
    """How much of the windows is shaded in each hour, by depth."""
    windows, area = face.windows, face.window_area
    if kind == "louvres":
        tangent = profile_tangent(face.normal, toward_sun)
        return lambda depth: shaded_by_overhang(tangent, depth, 0.0, spacing_m)
    if kind == "overhang":
        tangent = profile_tangent(face.normal, toward_sun)
        head = max(w.z + w.height for w in windows)
        return lambda depth: sum(
            (w.area / area * shaded_by_overhang(tangent, depth, head - w.z - w.height, w.height) for w in windows), np.zeros(len(tangent))
        )
    side = side_tangent(face.normal, toward_sun)
    module = face.module or face.size[0] / len(windows)
    return lambda depth: sum(
        (w.area / area * shaded_by_fins(side, depth, max(module - w.width, 0.0) / 2, w.width) for w in windows), np.zeros(len(side))
    )


def _depth(depth: float, shaded: Series, beam: Series, unwanted: NDArray[np.bool_]) -> Depth:
    out, wanted = float(beam[unwanted].sum()), float(beam[~unwanted].sum())
    kept = float((beam * shaded)[unwanted].sum()) / out
    let = float((beam * (1 - shaded))[~unwanted].sum()) / wanted if wanted > 0 else 1.0
    return Depth(depth, min(kept, 1.0), min(let, 1.0))
