"""A report as one page for a browser."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from html import escape
from typing import Any

STYLE = """
body{font:15px/1.5 'Instrument Sans',system-ui,sans-serif;color:#22303A;background:#FBF9F5;max-width:980px;margin:32px auto;padding:0 24px}
h1,h2{font-family:Newsreader,Georgia,serif;font-weight:500}h2{margin-top:2em}table{border-collapse:collapse;width:100%}
td,th{padding:5px 8px;border-bottom:1px solid #D9D3C7;text-align:right;vertical-align:top;font-variant-numeric:tabular-nums}
td:first-child,th:first-child{text-align:left}small,.quiet{color:#5D6468;font-size:12px}.cases{display:flex;flex-wrap:wrap;gap:24px}
.cases>div{width:220px}.fault{color:#A8442F}svg{max-width:100%;height:auto}.why{display:flex;flex-wrap:wrap;gap:32px}
@media print{body{background:#fff;margin:0}}
"""


def html_of(told: Mapping[str, Any]) -> str:
    """Return the report as a page; all text is escaped, pictures are part of it."""
    cases = told["cases"]
    titles = list(dict.fromkeys(f["title"] for c in cases for f in c["facts"]))
    head = ["", *(c["title"] for c in cases)]
    parts = [
        f"<h1>{escape(told['title'])}</h1><p>{escape(told['project'])} <small>{escape(told['date'])}</small></p>",
        f"<div class='cases'>{''.join(_case(c) for c in cases)}</div>",
        f"<h2>Energy in a year, by use <small>{escape(told['energy']['unit'])}</small></h2>{told['energy']['picture']}",
        f"<h2>Side by side</h2>{_table(head, ([_row_title(r), *(_cell(c) for c in r['cells'])] for r in told['figures']))}",
        f"<p class='quiet'>“more” and “less” are against {escape(cases[0]['title'])}.</p>",
    ]
    if titles:
        rows = ([escape(t), *(_fact(c, t) for c in cases)] for t in titles)
        parts.append(f"<h2>What differs</h2>{_table(head, rows)}")
    if any(c["sentences"] for c in cases):
        words = (f"<h3>{escape(c['title'])}</h3><p>{escape(' '.join(c['sentences']))}</p>" for c in cases if c["sentences"])
        parts.append(f"<h2>In words</h2>{''.join(words)}")
    parts.append(
        f"<h2>Why</h2>{''.join(_why(c) for c in cases if c['why'])}<p class='quiet'>Parts to the left of the line lower the load.</p>"
    )
    if told["study"]:
        parts.append(_study(told["study"]))
    if any(c["remarks"] for c in cases):
        lists = (
            f"<h3>{escape(c['title'])}</h3><ul>{''.join(f'<li>{escape(r)}</li>' for r in c['remarks'])}</ul>" for c in cases if c["remarks"]
        )
        parts.append(f"<h2>Remarks</h2>{''.join(lists)}")
    assumed = told["assumed"]
    if assumed:
        keys = ("title", "value", "moves") if assumed["ranked"] else ("title", "value")
        rows = ([escape(a[key] or "–") for key in keys] for a in assumed["rows"])
        parts.append(f"<h2>What is still assumed</h2><p>{escape(assumed['sentence'])}</p>")
        parts.append(_table(["Value", "assumed", "moves energy by"][: len(keys)], rows))
    parts.append(f"<h2>Method and limits</h2><p>{escape(told['method'])}</p><p><b>{escape(told['limits'])}</b></p>")
    name = escape(f"{told['title']}, {told['project']}")
    return f"<!doctype html><html lang='en'><meta charset='utf-8'><title>{name}</title><style>{STYLE}</style><body>{''.join(parts)}</body></html>"


def _case(c: Mapping[str, Any]) -> str:
    note = f"<br><i>{escape(c['note'])}</i>" if c["note"] else ""
    fault = f"<br><span class='fault'>{escape(c['fault'])}</span>" if c["fault"] else ""
    return f"<div>{c['form']}<br><b>{escape(c['title'])}</b><br><small>{escape(c['subtitle'])}</small>{note}{fault}</div>"


def _table(head: Iterable[str], rows: Iterable[Iterable[str]]) -> str:
    body = "".join(f"<tr>{''.join(f'<td>{cell}</td>' for cell in row)}</tr>" for row in rows)
    return f"<table><thead><tr>{''.join(f'<th>{escape(h)}</th>' for h in head)}</tr></thead><tbody>{body}</tbody></table>"


def _row_title(row: Mapping[str, Any]) -> str:
    return f"{escape(row['title'])} <small>{escape(row['unit'])}</small>"


def _cell(cell: Mapping[str, Any]) -> str:
    beside = "".join(f"<br><small>{escape(cell[k])}</small>" for k in ("than", "hour") if cell[k])
    return escape(cell["text"]) + beside


def _fact(case: Mapping[str, Any], title: str) -> str:
    return escape(next((f["text"] for f in case["facts"] if f["title"] == title), "–"))


def _why(c: Mapping[str, Any]) -> str:
    pictures = "".join(f"<div><small>{escape(w['title'])}</small><br>{w['picture']}</div>" for w in c["why"])
    return f"<h3>{escape(c['title'])}</h3><div class='why'>{pictures}</div>"


def _study(study: Mapping[str, Any]) -> str:
    rows = _table(study["head"], ([escape(t) for t in row] for row in study["rows"])) if study["rows"] else ""
    words = f"<p>{escape(' '.join(study['words']))}</p>" if study["words"] else ""
    return f"<h2>{escape(study['name'])}</h2><p>{escape(study['question'])}</p>{study['effects']}{study['chart']}{rows}{words}"
