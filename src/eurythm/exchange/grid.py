"""Tables of the library as CSV or XLSX with headed columns, in SI or inch-pound: rows read cell by cell, and written."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import TYPE_CHECKING, Any

from eurythm.model.cells import plain, unguarded
from eurythm.model.errors import EurythmError
from eurythm.model.spelling import spelt
from eurythm.model.units import IP_OF, to_ip

if TYPE_CHECKING:
    from openpyxl import Workbook

MOST_ROWS, MOST_COLUMNS, MOST_CSV_COLUMNS = 5000, 40, 1000
MOST_UNPACKED, MOST_PARTS = 40_000_000, 1000
"""What a workbook may unpack to: ten times as much as 8,760 hours in 40 columns."""
WORKBOOK = b"PK\x03\x04"
FAULTS = (zipfile.BadZipFile, KeyError, ValueError, OSError, IndexError, TypeError, AttributeError)
"""What a damaged workbook raises."""
NAMELESS = ("-", "1", "µ", "μ", "mu")
"""How heads say that a number has no unit."""


@dataclass(frozen=True)
class Column:
    """One column: the field that it holds, its head without unit, its SI unit where it holds numbers, and whether it must be there."""

    field: str
    head: str
    unit: str | None = None
    needed: bool = False
    also: tuple[str, ...] = ()

    @property
    def heads(self) -> tuple[str, ...]:
        """What a head may begin with, in small letters, the longest first."""
        return tuple(sorted((h.casefold() for h in (self.head, *self.also)), key=len, reverse=True))

    @property
    def number(self) -> bool:
        """Whether it holds numbers."""
        return self.unit is not None


@dataclass(frozen=True)
class Finding:
    """A cell that cannot be taken: row as numbered in the file, column by its head, what is wrong."""

    row: int
    column: str
    sentence: str


@dataclass(frozen=True)
class Row:
    """One row that was read: values in SI by field, what is wrong with its cells, and the heads as they stand in the file."""

    number: int
    values: dict[str, Any]
    findings: tuple[Finding, ...]
    heads: dict[str, str]

    def wrong(self, field: str, sentence: str) -> Finding:
        """Return a finding at a field's cell."""
        return Finding(self.number, self.heads.get(field, field), sentence)

    def refused(self, fault: EurythmError) -> Finding:
        """Return the finding for what a document refused."""
        return self.wrong(fault.path.rpartition("/")[2], fault.message.partition(": ")[2] or fault.message)


def read_rows(body: bytes, name: str, columns: Sequence[Column], sheet: str | None = None) -> Iterator[Row]:
    """Read a table's rows; empty ones are passed over.

    Parameters
    ----------
    sheet : of a workbook; the first one that has the columns unless named, or the first one where none has

    Raises
    ------
    EurythmError
        ``not-a-table``, ``missing-column``, ``unknown-unit`` or ``too-long``, with the file's name.
    """
    rows = cells_of(body, name, columns, sheet)
    if not rows:
        raise EurythmError("not-a-table", f"“{name}” holds no rows.", name)
    if len(rows) > MOST_ROWS:
        raise EurythmError("too-long", f"“{name}” has {len(rows)} rows; at most {MOST_ROWS} are read.", name)
    placed = _placed(rows[0], name, columns)
    heads = {column.field: head for column, _, head, _ in placed}
    for number, row in enumerate(rows[1:], 2):
        if not any(str(c or "").strip() for c in row):
            continue
        values: dict[str, Any] = {}
        wrong: list[Finding] = []
        for column, at, head, factor in placed:
            cell = row[at] if at < len(row) else None
            text = str(cell if cell is not None else "").strip()
            if not text:
                if column.needed:
                    wrong.append(Finding(number, head, "is empty"))
            elif not column.number:
                values[column.field] = unguarded(text)
            else:
                try:
                    values[column.field] = float(text.replace(",", ".") if text.count(",") == 1 and "." not in text else text) / factor
                except ValueError:
                    wrong.append(Finding(number, head, f"“{text[:40]}” is no number"))
        yield Row(number, values, tuple(wrong), heads)


def id_for(name: str, otherwise: str) -> str:
    """Return an id made of a name's letters and figures."""
    return re.sub(r"[^a-z0-9]+", "-", name.casefold()).strip("-")[:40] or otherwise


