"""The cases of a study as a table in a file: what is chosen of it, as XLSX or Parquet; the CSV of everything is `bundle.csv_lines`."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from eurythm.assess.figures import figure_by
from eurythm.model.amount import said
from eurythm.model.cells import plain
from eurythm.model.errors import EurythmError
from eurythm.model.study import StudySpec
from eurythm.study.plan import LeverView, levers_of
from eurythm.study.table import STATUS, CaseTable

if TYPE_CHECKING:
    import pandas as pd

MOST_SHEET_ROWS = 1_048_575
"""What a sheet of a workbook holds besides its head."""


def frame_of(study: StudySpec, views: Sequence[LeverView], table: CaseTable, figures: Sequence[str]) -> pd.DataFrame:
    """Return the cases as a frame: number, what is taken of each lever, status, figures by their ids in their units, remarks.

    Raises
    ------
    EurythmError
        ``no-such-figure``.
    """
    import pandas as pd

    columns: dict[str, Any] = {"number": range(len(table.status))}
    for k, (spec, view) in enumerate(zip(levers_of(study), views, strict=True)):
        taken = table.rows[:, k]
        columns[view.key] = taken if spec.is_range else [spec.steps[int(place)] for place in taken]
    columns["status"] = [STATUS[s] for s in table.status]
    columns |= {name: table.column(name) for name in figures}
    columns["remarks"] = [said(" ".join(table.said(n)) or table.reason(n)) for n in range(len(table.status))]
    return pd.DataFrame(columns)


def parquet_of_cases(frame: pd.DataFrame) -> bytes:
    """Return a frame of cases as Parquet; steps that are of several types are written as text."""
    out = io.BytesIO()
    mixed = {name: frame[name].map(str) for name in frame.columns if frame[name].dtype == object and frame[name].map(type).nunique() > 1}
    frame.assign(**mixed).to_parquet(out, index=False)
    return out.getvalue()


def xlsx_of_cases(frame: pd.DataFrame) -> bytes:
    """Return a frame of cases as a workbook: cases, and a sheet that says what each figure is and its unit.

    Raises
    ------
    EurythmError
        ``too-many-rows`` beyond what a sheet holds.
    """
    from openpyxl import Workbook

    if len(frame) > MOST_SHEET_ROWS:
        raise EurythmError("too-many-rows", f"A sheet holds {MOST_SHEET_ROWS:,} rows; save Parquet or CSV.", "cases")
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Cases")
    sheet.append([plain(str(name)) for name in frame.columns])
    for row in frame.itertuples(index=False):
        sheet.append([plain(v) if isinstance(v, str) else None if v != v else v for v in row])
    told = book.create_sheet("Figures")
    told.append(["id", "figure", "unit", "how it is got"])
    for name in frame.columns:
        try:
            figure = figure_by(str(name))
        except KeyError:
            continue
        told.append([figure.id, figure.title, figure.unit, figure.how])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
