"""Hourly results as CSV."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np

from eurythm.climate.statistics import hour_name
from eurythm.climate.year import HOURS
from eurythm.simulate import Run


def write_hourly(path: Path, run: Run) -> None:
    """Write every hour of a run; columns as in docs/scheme-format.md, time as the start of the hour in local standard time."""
    columns: dict[str, np.ndarray] = {
        "outdoor/air_c": run.brief.climate.air_c,
        "building/heating_w": run.demand.heating_w.sum(axis=0),
        "building/cooling_w": run.demand.cooling_w.sum(axis=0),
    }
    for name, series in run.delivered.end_use.items():
        columns[f"energy/{name}_w"] = series
    columns["generation/used_w"] = run.delivered.used
    columns["generation/exported_w"] = run.delivered.exported
    for i, zone in enumerate(run.arrays.zone_ids):
        columns[f"zone/{zone}/air_c"] = run.demand.air_c[i]
        columns[f"zone/{zone}/operative_c"] = run.demand.operative_c[i]
        columns[f"zone/{zone}/heating_w"] = run.demand.heating_w[i]
        columns[f"zone/{zone}/cooling_w"] = run.demand.cooling_w[i]
        columns[f"zone/{zone}/solar_w"] = run.arrays.solar[i]
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["time", *columns])
        table = np.column_stack(list(columns.values()))
        for hour in range(HOURS):
            writer.writerow([hour_name(hour), *(f"{v:.6g}" for v in table[hour])])
