"""EPW files, good and bad, and the stand-in years."""

from __future__ import annotations

import numpy as np
import pytest

from eurythm.climate.epw import read_epw
from eurythm.climate.standin import PLACES, standin_epw, standin_year
from eurythm.climate.statistics import climate_sheet, hour_name
from eurythm.climate.sunpath import sun_path
from eurythm.model.errors import EurythmError


@pytest.fixture(scope="module")
def lines() -> list[str]:
    return standin_epw("merrowhaven").rstrip("\n").split("\n")


def refused(lines: list[str]) -> EurythmError:
    with pytest.raises(EurythmError) as fault:
        read_epw("\n".join(lines))
    return fault.value


def with_field(lines: list[str], row: int, column: int, value: str) -> list[str]:
    parts = lines[row].split(",")
    parts[column] = value
    return [*lines[:row], ",".join(parts), *lines[row + 1 :]]


@pytest.mark.parametrize("place", PLACES, ids=lambda p: p.id)
def test_every_stand_in_year_keeps_its_monthly_means(place) -> None:
    year = standin_year(place.id)
    sheet = climate_sheet(year)
    assert not year.remarks
    assert sheet["year_mean_c"] == pytest.approx(np.mean(place.mean_c), abs=1.0)
    assert max(abs(m - p) for m, p in zip(sheet["temperature_c"]["mean"], place.mean_c, strict=True)) < 2.5
    assert year.location.latitude_deg == place.latitude_deg


def test_stand_in_is_the_same_every_time() -> None:
    standin_epw.cache_clear()
    assert read_epw(standin_epw("karsk-basin")).digest == standin_year("karsk-basin").digest


def test_cut_file_names_its_last_line(lines) -> None:
    fault = refused(lines[:5000])
    assert (fault.code, fault.path) == ("epw-row-count", "line 5000")
    cut = refused([*lines[:99], lines[99][:30]])
    assert (cut.code, cut.path) == ("epw-cut-record", "line 100")


def test_8700_rows_are_refused(lines) -> None:
    assert "8700" in refused(lines[: 8 + 8700]).message


def test_what_is_no_weather_file_is_refused() -> None:
    assert refused(["PK\x03\x04 something"]).code == "not-epw"
    assert refused([""]).code == "not-epw"
    with pytest.raises(EurythmError):
        read_epw(b"\x00\xff\xfe" * 100)


def test_text_where_a_number_belongs_names_line_and_field(lines) -> None:
    fault = refused(with_field(lines, 20, 6, "warm"))
    assert (fault.code, fault.path) == ("epw-bad-value", "line 21")
    assert "dry_bulb_c" in fault.message
    assert refused(with_field(lines, 20, 6, "nan")).code == "epw-bad-value"


def test_values_out_of_range_are_refused(lines) -> None:
    assert refused(with_field(lines, 300, 14, "-5")).path == "line 301"
    assert refused(with_field(lines, 300, 9, "200")).code == "epw-out-of-range"


def test_hours_out_of_order_are_refused(lines) -> None:
    swapped = [*lines[:50], lines[51], lines[50], *lines[52:]]
    assert refused(swapped).code == "epw-order"


def test_short_gap_is_filled_and_said_so_long_gap_refused(lines) -> None:
    year = read_epw("\n".join(with_field(lines, 100, 6, "99.9")))
    before, after = (float(lines[i].split(",")[6]) for i in (99, 101))
    assert year.air_c[92] == pytest.approx((before + after) / 2)
    assert [r.code for r in year.remarks] == ["gaps-filled"]
    holes = lines
    for row in range(100, 108):
        holes = with_field(holes, row, 6, "99.9")
    assert refused(holes).code == "epw-gap"


def test_missing_infrared_is_worked_out(lines) -> None:
    year = read_epw("\n".join(with_field(lines, 100, 12, "9999")))
    assert year["horizontal_infrared_w_m2"][92] == pytest.approx(float(lines[100].split(",")[12]), abs=30)
    assert "record-derived" in {r.code for r in year.remarks}


def test_leap_day_is_left_out_with_a_remark(lines) -> None:
    start = 8 + 59 * 24
    extra = [",".join(["2024", "2", "29", *row.split(",")[3:]]) for row in lines[start : start + 24]]
    year = read_epw("\n".join([*lines[:start], *extra, *lines[start:]]))
    assert len(year.air_c) == 8760
    assert [r.code for r in year.remarks] == ["leap-day-left-out"]


def test_first_weekday_comes_from_the_header(lines) -> None:
    header = [line.replace("Monday", "Sunday") for line in lines[:8]]
    assert read_epw("\n".join([*header, *lines[8:]])).first_weekday == 6


@pytest.mark.parametrize(("latitude", "noonward"), [(54.0, -1), (-34.0, 1)])
def test_noon_sun_stands_on_the_right_side_of_both_hemispheres(latitude: float, noonward: int) -> None:
    sun = sun_path(latitude, 0.0, 0.0)
    noon = sun.direction[12 + 24 * 80 :: 24][:200].mean(axis=0)
    assert np.sign(noon[1]) == noonward
    assert abs(noon[0]) < 0.2


def test_sun_is_up_half_the_year_and_highest_at_its_solstice() -> None:
    sun = sun_path(51.5, -7.5, 0.0)
    assert 4300 < len(sun.up) < 4900  # hours with any sun in them
    highest = np.degrees(np.arcsin(sun.direction[:, 2].max()))
    assert highest == pytest.approx(90 - 51.5 + 23.44, abs=0.3)


def test_hour_names_start_the_hour() -> None:
    assert hour_name(0) == "01-01T00"
    assert hour_name(8759) == "12-31T23"
    assert hour_name(59 * 24) == "03-01T00"
