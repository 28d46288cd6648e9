import { Button } from "@mui/material";
import { type ReactNode, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProjectId, useScheme } from "../../api/hooks";
import { endingsOf } from "../../api/readers";
import { tell, useView } from "../../app/state";
import { count, freshId } from "../../app/words";
import { NumberField } from "../../fields/Field";
import { FileButton } from "../../fields/FileButton";
import { useWorking } from "../storeys";
import { type Drawing, type Laid, useDrawings, useLaid } from "./Underlays";

/** Reads a plan or picture and lays it under a scheme or the site; tells whether it is being read. */
export function useLayUnder(group: string): [(file: File) => Promise<void>, boolean] {
  const project = useProjectId();
  const { scheme } = useScheme();
  const edit = useEdit();
  const set = useView((s) => s.set);
  const [busy, setBusy] = useState(false);
  const { level } = useWorking();
  const laid = useLaid(scheme).filter((u) => u.path.startsWith(`${group}/`));

  async function add(file: File) {
    setBusy(true);
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch(`/api/projects/${project}/drawings`, { method: "POST", body });
    const said = (await answer.json()) as Schemas["DrawingOut"] & { message?: string };
    setBusy(false);
    if (!answer.ok) return tell(said.message ?? `${file.name} was not taken.`, true);
    const id = freshId(
      "plan",
      laid.map((u) => u.id),
    );
    const onSite = group.startsWith("place/");
    const middle = said.picture && onSite ? said.metres : 0;
    const item = {
      id,
      drawing: said.drawing,
      name: said.name,
      metres: said.metres,
      ...(onSite ? {} : { level_m: level }),
      ...(said.guessed || said.picture ? { assumed: ["metres"] } : {}),
      ...(middle ? { x: (-said.bounds[2] / 2) * middle, y: (-said.bounds[3] / 2) * middle } : {}),
    };
    if (await edit(make.put(group, item))) {
      set({ plan: true, underlay: `${group}/${id}`, ...(onSite ? {} : { level }) });
      const width = Math.round(said.metres * said.bounds[2]);
      tell(
        said.picture
          ? `The picture is taken to be ${width} m wide. Scale it by two points whose distance you know.`
          : said.guessed
            ? `The plan does not say its unit; ${said.metres === 1 ? "metres" : `${said.metres} m a unit`} was taken. Scale it by two points to be sure.`
            : `The plan is drawn in ${said.unit}.`,
      );
    }
  }
  return [add, busy];
}

/** Plans and pictures to draw over, of a scheme or of the site: read, placed, scaled, their layers switched. */
export function LayUnder({
  group,
  title,
  button,
  children,
}: {
  /** Where they are kept, such as place/underlays. */
  group: string;
  title: string;
  button: string;
  /** What else is done with one of them. */
  children?: (laid: Laid, drawing: Drawing) => ReactNode;
}) {
  const { scheme } = useScheme();
  const [add, busy] = useLayUnder(group);
  const laid = useLaid(scheme).filter((u) => u.path.startsWith(`${group}/`));
  const drawings = useDrawings(laid);

  return (
    <section data-section="plans">
      <div className="spread">
        <h3>{title}</h3>
        <FileButton
          name={button}
          said={busy ? "Reading it" : undefined}
          accept={endingsOf("drawing")}
          busy={busy}
          onFile={(file) => void add(file)}
        />
      </div>
      {laid.map((u) => (
        <LaidSheet key={u.path} laid={u} drawing={drawings.get(u.drawing)}>
          {children}
        </LaidSheet>
      ))}
    </section>
  );
}

function LaidSheet({
  laid,
  drawing,
  children,
}: {
  laid: Laid;
  drawing?: Drawing;
  children?: (laid: Laid, drawing: Drawing) => ReactNode;
}) {
  const edit = useEdit();
  const set = useView((s) => s.set);
  const { path } = laid;
  const onSite = path.startsWith("place/");
  const hidden = new Set(laid.hidden ?? []);
  const level = laid.level_m ?? null;
  const was = useRef(level);
  useEffect(() => {
    if (was.current !== level && level !== null) set({ level, plan: true }); // the storey that it was laid under opens
    was.current = level;
  }, [level, set]);

  function toggle(name: string) {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    void edit(make.set(`${path}/hidden`, [...next]));
  }
  return (
    <details data-plan={laid.name} open>
      <summary>{laid.name || laid.id}</summary>
      <div className="row" style={{ flexWrap: "wrap", gap: 6, marginBottom: 6 }}>
        <Button variant="outlined" onClick={() => set({ plan: true, drawing: "scale", underlay: path })}>
          Scale by two points
        </Button>
        <Button variant="outlined" onClick={() => set({ plan: true, drawing: "place", underlay: path })}>
          Place by points
        </Button>
        <Button variant="outlined" onClick={() => void edit(make.remove(path))}>
          Take away
        </Button>
        <label className="row small" style={{ gap: 6 }}>
          <input
            type="checkbox"
            checked={laid.shown ?? true}
            onChange={(e) => void edit(make.set(`${path}/shown`, e.target.checked))}
          />
          shown
        </label>
      </div>
      {(["x", "y", "turn_deg", "metres"] as const).map((k) => (
        <NumberField key={k} path={`${path}/${k}`} note={`Underlay.${k}`} />
      ))}
      {!onSite && <NumberField path={`${path}/level_m`} note="Underlay.level_m" />}
      {drawing?.picture && <NumberField path={`${path}/strength`} note="Underlay.strength" />}
      {drawing && drawing.layers.length > 0 && (
        <>
          <h4>Layers</h4>
          <div style={{ maxHeight: 150, overflow: "auto" }}>
            {drawing.layers.map((l) => (
              <label key={l.name} className="row small" style={{ gap: 6 }}>
                <input type="checkbox" checked={!hidden.has(l.name)} onChange={() => toggle(l.name)} />
                {l.name}
                <span className="quiet">
                  {count(l.segments.length / 4, "line")}
                  {l.closed > 0 ? `, ${l.closed} closed` : ""}
                </span>
              </label>
            ))}
          </div>
          {children?.(laid, drawing)}
        </>
      )}
    </details>
  );
}
