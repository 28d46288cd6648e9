import { Button } from "@mui/material";
import { useState } from "react";
import type { Volume } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useScheme } from "../../api/hooks";
import { useKept } from "../../app/state";
import { count } from "../../app/words";
import { keepOnEnter } from "../../fields/enter";
import { ChoiceField, NumberField } from "../../fields/Field";
import { at } from "../../fields/paths";
import { type NamedEdge, useEdges } from "./edges";

type Zoning = NonNullable<Volume["zoning"]>;
interface EdgeDepth {
  id: string;
  depth_m: number;
}

const ways = [
  ["", "as the volume"],
  ["one", "one zone"],
  ["by_edge", "perimeter by edge, and core"],
  ["ring", "perimeter as a ring, and core"],
] as const;

/** How the storeys of a volume are divided into zones. */
export function ZoningSection({ volume, zones }: { volume: Volume; zones: number | undefined }) {
  const { scheme, given } = useScheme();
  const edit = useEdit();
  const { all } = useEdges(volume.id);
  const path = `schemes/${scheme.id}/volumes/${volume.id}`;
  const zoning = volume.zoning ?? {};
  const others = (scheme.volumes ?? []).filter((v) => v.id !== volume.id);

  function giveToAll() {
    // depths by edge hang on this volume's own outline
    const { edges: _, ...value } = (at(given, `volumes/${volume.id}/zoning`) ?? {}) as Zoning;
    const edits = others.map((v) => make.set(`schemes/${scheme.id}/volumes/${v.id}/zoning`, value));
    void edit(make.together(edits));
  }
  function storey(id: string, way: string) {
    const at = `${path}/storeys/${id}/zoning`;
    if (way === "") void edit(make.reset(at));
    else {
      const depth = {
        depth_m: zoning.depth_m ?? 4.5,
        ...(zoning.borders === "walls" ? { borders: "walls" as const } : {}),
      };
      const value = way === "one" ? { kind: "one" } : { kind: "perimeter_core", around: way, ...depth };
      void edit(make.set(at, value));
    }
  }
  return (
    <section>
      <div className="spread">
        <h3>Zones</h3>
        <span className="quiet small">{zones === undefined ? "…" : count(zones, "zone")}</span>
      </div>
      <ChoiceField
        path={`${path}/zoning/kind`}
        note="Zoning.kind"
        options={[
          { id: "one", name: "one per storey" },
          { id: "perimeter_core", name: "perimeter and core" },
        ]}
      />
      {zoning.kind === "perimeter_core" && (
        <>
          <NumberField path={`${path}/zoning/depth_m`} note="Zoning.depth_m" slider form />
          <ChoiceField
            path={`${path}/zoning/around`}
            note="Zoning.around"
            options={[
              { id: "by_edge", name: "one zone an edge" },
              { id: "ring", name: "one ring" },
            ]}
          />
          <ChoiceField
            path={`${path}/zoning/borders`}
            note="Zoning.borders"
            options={[
              { id: "open", name: "open, light passes" },
              { id: "walls", name: "walls" },
            ]}
          />
          <details data-section="depths">
            <summary>
              Depth by edge <span className="quiet">{zoning.edges?.length || ""}</span>
            </summary>
            {all.map((e) => (
              <Depth key={e.id} edge={e} path={`${path}/zoning/edges`} zoning={zoning} />
            ))}
            <p className="quiet small">0 leaves an edge without a strip; an empty field has the depth of the others.</p>
          </details>
        </>
      )}
      {volume.storeys.length > 1 && (
        <details data-section="storey-zoning">
          <summary>Storey by storey</summary>
          {volume.storeys.map((s, i) => (
            <label key={s.id} className="row spread" style={{ gap: 6, marginTop: 4 }}>
              {s.name || `Storey ${i}`}
              <select
                className="text-box"
                name={`${path}/storeys/${s.id}/zoning`}
                value={s.zoning ? (s.zoning.kind === "one" ? "one" : (s.zoning.around ?? "by_edge")) : ""}
                onChange={(e) => storey(s.id, e.target.value)}
              >
                {ways.map(([id, name]) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </details>
      )}
      {others.length > 0 && (
        <div style={{ marginTop: 8 }}>
          <Button variant="outlined" onClick={giveToAll}>
            Divide all volumes so
          </Button>
        </div>
      )}
    </section>
  );
}

/** The depth of the perimeter behind one edge. */
function Depth({ edge, path, zoning }: { edge: NamedEdge; path: string; zoning: Zoning }) {
  const units = useKept((s) => s.units);
  const edit = useEdit();
  const factor = units === "IP" ? 0.3048 : 1;
  const own = ((zoning.edges ?? []) as EdgeDepth[]).find((e) => e.id === edge.id);
  const shown = own ? String(Number((own.depth_m / factor).toFixed(2))) : "";
  const [text, setText] = useState<string | null>(null);
  const typed = Number((text ?? shown).replace(",", "."));

  function commit() {
    if (text !== null && text !== shown && Number.isFinite(typed)) {
      const item = { id: edge.id, depth_m: Number((typed * factor).toFixed(4)) };
      if (text.trim()) void edit(make.put(path, item));
      else if (own) void edit(make.remove(`${path}/${edge.id}`));
    }
    setText(null);
  }
  return (
    <div className="field">
      <label htmlFor={`depth-${edge.id}`}>{edge.name}</label>
      <span />
      <input
        id={`depth-${edge.id}`}
        name={`${path}/${edge.id}`}
        value={text ?? shown}
        placeholder={String(Number(((zoning.depth_m ?? 4.5) / factor).toFixed(2)))}
        inputMode="decimal"
        aria-invalid={!Number.isFinite(typed)}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={keepOnEnter}
      />
      <span className="unit">{units === "IP" ? "ft" : "m"}</span>
    </div>
  );
}
