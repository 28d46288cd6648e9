"""Schedules as tables of 8,760 values, CSV or XLSX, in and out."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.statistics import hour_name
from eurythm.climate.year import HOURS
from eurythm.exchange.grid import cells_of
from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError

Series = NDArray[np.float64]
FAHRENHEIT = ("°f", "deg f", "fahrenheit", "[f]", "(f)")


@dataclass(frozen=True)
class HourColumn:
    """A column of 8,760 values, temperatures in °C, and its head."""

    head: str
    values: tuple[float, ...]


def read_hours(body: bytes, name: str, fahrenheit: bool = False) -> list[HourColumn]:
    """Read every column of a table that holds a number for each hour of the year; a first row of text names them.

    Parameters
    ----------
    fahrenheit : whether values are temperatures in °F; a head that says °F is taken at its word

    Raises
    ------
    EurythmError
        ``not-a-table``, ``not-a-year`` where a column has more or fewer than 8,760 numbers, ``not-a-number`` naming row and column.
    """
    rows = cells_of(body, name, (), most_rows=HOURS + 20)
    while rows and not any(_filled(cell) for cell in rows[-1]):
        rows.pop()
    if not rows:
        raise EurythmError("not-a-table", f"“{name}” holds no rows.", name)
    headed = not any(_number(cell) is not None for cell in rows[0] if _filled(cell))
    heads, first = (rows[0], 1) if headed else ([], 0)
    found, said = [], ""
    for at in range(max(len(row) for row in rows)):
        head = str(heads[at] if at < len(heads) and heads[at] is not None else f"column {at + 1}").strip()
        cells = [row[at] if at < len(row) else None for row in rows[first:]]
        numbers = [_number(cell) for cell in cells]
        count = sum(n is not None for n in numbers)
        if count < len(numbers) / 2:
            continue  # dates, names
        if len(numbers) != HOURS:
            said = f"“{name}”: “{head}” has {len(numbers):,} values; a year has {HOURS:,}, one an hour, without a 29 February."
            continue
        wrong = next((k for k, n in enumerate(numbers) if n is None), None)
        if wrong is not None:
            cell = str(cells[wrong] if cells[wrong] is not None else "").strip()
            raise EurythmError(
                "not-a-number",
                f"“{name}”: row {wrong + first + 1} of “{head}” {f'is “{cell[:40]}”, no number' if cell else 'is empty'}.",
                name,
            )
        values = [float(n) for n in numbers if n is not None]
        if fahrenheit or any(word in head.casefold() for word in FAHRENHEIT):
            values = [(v - 32.0) / 1.8 for v in values]
        found.append(HourColumn(head, tuple(values)))
    if not found:
        raise EurythmError("not-a-year", said or f"“{name}” has no column of {HOURS:,} numbers.", name)
    return found


def hours_csv(columns: Mapping[str, Series]) -> str:
    """Return series of 8,760 values as CSV, one row an hour."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(_rows(columns))
    return out.getvalue()


def hours_xlsx(columns: Mapping[str, Series]) -> bytes:
    """Return the same as a workbook."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("Hours")
    for row in _rows(columns):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _rows(columns: Mapping[str, Series]) -> list[list[Any]]:
    table = [[round(float(v), 6) for v in series] for series in columns.values()]
    return [["time", *(plain(name) for name in columns)], *([hour_name(h), *(column[h] for column in table)] for h in range(HOURS))]


def _filled(cell: Any) -> bool:
    return bool(str(cell if cell is not None else "").strip())


def _number(cell: Any) -> float | None:
    """A cell as a finite number, with a comma as well as a point."""
    if isinstance(cell, bool):
        return None
    text = str(cell if cell is not None else "").strip()
    try:
        value = float(text.replace(",", ".") if text.count(",") == 1 and "." not in text else text)
    except ValueError:
        return None
    return value if np.isfinite(value) else None
