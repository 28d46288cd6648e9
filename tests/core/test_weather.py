"""The stand-in service's own statistics, the sun against pvlib, every field of a file, damaged files of every kind."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pvlib
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from eurythm.climate.air import STEFAN_BOLTZMANN, dew_point_c, saturation_pa, sky_infrared, standard_pressure_pa
from eurythm.climate.epw import FIELDS, NEEDED, epw_text, read_epw
from eurythm.climate.standin import PLACES, find_place, standin_epw, standin_year
from eurythm.climate.sunpath import split_global, sun_of, sun_path
from eurythm.climate.year import HOURS, MONTH_OF_HOUR
from eurythm.model.errors import EurythmError, NotFound

LINES = standin_epw("merrowhaven").rstrip("\n").split("\n")


@pytest.mark.parametrize("place", PLACES, ids=lambda p: p.id)
def test_a_stand_in_year_is_whole_and_plausible(place) -> None:
    year = standin_year(place.id)
    for column in FIELDS[:NEEDED]:
        assert len(year[column.name]) == HOURS
    for name in ("dry_bulb_c", "relative_humidity_pct", "direct_normal_wh_m2", "wind_speed_m_s", "horizontal_infrared_w_m2"):
        assert np.isfinite(year[name]).all()
    assert (year["relative_humidity_pct"] <= 100).all()
    assert (year["dew_point_c"] <= year.air_c + 0.6).all()
    assert (year["wind_speed_m_s"] >= 0).all()
    monthly_range = np.array([np.ptp(year.air_c.reshape(365, 24), axis=1)[MONTH_OF_HOUR[::24] == m].mean() for m in range(12)])
    assert monthly_range == pytest.approx(place.range_k, rel=0.35)


@pytest.mark.parametrize("place", PLACES, ids=lambda p: p.id)
def test_its_radiation_closes_and_the_night_is_dark(place) -> None:
    year = standin_year(place.id)
    sun = sun_of(year.location)
    closing = year["direct_normal_wh_m2"] * sun.cos_zenith + year["diffuse_horizontal_wh_m2"]
    assert np.abs(closing - year["global_horizontal_wh_m2"]).max() < 12  # whole watt-hours are written
    night = sun.cos_zenith == 0
    assert year["global_horizontal_wh_m2"][night].max() == 0
    assert (year["direct_normal_wh_m2"] <= 0.83 * sun.extraterrestrial + 1).all()


@pytest.mark.parametrize("place", PLACES, ids=lambda p: p.id)
def test_its_sky_is_colder_than_its_air(place) -> None:
    year = standin_year(place.id)
    assert (year.sky_c < year.air_c).mean() > 0.98
    assert -45 < float((year.sky_c - year.air_c).mean()) < -2


def test_unknown_places_are_told_with_those_that_there_are() -> None:
    with pytest.raises(NotFound, match="merrowhaven"):
        find_place("atlantis")


@pytest.mark.parametrize(("latitude", "longitude", "zone"), [(54.2, -2.6, 0.0), (-33.9, 151.2, 10.0), (9.6, 104.8, 7.0), (65.1, 21.4, 1.0)])
def test_the_sun_stands_where_pvlib_puts_it(latitude: float, longitude: float, zone: float) -> None:
    ours = sun_path(latitude, longitude, zone)
    middles = pd.date_range("2023-01-01 00:30", periods=HOURS, freq="h") - pd.Timedelta(hours=zone)
    theirs = pvlib.solarposition.get_solarposition(middles.tz_localize("UTC"), latitude, longitude)
    elevation = np.radians(theirs["elevation"].to_numpy())
    azimuth = np.radians(theirs["azimuth"].to_numpy())
    whole = np.degrees(elevation) > 8  # hours in which the sun is up throughout
    vectors = np.stack([np.cos(elevation) * np.sin(azimuth), np.cos(elevation) * np.cos(azimuth), np.sin(elevation)], axis=1)
    between = np.degrees(np.arccos(np.clip(np.sum(vectors[whole] * ours.direction[whole], axis=1), -1, 1)))
    assert between.max() < 0.6


def test_polar_night_and_midnight_sun() -> None:
    sun = sun_path(78.0, 15.0, 1.0)
    up = np.zeros(HOURS, bool)
    up[sun.up] = True
    assert not up[: 24 * 31].any()
    assert up[24 * 171 : 24 * 172].all()


def test_splitting_keeps_the_sum() -> None:
    year = standin_year("vallarena")
    total = year["global_horizontal_wh_m2"]
    beam, diffuse = split_global(total, year.location)
    sun = sun_of(year.location)
    high = sun.cos_zenith > 0.1
    assert (beam * sun.cos_zenith + diffuse)[high] == pytest.approx(total[high], abs=1.0)
    assert (beam >= 0).all()
    assert (diffuse <= total + 1e-6).all()


def test_moist_air_by_known_points() -> None:
    assert saturation_pa(np.array([0.0]))[0] == pytest.approx(610.5)
    assert saturation_pa(np.array([20.0]))[0] == pytest.approx(2337, rel=0.005)
    assert dew_point_c(np.array([20.0]), np.array([100.0]))[0] == pytest.approx(20.0)
    assert dew_point_c(np.array([20.0]), np.array([50.0]))[0] == pytest.approx(9.3, abs=0.15)
    assert standard_pressure_pa(0.0) == pytest.approx(101325)
    assert standard_pressure_pa(1609.0) == pytest.approx(83_400, rel=0.003)


@given(st.floats(-30, 40), st.floats(0, 10))
def test_clouds_warm_the_sky_and_never_beyond_the_air(air: float, clouds: float) -> None:
    dew = air - 3.0
    clear = sky_infrared(np.array([air]), np.array([dew]), np.array([0.0]))[0]
    covered = sky_infrared(np.array([air]), np.array([dew]), np.array([clouds]))[0]
    assert clear <= covered + 1e-9
    assert covered <= 1.03 * STEFAN_BOLTZMANN * (air + 273.15) ** 4


def record(row: int, column: int, value: str) -> list[str]:
    parts = LINES[row].split(",")
    parts[column] = value
    return [*LINES[:row], ",".join(parts), *LINES[row + 1 :]]


def header(number: int, text: str) -> str:
    return "\n".join([*LINES[: number - 1], text, *LINES[number:]])


@pytest.mark.parametrize("position", range(NEEDED))
def test_every_field_is_read_from_its_own_column(position: int) -> None:
    column = FIELDS[position]
    value = max(column.low, 60.0 if column.name == "horizontal_infrared_w_m2" else 1.0) + 1.0  # less than 50 counts as missing
    value = value if value <= column.high else column.low
    year = read_epw("\n".join(record(4000, 6 + position, f"{value:g}")))
    assert year[column.name][4000 - 8] == pytest.approx(value)


@pytest.mark.parametrize("column", [c for c in FIELDS[:NEEDED] if np.isfinite(c.high)], ids=lambda c: c.name)
def test_every_range_is_held_with_line_and_field(column) -> None:
    position = FIELDS.index(column)
    beyond = column.high + 1 if column.missing is None or column.high + 1 < column.missing else column.low - 1
    with pytest.raises(EurythmError) as fault:
        read_epw("\n".join(record(700, 6 + position, f"{beyond:g}")))
    assert fault.value.path == "line 701"
    assert column.name in fault.value.message


@pytest.mark.parametrize(
    ("line", "text", "said"),
    [
        (1, "LOCATION,a,b,c,d", "10 fields"),
        (1, "LOCATION,a,b,c,d,e,north,0,0,0", "latitude should be a number"),
        (1, "LOCATION,a,b,c,d,e,95,0,0,0", "latitude 95 is out of range"),
        (1, "LOCATION,a,b,c,d,e,0,200,0,0", "longitude 200 is out of range"),
        (1, "LOCATION,a,b,c,d,e,0,0,15,0", "time zone 15 is out of range"),
        (1, "LOCATION,a,b,c,d,e,0,0,0,99999", "altitude 99999 m is out of range"),
        (8, "DATA PERIODS,1,4,Data,Monday,1/1,12/31", "4 records an hour"),
    ],
)
def test_headers_are_checked(line: int, text: str, said: str) -> None:
    with pytest.raises(EurythmError, match=said) as fault:
        read_epw(header(line, text))
    assert fault.value.path == f"line {line}"


def test_daylight_saving_is_noted_and_changes_nothing() -> None:
    year = read_epw(header(5, "HOLIDAYS/DAYLIGHT SAVINGS,No,3/26,10/29,0"))
    assert [r.code for r in year.remarks] == ["daylight-saving-named"]
    assert (year.air_c == standin_year("merrowhaven").air_c).all()


def test_line_ends_and_marks_of_order_do_not_matter() -> None:
    plain = standin_year("merrowhaven")
    for text in ("\r\n".join(LINES), "\ufeff" + "\n".join(LINES), "\n".join(LINES) + "\n\n\n"):
        assert (read_epw(text).air_c == plain.air_c).all()


def test_text_of_other_encodings_is_kept() -> None:
    assert epw_text("Å".encode()) == "Å"
    assert epw_text("Å".encode("latin-1")) == "Å"


def test_older_files_without_the_last_columns_are_read() -> None:
    short = [*LINES[:8], *(",".join(line.split(",")[: 6 + NEEDED]) for line in LINES[8:])]
    year = read_epw("\n".join(short))
    assert np.isnan(year["albedo"]).all()
    assert (year.air_c == standin_year("merrowhaven").air_c).all()


@settings(max_examples=40, deadline=None)
@example(row=30, column=1, value="1e999")
@example(row=30, column=1, value="nan")
@example(row=30, column=3, value="")
@example(row=30, column=6, value="1e999")
@given(
    st.integers(8, len(LINES) - 1), st.integers(1, 34), st.sampled_from(["", "x", "1e999", "nan", "-", "9999999", " ", "0x1F", "1;2", "٣"])
)
def test_any_damaged_field_gives_a_year_or_an_error_with_its_line(row: int, column: int, value: str) -> None:
    try:
        year = read_epw("\n".join(record(row, column, value)))
    except EurythmError as fault:
        named = fault.path
    else:
        named = f"line {row + 1}"
        assert np.isfinite(year.air_c).all()
    assert named == f"line {row + 1}"
