"""A report as a workbook: figures as numbers, so that others can reckon on."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

from eurythm.model.cells import plain


def xlsx_of(told: Mapping[str, Any]) -> bytes:
    """Return the report's tables as a workbook: comparison, what differs, end uses, remarks, study, what is assumed."""
    from openpyxl import Workbook

    book = Workbook()
    book.remove(book.active)
    cases = told["cases"]
    names = [c["title"] for c in cases]

    def sheet(name: str, head: list[Any], rows: list[list[Any]]) -> None:
        made = book.create_sheet(name)
        for row in [head, *rows]:
            made.append([plain(v) if isinstance(v, str) else v for v in row])
        made.freeze_panes = "B2"
        made.column_dimensions["A"].width = 34

    rows: list[list[Any]] = []
    for r in told["figures"]:
        rows.append([r["title"], r["unit"], *(_number(c["text"]) for c in r["cells"])])
        if any(c["hour"] for c in r["cells"]):
            rows.append([f"{r['title']}, hour", "", *(c["hour"] for c in r["cells"])])
    sheet("Comparison", ["Figure", "Unit", *names], rows)
    titles = list(dict.fromkeys(f["title"] for c in cases for f in c["facts"]))
    sheet(
        "What differs", ["", *names], [[t, *(next((f["text"] for f in c["facts"] if f["title"] == t), "") for c in cases)] for t in titles]
    )
    uses = list(dict.fromkeys((u["id"], u["name"]) for c in cases for u in c["uses"]))
    sheet(
        "End uses", ["Use", "Unit", *names],
        [[name, told["energy"]["unit"], *(next((_number(u["text"]) for u in c["uses"] if u["id"] == use), 0.0) for c in cases)] for use, name in uses],
    )  # fmt: skip
    sheet("In words", ["Case", "Sentence"], [[c["title"], s] for c in cases for s in c["sentences"]])
    sheet("Remarks", ["Case", "Remark"], [[c["title"], r] for c in cases for r in ([c["fault"]] if c["fault"] else []) + c["remarks"]])
    if told["study"] and told["study"]["rows"]:
        sheet(
            "Study",
            list(told["study"]["head"]),
            [[t if k == 0 else _number(t) for k, t in enumerate(row)] for row in told["study"]["rows"]],
        )
    if told["assumed"]:
        sheet("Assumed", ["Value", "assumed", "moves energy by"], [[a["title"], a["value"], a["moves"]] for a in told["assumed"]["rows"]])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _number(text: str) -> float | str:
    try:
        return float(text.replace(",", "").replace("−", "-"))
    except ValueError:
        return text
