import { Button, MenuItem, Select } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProjectId, useScheme, useShelf } from "../../api/hooks";
import { useKept } from "../../app/state";
import { Told } from "../../app/Told";
import { both, freshId, scale } from "../../app/words";
import { Typed } from "../../fields/Typed";

const gases = ["air", "argon", "krypton"] as const;

/** A window built of panes, gaps and a frame: what it comes to is worked out as it is put together, and kept as a glazing of the project. */
export function GlassBuilder() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const shelf = useShelf().data;
  const edit = useEdit();
  const units = useKept((s) => s.units);
  const [chosen, setChosen] = useState(["clear", "lowe-out"]);
  const [gas, setGas] = useState<(typeof gases)[number]>("argon");
  const [gap, setGap] = useState(0.016);
  const [frame, setFrame] = useState({ share: 0.25, u: 1.3, edge: 0.05 });
  const [name, setName] = useState("");
  const panes = useQuery({
    queryKey: ["panes", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}/panes", { params: { path: { project_id: project } } })),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const build = {
    panes: chosen.flatMap((id) => panes?.find((p) => p.id === id)?.pane ?? []),
    gaps: chosen.slice(1).map(() => ({ thickness_m: gap, gas })),
    frame_share: frame.share,
    frame_u: frame.u,
    edge_w_mk: frame.edge,
  };
  const told = useQuery({
    queryKey: ["glass", JSON.stringify(build)],
    queryFn: () =>
      got(
        client.POST("/api/projects/{project_id}/glazings/examine", {
          params: { path: { project_id: project } },
          body: build,
        }),
      ),
    enabled: Boolean(panes),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const glass = told.data;
  const own =
    name.trim() ||
    `${["Single", "Double", "Triple", "Fourfold"][chosen.length - 1]}, ${chosen.length > 1 ? gas : "built"}`;

  async function keep() {
    if (!glass) return;
    const id = freshId(
      "glass",
      (shelf?.glazings ?? []).map((g) => g.id),
    );
    const figures = {
      u_value: Number(glass.window_u.toFixed(3)),
      g_value: Number(glass.g.toFixed(3)),
      visible: Number(glass.visible.toFixed(3)),
    };
    const item = {
      id,
      name: own,
      ...figures,
      panes: chosen.length,
      frame_share: frame.share,
      build,
      source: "built of panes and gaps (EN 673, EN 410, ISO 10077-1)",
    };
    await edit(make.together([make.put("library/glazings", item), make.set(`schemes/${scheme.id}/skin/glazing`, id)]));
  }
  const number = (
    label: string,
    value: number,
    unit: string,
    onValue: (v: number) => void,
    factor = scale(unit, units).factor,
  ) => (
    <Typed
      label={label}
      name={`glass-${label}`}
      value={String(Number((value * factor).toFixed(3)))}
      unit={unit === "%" ? "%" : scale(unit, units).unit}
      onCommit={(t) => Number.isFinite(Number(t.replace(",", "."))) && onValue(Number(t.replace(",", ".")) / factor)}
    />
  );
  return (
    <details>
      <summary>Build a window of panes</summary>
      {chosen.map((id, i) => (
        <div className="field wide" key={`pane ${i + 1}`}>
          <span className="name">Pane {i + 1}</span>
          <span className="tags">
            {chosen.length > 1 && (
              <button
                type="button"
                className="plain assumed"
                aria-label={`Without pane ${i + 1}`}
                onClick={() => setChosen(chosen.filter((_, k) => k !== i))}
              >
                without
              </button>
            )}
          </span>
          <Select
            fullWidth
            value={id}
            inputProps={{ "aria-label": `Pane ${i + 1}` }}
            onChange={(e) => setChosen(chosen.map((o, k) => (k === i ? e.target.value : o)))}
          >
            {(panes ?? []).map((p) => (
              <MenuItem key={p.id} value={p.id}>
                {p.pane.name}
              </MenuItem>
            ))}
          </Select>
        </div>
      ))}
      <div className="small quiet">from outside to inside</div>
      {chosen.length < 4 && (
        <Button variant="outlined" onClick={() => setChosen([...chosen, "clear"])}>
          Add pane
        </Button>
      )}
      {chosen.length > 1 && (
        <>
          <div className="field wide">
            <span className="name">Gas</span>
            <span />
            <Select
              fullWidth
              value={gas}
              inputProps={{ "aria-label": "Gas" }}
              onChange={(e) => setGas(e.target.value as typeof gas)}
            >
              {gases.map((g) => (
                <MenuItem key={g} value={g}>
                  {g}
                </MenuItem>
              ))}
            </Select>
          </div>
          {number("Gap", gap * 1000, "mm", (v) => setGap(v / 1000))}
        </>
      )}
      {number("Frame share", frame.share, "%", (share) => setFrame({ ...frame, share }), 100)}
      {number("U of the frame", frame.u, "W/m²K", (u) => setFrame({ ...frame, u }))}
      {number("Edge of the glass", frame.edge, "W/m·K", (edge) => setFrame({ ...frame, edge }))}
      {told.isError && (
        <div className="remark fault">
          <Told text={told.error.message} />
        </div>
      )}
      {glass && (
        <div className="small" data-glass>
          Glass U {both(glass.glass_u, "W/m²K", units, 2)}, window U {both(glass.window_u, "W/m²K", units, 2)} · g{" "}
          {glass.g.toFixed(2)} · light {glass.visible.toFixed(2)}
        </div>
      )}
      <div className="row" style={{ margin: "6px 0" }}>
        <input
          className="cell wide"
          aria-label="Name of the window"
          placeholder={own}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Button variant="contained" disabled={!glass || told.isError} onClick={() => void keep()}>
          Use it
        </Button>
      </div>
    </details>
  );
}
