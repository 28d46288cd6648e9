"""Plain boxes and made-up weather that tests share."""

from __future__ import annotations

import os
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from eurythm.climate.epw import FIELDS
from eurythm.climate.standin import standin_year
from eurythm.climate.year import HOURS, ClimateYear, Location
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import Run, run

# here every run tries other examples; where a landing hangs on it, the same ones each time, however slow the machine is that day
settings.register_profile("own", deadline=None)  # a machine that halts for a second is no fault of what is tested
settings.register_profile("same", settings.get_profile("own"), derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("same" if os.environ.get("CI") else "own")


def make_scheme(**parts: Any) -> Scheme:
    """A scheme without the assumed surcharge of thermal bridges, so that tests can reckon by hand."""
    skin = {"thermal_bridges": {"surcharge_w_m2k": 0}} | parts.pop("skin", {})
    return read_document(Scheme, {"id": "t", "name": "Test", "skin": skin, **parts})


def volume(
    id: str = "v1", kind: str = "rectangle", storeys: int = 1, height: float = 3.5, zoning: str = "one", **more: Any
) -> dict[str, Any]:
    sizes = {"length": 20, "depth": 12} if kind == "rectangle" else {"length": 36, "depth": 30}
    form = {"kind": kind, **sizes, **more.pop("form", {})}
    levels = [{"id": f"s{i}", "height_m": height} for i in range(storeys)]
    return {"id": id, "form": form, "storeys": levels, "zoning": {"kind": zoning}, **more}


def steady_year(air_c: float = 0.0, wind: float = 3.0) -> ClimateYear:
    """A dark year at one temperature, the sky as warm as the air."""
    records = {column.name: np.zeros(HOURS) for column in FIELDS}
    records["dry_bulb_c"] = np.full(HOURS, air_c)
    records["wind_speed_m_s"] = np.full(HOURS, wind)
    records["pressure_pa"] = np.full(HOURS, 101325.0)
    records["relative_humidity_pct"] = np.full(HOURS, 50.0)
    records["horizontal_infrared_w_m2"] = np.full(HOURS, 5.670374e-8 * (air_c + 273.15) ** 4)
    location = Location("Nowhere", "-", "-", "test", "0", 50.0, 0.0, 0.0, 0.0)
    return ClimateYear(f"steady-{air_c}-{wind}", location, records, 0)


def run_scheme(
    scheme: Scheme, climate: ClimateYear | None = None, substeps: int = 1, place: Place | None = None, library: Library | None = None
) -> Run:
    return run(place or Place(), library or Library(), scheme, Factors(), climate or standin_year("merrowhaven"), substeps)


@pytest.fixture(scope="session")
def merrowhaven() -> ClimateYear:
    return standin_year("merrowhaven")
