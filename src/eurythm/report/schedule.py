"""Schedule of constructions, and of areas by element and orientation, with U-values, costs and carbon: as data, as a workbook, as a page.

Names of sheets and columns stay as they are: sheets that others make refer to them.
"""

from __future__ import annotations

import html
import io
from dataclasses import dataclass
from typing import TYPE_CHECKING

from eurythm.assess.areas import NAMES, WAYS, OpaqueRow, WindowRow, areas_of
from eurythm.assess.worth import EntryTold, Worth
from eurythm.brief.resolve import Brief
from eurythm.fabric.opaque import heat_capacity, thickness
from eurythm.geometry.building import Building
from eurythm.model.cells import plain
from eurythm.model.library import Construction
from eurythm.model.units import to_ip

if TYPE_CHECKING:
    from openpyxl import Workbook
    from openpyxl.worksheet.worksheet import Worksheet


@dataclass(frozen=True)
class Schedule:
    """What a scheme's enclosure is made of. Areas are external, contact between zones counts once."""

    scheme: str
    project: str
    opaque: tuple[OpaqueRow, ...]
    windows: tuple[WindowRow, ...]
    parts: tuple[EntryTold, ...] = ()

    def worth_of(self, row: OpaqueRow | WindowRow) -> tuple[float | None, float | None]:
        """Return the cost, €, and the embodied carbon, kg, of a row; None where nobody knows."""
        name = f"Windows: {row.name}" if isinstance(row, WindowRow) else f"{NAMES[row.element]}: {row.construction.name}"
        own = [part for part in self.parts if part["name"] == name and abs(part["amount"] - row.area) < 1e-6]
        return (own[0]["cost"], own[0]["carbon_kg"]) if own else (None, None)

    @property
    def mean_u(self) -> float:
        """Mean U-value of all that meets outdoors or ground, windows with it, W/m2K."""
        outer = [r for r in self.opaque if r.element not in ("partition", "intermediate_floor", "party_wall")]
        rows = [(r.u, r.area) for r in outer] + [(w.u, w.area) for w in self.windows]
        total = sum(a for _, a in rows)
        return sum(u * a for u, a in rows) / total if total > 0 else 0.0


def schedule_of(brief: Brief, building: Building, worth: Worth, project: str = "") -> Schedule:
    """Sum a building's faces up by element, construction and true orientation, beside what they cost and embody."""
    rows, glass = areas_of(brief, building)
    return Schedule(brief.scheme.name, project, rows, glass, tuple(worth["parts"]))


def _shown(value: float, unit: str, ip: bool) -> float:
    return to_ip(value, unit)[0] if ip else value


def _unit(unit: str, ip: bool) -> str:
    return to_ip(1.0, unit)[1] if ip else unit


