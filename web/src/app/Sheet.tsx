import { type ReactNode, useState } from "react";
import { useLocation } from "react-router";
import type { Geometry, Remark, Volume } from "../api/client";
import { useGeometry, useRemarks, useScheme } from "../api/hooks";
import { FirstSteps } from "./FirstSteps";
import { leadTo } from "./lead";
import { pick, useChosen, useKept, useKeptOf, useView, useViewed } from "./state";
import { count, said } from "./words";

/** Canvas and sheet side by side; the sheet's edge can be dragged. */
export function Workbench({ canvas, children }: { canvas: ReactNode; children: ReactNode }) {
  const { sheetWidth, setSheetWidth } = useKeptOf("sheetWidth", "setSheetWidth");
  const [from, setFrom] = useState<{ x: number; width: number } | null>(null);
  return (
    <main className="work" style={{ ["--sheet" as string]: `${sheetWidth}px` }}>
      {canvas}
      <button
        type="button"
        className="sheet-grip"
        aria-label="Width of the sheet; arrow keys change it"
        onPointerDown={(e) => {
          setFrom({ x: e.clientX, width: sheetWidth });
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => from && setSheetWidth(Math.min(Math.max(from.width + from.x - e.clientX, 280), 640))}
        onPointerUp={() => setFrom(null)}
        onKeyDown={(e) => {
          if (e.key === "ArrowLeft") setSheetWidth(Math.min(sheetWidth + 20, 640));
          if (e.key === "ArrowRight") setSheetWidth(Math.max(sheetWidth - 20, 280));
        }}
      />
      <aside className="sheet" aria-label="Sheet">
        <FirstSteps />
        <Remarks />
        {children}
      </aside>
    </main>
  );
}

/** What is missing, doubtful or mended in this stage; each remark leads to its place. */
function Remarks() {
  const { scheme } = useScheme();
  const set = useView((s) => s.set);
  const stage = useLocation().pathname.split("/")[3];
  const units = useKept((s) => s.units);
  const open = useRemarks().filter((r) => r.stage === stage && r.weight !== "note");

  function lead(remark: Remark) {
    const path = remark.object.replace(/^scheme\//, `schemes/${scheme.id}/`);
    const volume = path.match(/\/volumes\/([^/]+)/)?.[1];
    const box = path.match(/^place\/boxes\/([^/]+)/)?.[1];
    if (volume) set({ selection: { kind: "volume", id: volume } });
    if (box) set({ selection: { kind: "box", id: box } });
    void leadTo(path);
  }
  return (
    <>
      {open.map((r) => (
        <div className="remark" key={`${r.code}${r.object}`} data-remark={r.code}>
          {said(r.sentence, units)}{" "}
          {r.mend && r.object.includes("/") && (
            <button type="button" className="plain assumed" onClick={() => lead(r)}>
              {r.mend}
            </button>
          )}
        </div>
      ))}
    </>
  );
}

/** What a zone and its storey are called beside their volume. */
function partNames(zone: Geometry["zones"][number], volume: Volume | undefined): { zone: string; storey: string } {
  const number = volume?.storeys?.findIndex((s) => s.id === zone.storey) ?? -1;
  if (!volume || number < 0)
    return { zone: zone.name, storey: Number.isNaN(Number(zone.storey)) ? zone.storey : `storey ${zone.storey}` };
  const storey = volume.storeys?.[number].name || `storey ${number}`;
  const rest = zone.name.slice(`${volume.name || volume.id}, ${storey}`.length);
  return { zone: rest.replace(/^, /, "") || "whole storey", storey };
}

/** Heads a part of a sheet by what its fields act on. */
export function ActsOn({ what, more }: { what: string; more?: ReactNode }) {
  return (
    <h2 className="acts-on">
      {what} {more && <span className="quiet">{more}</span>}
    </h2>
  );
}

/** Where the selection is: face, zone, storey, volume; a click widens it. */
export function Crumbs() {
  const { scheme } = useScheme();
  const { selection, also, set } = useViewed("selection", "also", "set");
  const geometry = useGeometry(scheme.id).data;
  if (!selection) return null;
  if (also.length > 0)
    return (
      <nav className="crumbs" aria-label="Selection">
        <span className="quiet">several</span>
        <span style={{ flex: 1 }} />
        <button type="button" className="plain" onClick={() => set({ selection: null })}>
          let go
        </button>
      </nav>
    );
  const face = selection.kind === "face" ? geometry?.faces.find((f) => f.id === selection.id) : undefined;
  const zoneId = face?.zone ?? (selection.kind === "zone" ? selection.id : undefined);
  const zone = geometry?.zones.find((z) => z.id === zoneId);
  const volumeId = zone?.volume ?? (selection.kind === "volume" ? selection.id : undefined);
  const volume = (scheme.volumes ?? []).find((v) => v.id === volumeId);
  const called = zone && partNames(zone, volume);
  return (
    <nav className="crumbs" aria-label="Selection">
      {face && <span>{face.orientation ? `${face.kind} ${face.orientation}` : face.kind}</span>}
      {face && zone && " › "}
      {zone && (
        <button type="button" className="plain" onClick={() => set({ selection: { kind: "zone", id: zone.id } })}>
          {called?.zone}
        </button>
      )}
      {zone && (
        <>
          {" › "}
          <button type="button" className="plain" onClick={() => set({ level: zone.level })}>
            {called?.storey}
          </button>
        </>
      )}
      {zone && volume && " › "}
      {volume && (
        <button type="button" className="plain" onClick={() => set({ selection: { kind: "volume", id: volume.id } })}>
          {volume.name || volume.id}
        </button>
      )}
      <button type="button" className="plain" style={{ marginLeft: "auto" }} onClick={() => set({ selection: null })}>
        let go
      </button>
    </nav>
  );
}

/** The canvas as a list, for keyboard and screen reader. */
export function ObjectList() {
  const { scheme } = useScheme();
  const chosen = useChosen();
  const geometry = useGeometry(scheme.id).data;
  return (
    <details>
      <summary>
        Objects <span className="quiet">{geometry ? count(geometry.zones.length, "zone") : ""}</span>
      </summary>
      <div style={{ maxHeight: 240, overflow: "auto" }}>
        {(scheme.volumes ?? []).map((v) => (
          <div key={v.id}>
            <button
              type="button"
              className="plain"
              aria-pressed={chosen.includes(v.id)}
              style={{ fontWeight: 650 }}
              onClick={(e) => pick({ kind: "volume", id: v.id }, e.shiftKey)}
            >
              {v.name || v.id}
            </button>
            {geometry?.zones
              .filter((z) => z.volume === v.id)
              .map((z) => (
                <div key={z.id} style={{ paddingLeft: 14 }}>
                  <button
                    type="button"
                    className="plain small"
                    aria-pressed={chosen.includes(z.id)}
                    onClick={(e) => pick({ kind: "zone", id: z.id }, e.shiftKey)}
                  >
                    {z.name}
                  </button>
                </div>
              ))}
          </div>
        ))}
        {geometry?.zones
          .filter((z) => !(scheme.volumes ?? []).some((v) => v.id === z.volume))
          .map((z) => (
            <div key={z.id}>
              <button
                type="button"
                className="plain small"
                aria-pressed={chosen.includes(z.id)}
                onClick={(e) => pick({ kind: "zone", id: z.id }, e.shiftKey)}
              >
                {z.name}
              </button>
            </div>
          ))}
      </div>
    </details>
  );
}
