"""What a climate gives for nothing: hours that are comfortable outdoors, and in a plain room without heating and cooling.

The room is our own: 5 by 4 by 3 m, one outside wall to the south, all else as warm as itself, used as the scheme is, its fresh air as it comes from outdoors. Comfort is
the adaptive model of ANSI/ASHRAE Standard 55 at 80% acceptance, through pythermalcomfort; beyond its range of running
means (10 to 33.5 °C) its ends are taken, which is our own assumption.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import MONTH_OF_HOUR, ClimateYear
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import run

Series = NDArray[np.float64]
RUNNING_MEAN_C = (10.0, 33.5)
AIR_M_S = 0.1
GLASS_M2 = 1.0
WAYS = (
    ("outdoors", "outdoors, in the shade"),
    ("shade", "in the room, without any sun"),
    ("sun", "in the room, with the sun through 1 m² of south glass"),
    ("night", "in the room, with the night air of the same day"),
)


@dataclass(frozen=True)
class Given:
    """One way to be comfortable: hours of each month, (12,), and of the year."""

    id: str
    name: str
    months: tuple[int, ...]

    @property
    def hours(self) -> int:
        """Hours of the year."""
        return sum(self.months)


def comfortable(operative_c: Series, running_mean_c: Series) -> NDArray[np.bool_]:
    """Say which hours lie within the adaptive band, (8760,)."""
    mean = np.clip(running_mean_c, *RUNNING_MEAN_C)
    from pythermalcomfort.models import adaptive_ashrae  # takes most of a second to import

    told = adaptive_ashrae(tdb=operative_c, tr=operative_c, t_running_mean=mean, v=np.full(len(operative_c), AIR_M_S), limit_inputs=False)
    low, high = np.asarray(told.tmp_cmf_80_low, dtype=float), np.asarray(told.tmp_cmf_80_up, dtype=float)
    out: NDArray[np.bool_] = (operative_c >= low) & (operative_c <= high)
    return out


def what_it_gives(library: Library, scheme: Scheme, climate: ClimateYear) -> list[Given]:
    """Return the hours of each month that each way gives. Raises EurythmError where the scheme's use is unsound."""
    courses = {"outdoors": climate.air_c}
    for way in ("shade", "sun", "night"):
        made = run(Place(climate=None), _with_glass(library), _room(scheme, way), Factors(), climate)
        courses[way] = made.demand.operative_c[0]
    found = []
    for way, name in WAYS:
        well = comfortable(courses[way], climate.running_mean_c)
        found.append(Given(way, name, tuple(np.bincount(MONTH_OF_HOUR, weights=well, minlength=12).astype(int).tolist())))
    return found


def _with_glass(library: Library) -> Library:
    data = dump(library)
    blind = {"id": "gives-no-sun", "name": "No sun", "u_value": 1.3, "g_value": 0.0, "visible": 0.0}
    return read_document(Library, data | {"glazings": [*data.get("glazings", []), blind]})


def _room(scheme: Scheme, way: str) -> Scheme:
    """The plain room under the scheme's use profile."""
    pane = {"x": 2.0, "z": 1.0, "width": GLASS_M2, "height": 1.0, "glazing": "double-lowe" if way == "sun" else "gives-no-sun"}
    closed = [{"id": side, "side": side, "boundary": "adiabatic"} for side in ("east", "north", "west", "roof", "floor")]
    faces: list[dict[str, Any]] = [{"id": "south", "side": "south", "windows": [pane]}, *closed]
    use: dict[str, Any] = {"profile": scheme.use.profile, "zones": [{"id": "free", "zone": "*", "conditioned": False}]}
    if way == "night":
        use["airing"] = {"openable_share": 0.5, "night_purge": True, "opens_above_c": 24.0}
    zone = {"id": "room", "name": "Room", "box": {"length": 5, "depth": 4, "height": 3}, "faces": faces}
    return read_document(
        Scheme, {"id": "gives", "name": "Room", "zones": [zone], "use": use, "plant": {"ventilation": {"heat_recovery": 0.0}}}
    )