def workbook(schedule: Schedule, ip: bool = False) -> bytes:
    """Return the schedule as XLSX: sheets Constructions, Layers, Areas, Windows, and Costs with all parts of the scheme; figures are numbers, not text."""
    from openpyxl import Workbook

    book = Workbook()
    area, u = _unit("m²", ip), _unit("W/m²K", ip)
    sheet = _sheet(book, "Constructions", ["Reference", "Construction", "Element", f"U {u}", f"Thickness {_unit('mm', ip)}",
                                           f"Heat capacity {_unit('kJ/m²K', ip)}", f"Area {area}", "Origin", "Source"])  # fmt: skip
    for row in schedule.opaque:
        c = row.construction
        sheet.append([
            plain(c.id), plain(c.name), NAMES[row.element], _shown(row.u, "W/m²K", ip), _shown(thickness(c) * 1000, "mm", ip),
            _shown(heat_capacity(c), "kJ/m²K", ip), _shown(row.area, "m²", ip), row.origin, plain(c.source),
        ])  # fmt: skip
    sheet = _sheet(book, "Layers", ["Reference", "Number", "Material", f"Thickness {_unit('mm', ip)}", f"Conductivity {_unit('W/mK', ip)}",
                                    f"Density {_unit('kg/m³', ip)}", f"Specific heat {_unit('J/kgK', ip)}", "Vapour resistance factor",
                                    "Interrupted by", "Share"])  # fmt: skip
    for c in {r.construction.id: r.construction for r in schedule.opaque}.values():
        for number, layer in enumerate(c.layers, 1):
            name = layer.name or ("air" if layer.air != "none" else "")
            sheet.append([
                plain(c.id), number, plain(name), _shown(layer.thickness_m * 1000, "mm", ip),
                None if layer.conductivity is None else _shown(layer.conductivity, "W/mK", ip), _shown(layer.density, "kg/m³", ip),
                _shown(layer.specific_heat, "J/kgK", ip), layer.vapour_resistance,
                plain(layer.inlay.name) if layer.inlay else None, layer.inlay.share if layer.inlay else None,
            ])  # fmt: skip
    sheet = _sheet(
        book,
        "Areas",
        ["Element", "Reference", "Construction", f"U {u}", *(f"{w.capitalize()} {area}" for w in WAYS), f"Sum {area}", *WORTH],
    )
    for row in schedule.opaque:
        sheet.append([
            NAMES[row.element], plain(row.construction.id), plain(row.construction.name), _shown(row.u, "W/m²K", ip),
            *(_shown(row.areas[w], "m²", ip) for w in WAYS), _shown(row.area, "m²", ip), *schedule.worth_of(row),
        ])  # fmt: skip
    sheet = _sheet(
        book,
        "Windows",
        ["Reference", "Glazing", f"U {u}", "g", "Visible", *(f"{w.capitalize()} {area}" for w in WAYS), f"Sum {area}", *WORTH],
    )
    for w in schedule.windows:
        sheet.append([
            plain(w.id), plain(w.name), _shown(w.u, "W/m²K", ip), w.g, w.visible, *(_shown(w.areas[way], "m²", ip) for way in WAYS),
            _shown(w.area, "m²", ip), *schedule.worth_of(w),
        ])  # fmt: skip
    sheet = _sheet(book, "Costs", ["Group", "Part", "Amount", "Unit", *WORTH, "Life years", "Upkeep €/a"])
    for part in schedule.parts:
        sheet.append([
            part["group"], plain(part["name"]), _shown(part["amount"], part["unit"], ip), _unit(part["unit"], ip), part["cost"],
            part["carbon_kg"], part["life_years"], part["upkeep"],
        ])  # fmt: skip
    del book["Sheet"]
    for made in book.worksheets:
        _dress(made)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


WORTH = ("Cost €", "Carbon kg")
"""Of products; empty where nobody knows."""


def _sheet(book: Workbook, name: str, head: list[str]) -> Worksheet:
    sheet: Worksheet = book.create_sheet(name)
    sheet.append(head)
    return sheet


def _dress(sheet: Worksheet) -> None:
    """Bold heads that stay, columns as wide as what stands in them, two or three digits."""
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    sheet.freeze_panes = "A2"
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for column in sheet.columns:
        letter = get_column_letter(column[0].column or 1)
        sheet.column_dimensions[letter].width = min(
            max(len(str(c.value or "")[:60]) if not isinstance(c.value, float) else 9 for c in column) + 2, 48
        )
        for cell in column[1:]:
            if isinstance(cell.value, float):
                cell.number_format = "0.000" if abs(cell.value) < 10 else "0.0"


PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{title}</title><style>
body{{font:13px/1.45 "Instrument Sans Variable","Instrument Sans",sans-serif;color:#22303A;margin:28px auto;max-width:1000px;padding:0 20px}}
h1{{font:600 24px Newsreader,Georgia,serif;margin:0}}h2{{font:600 17px Newsreader,Georgia,serif;margin:26px 0 6px}}
p{{color:#5D6468;margin:4px 0 0}}table{{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}}
th,td{{text-align:left;padding:3px 8px;border-bottom:1px solid #D9D3C7;vertical-align:top}}td.n,th.n{{text-align:right;white-space:nowrap}}
tr.sum td{{font-weight:650;border-bottom:0}}@media print{{body{{margin:0}}}}</style></head><body>{body}</body></html>"""


def page(schedule: Schedule, ip: bool = False) -> str:
    """Return the schedule as one page to print, nothing outside of it needed."""
    area, u = _unit("m²", ip), _unit("W/m²K", ip)
    title = f"{schedule.scheme}: constructions and areas"
    rows: list[OpaqueRow | WindowRow] = [*schedule.opaque, *schedule.windows]
    ways = [w for w in WAYS if any(r.areas[w] > 0.005 for r in rows)]
    head = "".join(f'<th class="n">{w} {area}</th>' for w in (*ways, "sum")) + '<th class="n">€</th><th class="n">kg CO₂e</th>'

    def figures(row: OpaqueRow | WindowRow) -> str:
        cells = "".join(f'<td class="n">{_shown(row.areas[w], "m²", ip):,.1f}</td>' if row.areas[w] > 0.005 else "<td></td>" for w in ways)
        worth = "".join(f'<td class="n">{_money(v)}</td>' for v in schedule.worth_of(row))
        return cells + f'<td class="n">{_shown(row.area, "m²", ip):,.1f}</td>{worth}'

    opaque = "".join(
        f"<tr><td>{NAMES[r.element]}</td><td>{_text(r.construction.name)}<br><small>{_text(r.construction.id)}, {r.origin}</small></td>"
        f'<td class="n">{_shown(r.u, "W/m²K", ip):.3f}</td>{figures(r)}</tr>'
        for r in schedule.opaque
    )
    glass = "".join(
        f"<tr><td>Window</td><td>{_text(w.name)}<br><small>{_text(w.id)}, g {w.g:.2f}, light {w.visible:.2f}</small></td>"
        f'<td class="n">{_shown(w.u, "W/m²K", ip):.2f}</td>{figures(w)}</tr>'
        for w in schedule.windows
    )
    table = f'<table><thead><tr><th>Element</th><th>Construction</th><th class="n">U {u}</th>{head}</tr></thead><tbody>{opaque}{glass}</tbody></table>'
    parts = "".join(
        f'<tr><td>{_text(p["name"])}</td><td class="n">{_shown(p["amount"], p["unit"], ip):,.1f} {_unit(p["unit"], ip)}</td>'
        f'<td class="n">{_money(p["cost"])}</td><td class="n">{_money(p["carbon_kg"])}</td><td class="n">{p["life_years"]}</td>'
        f'<td class="n">{p["upkeep"]:,.0f}</td></tr>'
        for p in schedule.parts
    )
    heads = "".join(f'<th class="n">{h}</th>' for h in ("amount", "€", "kg CO₂e", "life, years", "upkeep €/a"))
    costs = f"<h2>Costs and carbon of all parts</h2><table><thead><tr><th>Part</th>{heads}</tr></thead><tbody>{parts}</tbody></table>"
    layers = "".join(_layers(c, ip) for c in {r.construction.id: r.construction for r in schedule.opaque if r.construction.layers}.values())
    mean = f"Mean U-value of all that meets outdoors or ground: {_shown(schedule.mean_u, 'W/m²K', ip):.3f} {u}."
    note = "Areas are external and without windows; windows with their frames; what lies between zones counts once. Design-stage figures, no proof of compliance."
    body = f"<h1>{_text(title)}</h1><p>{_text(schedule.project)}</p><h2>Areas by element and orientation</h2>{table}<p>{mean} {note}</p><h2>Layers, from outside to inside</h2>{layers}{costs}"
    return PAGE.format(title=_text(title), body=body)


def _money(value: float | None) -> str:
    return "unknown" if value is None else f"{value:,.0f}"


def _layers(construction: Construction, ip: bool) -> str:
    rows = "".join(
        f"<tr><td>{n}</td><td>{_text(la.name or 'air')}{_inlay(la.inlay.name, la.inlay.share) if la.inlay else ''}</td>"
        f'<td class="n">{_shown(la.thickness_m * 1000, "mm", ip):.{2 if ip else 1}f}</td>'
        f'<td class="n">{"" if la.conductivity is None else format(_shown(la.conductivity, "W/mK", ip), ".3f")}</td>'
        f'<td class="n">{_shown(la.density, "kg/m³", ip):.0f}</td></tr>'
        for n, la in enumerate(construction.layers, 1)
    )
    units = (_unit("mm", ip), _unit("W/mK", ip), _unit("kg/m³", ip))
    head = f"<th>{_text(construction.id)}</th><th>{_text(construction.name)}</th>" + "".join(f'<th class="n">{u}</th>' for u in units)
    return f"<table><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table><br>"


def _inlay(name: str, share: float) -> str:
    return f"<br><small>interrupted by {_text(name or 'studs')}, {share:.0%}</small>"


def _text(value: str) -> str:
    return html.escape(value)