def to_csv(columns: Sequence[Column], rows: Iterable[dict[str, Any]], ip: bool = False) -> str:
    """Return rows of SI values by field as CSV that `read_rows` reads again."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([["" if c is None else c for c in row] for row in _lines(columns, rows, ip)])
    return out.getvalue()


def to_xlsx(title: str, columns: Sequence[Column], rows: Iterable[dict[str, Any]], ip: bool = False) -> bytes:
    """Return the same as a workbook."""
    from openpyxl import Workbook

    book = Workbook()
    sheet = book.worksheets[0]
    sheet.title = title
    for row in _lines(columns, rows, ip):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def sheets_of(body: bytes, name: str, columns: Sequence[Column]) -> tuple[list[str], str]:
    """Return the names of a workbook's sheets, and which one is read unless another is named; nothing for CSV.

    Raises
    ------
    EurythmError
        ``not-a-table``, with the file's name.
    """
    if body[:4] != WORKBOOK:
        return [], ""
    try:
        sheets = {s.title: s for s in _workbook(body, name).worksheets}
        heads = {title: next(s.iter_rows(max_row=1, max_col=MOST_COLUMNS, values_only=True), ()) for title, s in sheets.items()}
    except FAULTS as fault:
        raise EurythmError("not-a-table", f"“{name}” is no workbook that can be read.", name) from fault
    if not heads:
        raise EurythmError("not-a-table", f"“{name}” holds no sheets.", name)
    needed = [c for c in columns if c.needed] or list(columns[:1])
    fitting = [t for t, head in heads.items() if all(any(_is(c, str(cell or "").strip()) for cell in head) for c in needed)]
    return list(heads), (fitting or list(heads))[0]


def _workbook(body: bytes, name: str) -> Workbook:
    """Open a workbook to be read, once it is known that its parts unpack to what can be held."""
    from openpyxl import load_workbook

    with zipfile.ZipFile(io.BytesIO(body)) as packed:
        parts = packed.infolist()
    if len(parts) > MOST_PARTS or sum(part.file_size for part in parts) > MOST_UNPACKED:  # no more than it says is unpacked of a part
        raise EurythmError("too-large", f"“{name}” unpacks to more than {MOST_UNPACKED / 1e6:.0f} MB.", name)
    return load_workbook(io.BytesIO(body), read_only=True, data_only=True)


def cells_of(body: bytes, name: str, columns: Sequence[Column], sheet: str | None = None, most_rows: int = MOST_ROWS) -> list[list[Any]]:
    """Return the cells of a table, row by row, two rows more than the most at most; see `read_rows`."""
    if body[:4] == WORKBOOK:
        sheets, proposed = sheets_of(body, name, columns)
        if sheet is not None and sheet not in sheets:
            raise EurythmError("no-such-sheet", f"“{name}” has no sheet “{sheet[:60]}”.", name)
        try:
            book = _workbook(body, name)
            return [list(row) for row in book[sheet or proposed].iter_rows(max_row=most_rows + 2, max_col=MOST_COLUMNS, values_only=True)]
        except FAULTS as fault:
            raise EurythmError("not-a-table", f"“{name}” is no workbook that can be read.", name) from fault
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = body.decode("latin-1")
    if "\0" in text:
        raise EurythmError("not-a-table", f"“{name}” is neither CSV nor XLSX.", name)
    first = text.split("\n", 1)[0]
    delimiter = max((";", ",", "\t"), key=first.count)
    try:
        rows = []
        for row in islice(csv.reader(io.StringIO(text), delimiter=delimiter), most_rows + 2):
            if len(row) > MOST_CSV_COLUMNS:
                raise EurythmError("too-wide", f"“{name}” has a row of {len(row):,} cells; at most {MOST_CSV_COLUMNS:,} are read.", name)
            rows.append(row)
        return rows
    except csv.Error as fault:
        raise EurythmError("not-a-table", f"“{name}” is no CSV that can be read: {fault}.", name) from fault


def _placed(head: Sequence[Any], name: str, columns: Sequence[Column]) -> list[tuple[Column, int, str, float]]:
    """Where each column stands in the file, its head there, and how many of its unit one SI unit is."""
    found: dict[str, tuple[Column, int, str, float]] = {}
    longest_first = sorted(columns, key=lambda c: -len(c.heads[0]))
    for at, cell in enumerate(head):
        text = str(cell or "").strip()
        low = text.casefold()
        for column in longest_first:
            if not _is(column, low):
                continue
            factor = 1.0
            if column.unit is not None:
                factor = _factor(column, _unit_in(column, text), name, text)
            found.setdefault(column.field, (column, at, text, factor))
            break
    missing = [c.head for c in columns if c.needed and c.field not in found]
    if missing:
        raise EurythmError("missing-column", f"“{name}” has no column {', '.join(f'“{m}”' for m in missing)}.", name)
    return list(found.values())


def _is(column: Column, head: str) -> bool:
    return any(head.casefold().startswith(h) for h in column.heads)


def _unit_in(column: Column, head: str) -> str:
    """What follows a column's name in its head, without the brackets around all of it."""
    low = head.casefold()
    rest = head[len(next(h for h in column.heads if low.startswith(h))) :].strip(" ,:;_-")
    while rest[:1] + rest[-1:] in ("()", "[]", "{}") and _balanced(rest[1:-1]):
        rest = rest[1:-1].strip()
    return rest


def _balanced(text: str) -> bool:
    depth = 0
    for letter in text:
        depth += (letter in "([{") - (letter in ")]}")
        if depth < 0:
            return False
    return depth == 0


def _factor(column: Column, unit: str, name: str, head: str) -> float:
    """How many of a head's unit one SI unit is."""
    si = column.unit or ""
    if not unit or (not si and unit.casefold() in NAMELESS):
        return 1.0
    ip = IP_OF.get(si)
    known = f"{si} or {ip.unit}" if ip is not None else si or "no unit"
    given, ours = spelt(unit), spelt(si)
    if given is not None and ours is not None and given.dimensions == ours.dimensions:
        return ours.factor / given.factor
    raise EurythmError("unknown-unit", f"“{name}”: the unit of “{head}” is not known; use {known}.", name)


def _lines(columns: Sequence[Column], rows: Iterable[dict[str, Any]], ip: bool) -> Iterator[list[Any]]:
    yield [f"{c.head} {to_ip(1.0, c.unit)[1] if ip and c.unit else c.unit or ''}".strip() for c in columns]
    for values in rows:
        row: list[Any] = []
        for column in columns:
            value = values.get(column.field)
            if column.unit is not None and value is not None:
                value = to_ip(float(value), column.unit)[0] if ip else float(value)
            row.append(plain(value) if isinstance(value, str) else value)
        yield row
