import { Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Edit, got, type ProjectState } from "../../api/client";
import { useEdit, useProject, useProjectId, useScheme } from "../../api/hooks";
import { Workbench } from "../../app/Sheet";
import { tell, useKept, useView } from "../../app/state";
import { freshId } from "../../app/words";
import { NumberField } from "../../fields/Field";
import { FileButton } from "../../fields/FileButton";
import { Scene } from "../../scene/Scene";
import { ClimateSheet } from "./ClimateSheet";

interface StandIn {
  id: string;
  name: string;
  kind: string;
  latitude_deg: number;
}

/** Where it is: climate, north, what stands around. */
export default function Place() {
  const { state } = useScheme();
  const edit = useEdit();
  const project = useProjectId();
  const revision = useProject().data?.revision;
  const queries = useQueryClient();
  const { selection, set } = useView();
  const [over, setOver] = useState(false);
  const [sheet, setSheet] = useState(true);
  const units = useKept((s) => s.units);
  const standIns = useQuery({
    queryKey: ["climates"],
    queryFn: async () => (await got(client.GET("/api/climates"))) as unknown as StandIn[],
  });
  const place = state.completed.place;
  const climate = place?.climate;
  const boxes = place?.boxes ?? [];
  const trees = place?.trees ?? [];
  const box = selection?.kind === "box" ? boxes.find((b) => b.id === selection.id) : undefined;

  const tree = selection?.kind === "tree" ? trees.find((t) => t.id === selection.id) : undefined;

  async function take(file: File) {
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch(`/api/projects/${project}/climate?revision=${revision}`, { method: "POST", body });
    const said = (await answer.json()) as ProjectState & { message?: string };
    if (!answer.ok) return tell(`${file.name}: ${said.message ?? "cannot be read"}`, true);
    queries.setQueryData(["project", project], said);
    tell(`${file.name} is the climate year now.`);
  }

  function addBox() {
    const id = freshId(
      "neighbour",
      boxes.map((b) => b.id),
    );
    const item = { id, name: `Neighbour ${boxes.length + 1}`, x: -30, y: 0, length: 20, depth: 15, height: 10 };
    void edit({ op: "put", path: "place/boxes", item } as unknown as Edit).then(
      (ok) => ok && set({ selection: { kind: "box", id } }),
    );
  }

  function addTree() {
    const id = freshId(
      "tree",
      trees.map((t) => t.id),
    );
    const item = { id, name: `Tree ${trees.length + 1}`, x: -5 - 8 * trees.length, y: -10, height: 9, crown: 6 };
    void edit({ op: "put", path: "place/trees", item } as unknown as Edit);
  }

  return (
    <Workbench
      canvas={
        <section
          aria-label="Site"
          style={{
            position: "relative",
            minWidth: 0,
            minHeight: 0,
            display: "grid",
            gridTemplateRows: "minmax(0, 1fr) auto",
            outline: over ? "3px solid var(--tide)" : 0,
            outlineOffset: -3,
          }}
          onDragOver={(e) => {
            e.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={(e) => {
            e.preventDefault();
            setOver(false);
            const file = e.dataTransfer.files[0];
            if (file) void take(file);
          }}
        >
          <Scene
            tools={
              climate && (
                <Button variant="outlined" aria-pressed={sheet} onClick={() => setSheet(!sheet)}>
                  {sheet ? "Hide climate sheet" : "Show climate sheet"}
                </Button>
              )
            }
          />
          {sheet && climate && <ClimateSheet units={units} />}
          {!climate && (
            <div
              className="overlay"
              style={{
                left: "50%",
                top: "34%",
                transform: "translate(-50%,-50%)",
                padding: 20,
                textAlign: "center",
                maxWidth: 420,
              }}
            >
              <h2>Which climate?</h2>
              <p className="quiet">Drop an EPW weather file here, or choose a stand-in climate at the right.</p>
            </div>
          )}
        </section>
      }
    >
      <h2>{place?.name || "Place"}</h2>
      <section>
        <div className="spread">
          <h3>Climate year</h3>
          <span className="quiet small">
            {climate ? (climate.kind === "file" ? "from a file" : "stand-in") : "none chosen"}
          </span>
        </div>
        {standIns.data?.map((c) => (
          <button
            key={c.id}
            type="button"
            className="plain"
            aria-pressed={climate?.id === c.id}
            style={{
              display: "flex",
              width: "100%",
              justifyContent: "space-between",
              padding: "3px 6px",
              borderRadius: 5,
              background: climate?.id === c.id ? "#DCEBE8" : undefined,
            }}
            onClick={() =>
              void edit({
                op: "set",
                path: "place/climate",
                value: { kind: "stand-in", id: c.id, name: c.name },
              } as Edit)
            }
          >
            <span>{c.name}</span>
            <span className="quiet small">
              {c.kind}, {Math.abs(c.latitude_deg).toFixed(0)}° {c.latitude_deg < 0 ? "S" : "N"}
            </span>
          </button>
        ))}
        {climate?.kind === "file" && <p>“{climate.name}” from the user's file.</p>}
        <div style={{ marginTop: 8 }}>
          <FileButton name="Take an EPW file" accept=".epw" onFile={(file) => void take(file)} />
        </div>
      </section>
      <section>
        <h3>North and ground</h3>
        <NumberField path="place/north_deg" note="Place.north_deg" slider form />
        <NumberField path="place/ground_level_m" note="Place.ground_level_m" />
        <NumberField path="place/ground_reflectance" note="Place.ground_reflectance" />
      </section>
      <section>
        <div className="spread">
          <h3>Surroundings</h3>
          <span className="quiet small">
            {boxes.length} boxes, {trees.length} trees
          </span>
        </div>
        {boxes.map((b) => (
          <div key={b.id}>
            <button
              type="button"
              className="plain"
              aria-pressed={box?.id === b.id}
              onClick={() => set({ selection: box?.id === b.id ? null : { kind: "box", id: b.id } })}
            >
              {b.name || b.id}
            </button>
            {box?.id === b.id && (
              <div style={{ paddingLeft: 8 }}>
                {["x", "y", "length", "depth", "height", "turn_deg"].map((k) => (
                  <NumberField key={k} path={`place/boxes/${b.id}/${k}`} note={`Box.${k}`} form />
                ))}
                <Button
                  variant="outlined"
                  onClick={() => {
                    set({ selection: null });
                    void edit({ op: "remove", path: `place/boxes/${b.id}` } as Edit);
                  }}
                >
                  Remove
                </Button>
              </div>
            )}
          </div>
        ))}
        <details>
          <summary>
            Trees <span className="quiet">{trees.length}</span>
          </summary>
          {trees.map((t) => (
            <div key={t.id}>
              <button
                type="button"
                className="plain"
                aria-pressed={tree?.id === t.id}
                onClick={() => set({ selection: tree?.id === t.id ? null : { kind: "tree", id: t.id } })}
              >
                {t.name || t.id}
              </button>
              {tree?.id === t.id && (
                <div style={{ paddingLeft: 8 }}>
                  {["x", "y", "height", "crown", "leaf_transmittance", "bare_transmittance"].map((k) => (
                    <NumberField key={k} path={`place/trees/${t.id}/${k}`} note={`Tree.${k}`} form />
                  ))}
                  <Button
                    variant="outlined"
                    onClick={() => {
                      set({ selection: null });
                      void edit({ op: "remove", path: `place/trees/${t.id}` } as Edit);
                    }}
                  >
                    Remove
                  </Button>
                </div>
              )}
            </div>
          ))}
        </details>
        <div className="row" style={{ marginTop: 8 }}>
          <Button variant="outlined" onClick={addBox}>
            Add box
          </Button>
          <Button variant="outlined" onClick={addTree}>
            Add tree
          </Button>
        </div>
      </section>
    </Workbench>
  );
}
