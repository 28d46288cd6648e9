"""Reading weather files in the EPW format: all fields, missing codes, header."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.air import dew_point_c, saturation_pa, sky_infrared, standard_pressure_pa
from eurythm.climate.sunpath import split_global
from eurythm.climate.year import HOURS, MONTH_DAYS, ClimateYear, Location
from eurythm.model.errors import EurythmError
from eurythm.model.remark import Remark

Series = NDArray[np.float64]
MAX_BYTES = 8_000_000
LONGEST_GAP_H = 6


@dataclass(frozen=True)
class Column:
    """A column of an EPW record: its name, the code from which on a value is missing, and the range it may have."""

    name: str
    missing: float | None = None
    low: float = -np.inf
    high: float = np.inf


FIELDS: tuple[Column, ...] = (
    Column("dry_bulb_c", 99.9, -100, 80),
    Column("dew_point_c", 99.9, -110, 80),
    Column("relative_humidity_pct", 999, 0, 110),
    Column("pressure_pa", 999999, 31000, 120000),
    Column("extraterrestrial_horizontal_wh_m2", 9999, 0, 2000),
    Column("extraterrestrial_normal_wh_m2", 9999, 0, 2000),
    Column("horizontal_infrared_w_m2", 9999, 0, 1000),
    Column("global_horizontal_wh_m2", 9999, 0, 1600),
    Column("direct_normal_wh_m2", 9999, 0, 1400),
    Column("diffuse_horizontal_wh_m2", 9999, 0, 1200),
    Column("global_illuminance_lx", 999900, 0, 999900),
    Column("direct_illuminance_lx", 999900, 0, 999900),
    Column("diffuse_illuminance_lx", 999900, 0, 999900),
    Column("zenith_luminance_cd_m2", 9999, 0, 99999),
    Column("wind_direction_deg", 999, 0, 360),
    Column("wind_speed_m_s", 999, 0, 120),
    Column("total_sky_cover_tenths", 99, 0, 10),
    Column("opaque_sky_cover_tenths", 99, 0, 10),
    Column("visibility_km", 9999),
    Column("ceiling_height_m", 99999),
    Column("present_weather_observation"),
    Column("present_weather_codes"),
    Column("precipitable_water_mm", 999),
    Column("aerosol_optical_depth", 0.999),
    Column("snow_depth_cm", 999),
    Column("days_since_snow", 99),
    Column("albedo", 999),
    Column("liquid_precipitation_mm", 999),
    Column("liquid_precipitation_hours_h", 99),
)
"""The data columns after year, month, day, hour, minute and the uncertainty flags."""

NEEDED = 16  # up to wind speed; later columns may be absent in older files
WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
HEADS = ("LOCATION", "DESIGN CONDITIONS", "TYPICAL/EXTREME PERIODS", "GROUND TEMPERATURES")


def read_epw(data: str | bytes) -> ClimateYear:
    """Read an EPW file.

    Short gaps (up to six hours) of temperature, humidity and wind are filled by a straight line, missing radiation is
    derived from what is there; each such mend is a remark.

    Raises
    ------
    EurythmError
        Naming the line and the reason; nothing is guessed that would change a year's energy unnoticed.
    """
    if len(data) > MAX_BYTES:
        raise EurythmError("epw-too-large", f"A weather file has about 1.5 MB; this one has {len(data) / 1e6:.0f} MB.", "file")
    if isinstance(data, bytes):
        data = epw_text(data)
    lines = data.replace("\r\n", "\n").replace("\r", "\n").rstrip("\n").split("\n")
    if not lines[0].lstrip("\ufeff").upper().startswith("LOCATION,"):
        raise EurythmError("not-epw", "This is not an EPW file: its first line should begin with LOCATION.", "line 1")
    if len(lines) < 9:
        raise EurythmError("epw-cut", f"The file ends after line {len(lines)}, before any hourly record.", f"line {len(lines)}")
    location = _location(lines[0].lstrip("\ufeff"))
    first_weekday, remarks = _periods(lines[:8])
    table, months = _table(lines[8:])
    if len(table) == HOURS + 24:
        keep = ~((months[:, 0] == 2) & (months[:, 1] == 29))
        table, months = table[keep], months[keep]
        remarks.append(
            Remark("leap-day-left-out", "29 February was left out; a climate year has 365 days.", weight="mended", stage="place")
        )
    if len(table) != HOURS:
        raise EurythmError(
            "epw-row-count",
            f"A year has 8760 hourly records; this file has {len(table)} (the last is line {len(table) + 8}).",
            f"line {len(table) + 8}",
        )
    _check_order(months)
    records = {column.name: table[:, i] for i, column in enumerate(FIELDS)}
    _mend(records, location, first_weekday, remarks)
    digest = hashlib.sha256(data.encode()).hexdigest()[:24]
    return ClimateYear(digest, location, records, first_weekday, tuple(remarks), tuple(lines[:8]))


def epw_text(data: bytes) -> str:
    """Decode a weather file: UTF-8, or Latin-1 as many older files are. Every byte has a meaning in the latter."""
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _number(text: str, what: str, line: int) -> float:
    try:
        value = float(text)
    except ValueError:
        raise EurythmError("epw-bad-value", f"Line {line}: {what} should be a number, found “{text[:30]}”.", f"line {line}") from None
    if not np.isfinite(value):
        raise EurythmError("epw-bad-value", f"Line {line}: {what} is not a finite number.", f"line {line}")
    return value


def _location(line: str) -> Location:
    parts = [p.strip() for p in line.split(",")]
    if len(parts) < 10:
        raise EurythmError("epw-bad-location", f"Line 1: LOCATION should have 10 fields, found {len(parts)}.", "line 1")
    latitude, longitude, zone, altitude = (
        _number(parts[i], what, 1) for i, what in ((6, "latitude"), (7, "longitude"), (8, "time zone"), (9, "altitude"))
    )
    for value, limit, what in ((latitude, 90, "latitude"), (longitude, 180, "longitude"), (zone, 14, "time zone")):
        if abs(value) > limit:
            raise EurythmError("epw-bad-location", f"Line 1: {what} {value:g} is out of range.", "line 1")
    if not -500 <= altitude <= 9000:
        raise EurythmError("epw-bad-location", f"Line 1: altitude {altitude:g} m is out of range.", "line 1")
    city, region, country, source, station = parts[1:6]
    return Location(city, region, country, source, station, latitude, longitude, zone, altitude)


def _periods(header: list[str]) -> tuple[int, list[Remark]]:
    weekday = 0
    remarks: list[Remark] = []
    for number, line in enumerate(header, 1):
        parts = [p.strip() for p in line.split(",")]
        saving = parts[0].upper() == "HOLIDAYS/DAYLIGHT SAVINGS" and len(parts) > 3
        if saving and parts[2] not in ("0", "") and parts[3] not in ("0", ""):
            remarks.append(
                Remark(
                    "daylight-saving-named",
                    "The header names daylight saving; records are read as local standard time.",
                    weight="note",
                    stage="place",
                )
            )
        if parts[0].upper() == "DATA PERIODS" and len(parts) > 4:
            if parts[2] not in ("1", ""):
                raise EurythmError("epw-not-hourly", f"Line {number}: {parts[2]} records an hour; hourly files are read.", f"line {number}")
            name = parts[4].lower()
            if name in WEEKDAYS:
                weekday = WEEKDAYS.index(name)
    return weekday, remarks


def _reread(parts: list[str], number: int) -> None:
    """Name the field of a record that is no number."""
    for part, name in zip(parts[1:4], ("month", "day", "hour"), strict=True):
        _number(part, name, number)
    _refuse_words(parts, number)


def _refuse_words(parts: list[str], number: int) -> None:
    for part, column in zip(parts[6:], FIELDS, strict=False):
        if part.strip():
            _number(part, column.name, number)


def _table(lines: list[str]) -> tuple[Series, NDArray[np.int64]]:
    values = np.full((len(lines), len(FIELDS)), np.nan)
    dates = np.zeros((len(lines), 3), dtype=np.int64)
    for row, line in enumerate(lines):
        number = row + 9
        parts = line.split(",")
        if len(parts) < 6 + NEEDED:
            raise EurythmError(
                "epw-cut-record",
                f"Line {number}: an hourly record needs at least {6 + NEEDED} fields, found {len(parts)}.",
                f"line {number}",
            )
        try:
            dates[row] = [int(float(p)) for p in parts[1:4]]
            values[row, : len(parts) - 6] = [float(p) if p.strip() else np.nan for p in parts[6 : 6 + len(FIELDS)]]
        except (ValueError, OverflowError):
            _reread(parts, number)
        if np.isnan(values[row]).any():
            _refuse_words(parts, number)
    for index, column in enumerate(FIELDS):
        if column.missing is not None:
            values[values[:, index] >= column.missing - 1e-9, index] = np.nan
        bad = np.flatnonzero((values[:, index] < column.low - 1e-9) | (values[:, index] > column.high + 1e-9) | np.isinf(values[:, index]))
        if len(bad):
            number = int(bad[0]) + 9
            raise EurythmError(
                "epw-out-of-range",
                f"Line {number}: {column.name} is {values[bad[0], index]:g}, outside {column.low:g} to {column.high:g}.",
                f"line {number}",
            )
    return values, dates


def _check_order(dates: NDArray[np.int64]) -> None:
    expected = np.array([(m + 1, d + 1, h + 1) for m, days in enumerate(MONTH_DAYS) for d in range(days) for h in range(24)])
    wrong = np.flatnonzero(np.any(dates != expected, axis=1))
    if len(wrong):
        i = int(wrong[0])
        raise EurythmError(
            "epw-order",
            f"Line {i + 9}: expected month {expected[i][0]}, day {expected[i][1]}, hour {expected[i][2]}; found {dates[i][0]}, {dates[i][1]}, {dates[i][2]}.",
            f"line {i + 9}",
        )


def _mend(records: dict[str, Series], location: Location, first_weekday: int, remarks: list[Remark]) -> None:
    air = _filled(records, "dry_bulb_c", remarks)
    if np.isnan(records["relative_humidity_pct"]).all() and not np.isnan(records["dew_point_c"]).any():
        records["relative_humidity_pct"] = 100 * saturation_pa(records["dew_point_c"]) / saturation_pa(air)
        remarks.append(_derived("relative_humidity_pct", HOURS))
    humidity = _filled(records, "relative_humidity_pct", remarks)
    _filled(records, "wind_speed_m_s", remarks)
    pressure = records["pressure_pa"]
    if np.isnan(pressure).any():
        remarks.append(_derived("pressure_pa", int(np.isnan(pressure).sum())))
        records["pressure_pa"] = np.where(np.isnan(pressure), standard_pressure_pa(location.altitude_m), pressure)
    dew = records["dew_point_c"]
    records["dew_point_c"] = np.where(np.isnan(dew), dew_point_c(air, np.maximum(humidity, 1.0)), dew)
    _mend_radiation(records, location, remarks)
    infrared = records["horizontal_infrared_w_m2"]
    lacking = np.isnan(infrared) | (infrared < 50)
    if lacking.any():
        cover = records["opaque_sky_cover_tenths"]
        cover = np.where(np.isnan(cover), records["total_sky_cover_tenths"], cover)
        cover = np.where(np.isnan(cover), 5.0, cover)
        records["horizontal_infrared_w_m2"] = np.where(lacking, sky_infrared(air, records["dew_point_c"], cover), infrared)
        remarks.append(_derived("horizontal_infrared_w_m2", int(lacking.sum())))


def _derived(name: str, hours: int) -> Remark:
    title = name.rpartition("_")[0].replace("_", " ")
    return Remark(
        "record-derived",
        f"{title}: {hours} hours were missing and were worked out from the other fields.",
        name,
        weight="mended",
        stage="place",
    )


def _filled(records: dict[str, Series], name: str, remarks: list[Remark]) -> Series:
    series = records[name]
    gaps = np.isnan(series)
    if gaps.any():
        edges = np.flatnonzero(np.diff(np.concatenate([[0], gaps.astype(int), [0]])))
        lengths = edges[1::2] - edges[::2]
        if lengths.max() > LONGEST_GAP_H:
            start = int(edges[::2][lengths.argmax()])
            raise EurythmError(
                "epw-gap",
                f"{name} is missing for {lengths.max()} hours in a row from line {start + 9} on; up to {LONGEST_GAP_H} are filled.",
                f"line {start + 9}",
            )
        known = np.flatnonzero(~gaps)
        series = np.interp(np.arange(len(series)), known, series[known])
        records[name] = series
        remarks.append(
            Remark(
                "gaps-filled",
                f"{name}: {int(gaps.sum())} missing hours were filled by a straight line.",
                name,
                weight="mended",
                stage="place",
            )
        )
    return series


def _mend_radiation(records: dict[str, Series], location: Location, remarks: list[Remark]) -> None:
    beam, diffuse, total = (records[n] for n in ("direct_normal_wh_m2", "diffuse_horizontal_wh_m2", "global_horizontal_wh_m2"))
    lacking = np.isnan(beam) | np.isnan(diffuse)
    if lacking.any():
        if np.isnan(total[lacking]).any():
            line = int(np.flatnonzero(lacking & np.isnan(total))[0]) + 9
            raise EurythmError(
                "epw-no-radiation", f"Line {line}: neither direct and diffuse nor global radiation is given.", f"line {line}"
            )
        split_beam, split_diffuse = split_global(np.nan_to_num(total), location)
        records["direct_normal_wh_m2"] = np.where(lacking, split_beam, beam)
        records["diffuse_horizontal_wh_m2"] = np.where(lacking, split_diffuse, diffuse)
        remarks.append(_derived("direct_normal_wh_m2", int(lacking.sum())))
