import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, got, ServerFault, type Volume } from "../../api/client";
import { make } from "../../api/edits";
import { asItIs, useChange, useEdit, useGeometry, useProjectId, useReshape, useScheme } from "../../api/hooks";
import { tell, useKept, useView } from "../../app/state";
import { freshId } from "../../app/words";
import { clearSpot } from "../../scene/plan/drawing";
import { lieOf } from "../../scene/plan/held";
import { useWorking } from "../../scene/storeys";

/** What can be done with a volume as a whole. */
export function ReshapeSection({ volume }: { volume: Volume }) {
  const { scheme } = useScheme();
  const set = useView((s) => s.set);
  const reshape = useReshape();
  const [side, setSide] = useState<"east" | "north" | "west" | "south">("east");
  const others = (scheme.volumes ?? []).filter((v) => v.id !== volume.id);
  const [other, setOther] = useState("");
  return (
    <details>
      <summary>Reshape</summary>
      <div className="row" style={{ flexWrap: "wrap", gap: 6 }}>
        <Button variant="outlined" onClick={() => void reshape({ op: "mirror", volume: volume.id, axis: "x" })}>
          Mirror left to right
        </Button>
        <Button variant="outlined" onClick={() => void reshape({ op: "mirror", volume: volume.id, axis: "y" })}>
          Mirror front to back
        </Button>
        {volume.form.kind !== "polygon" && (
          <Button variant="outlined" onClick={() => void reshape({ op: "to_outline", volume: volume.id })}>
            Make it a free outline
          </Button>
        )}
        <Button
          variant="outlined"
          onClick={() => set({ drawing: "cut", plan: true, selection: { kind: "volume", id: volume.id } })}
        >
          Cut in two
        </Button>
      </div>
      <div className="row" style={{ gap: 6, marginTop: 8 }}>
        <select
          className="text-box"
          aria-label="Side to repeat on"
          value={side}
          onChange={(e) => setSide(e.target.value as typeof side)}
        >
          <option value="east">to the right</option>
          <option value="west">to the left</option>
          <option value="north">behind</option>
          <option value="south">in front</option>
        </select>
        <Button variant="outlined" onClick={() => void reshape({ op: "beside", volume: volume.id, side, count: 1 })}>
          Repeat beside
        </Button>
      </div>
      {others.length > 0 && (
        <div className="row" style={{ gap: 6, marginTop: 8 }}>
          <select
            className="text-box"
            aria-label="Volume to join with"
            value={other || others[0].id}
            onChange={(e) => setOther(e.target.value)}
          >
            {others.map((v) => (
              <option key={v.id} value={v.id}>
                {v.name || v.id}
              </option>
            ))}
          </select>
          <Button
            variant="outlined"
            onClick={() => void reshape({ op: "join", volume: volume.id, other: other || others[0].id })}
          >
            Join
          </Button>
        </div>
      )}
    </details>
  );
}

/** Takes a zone out as a scheme of its own. */
export function AloneButton({ zone, name }: { zone: string; name: string }) {
  const project = useProjectId();
  const { scheme } = useScheme();
  const change = useChange();
  const navigate = useNavigate();
  async function take() {
    const params = { path: { project_id: project, scheme_id: scheme.id } };
    const path = "/api/projects/{project_id}/schemes/{scheme_id}/alone";
    const called = `${name}, alone`.slice(0, 120);
    try {
      const made = await change(
        (revision) => got(client.POST(path, { params, body: { revision, zone, name: called } })),
        asItIs,
      );
      const schemes = made.completed.schemes;
      tell("The room is a scheme of its own; what it shared with others counts as adiabatic.");
      navigate(`/p/${project}/shape/${schemes[schemes.length - 1].id}`);
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  return (
    <Button variant="outlined" onClick={() => void take()}>
      Take out as a scheme of its own
    </Button>
  );
}

const sides = [
  ["south", "South side", "e1"],
  ["east", "East side", "e2"],
  ["north", "North side", "e3"],
  ["west", "West side", "e4"],
  ["roof", "Ceiling", "roof"],
  ["floor", "Floor", "floor"],
] as const;
/** Of a room until something is typed, in the units shown. */
const SIZE = { length: "6", depth: "5", height: "3" };
const presets: Record<string, string[]> = {
  "a middle room": ["south"],
  "a corner room": ["south", "west"],
  "a corner room under the roof": ["south", "west", "roof"],
  "a free-standing room": ["south", "east", "north", "west", "roof"],
};

/** One study room on the storey that is worked on, clear of what is there, typed in one step: its size, and which of its faces are outside; the rest is adiabatic. */
export function OneRoom({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const set = useView((s) => s.set);
  const edit = useEdit();
  const geometry = useGeometry(scheme.id).data;
  const { level } = useWorking();
  const [size, setSize] = useState(SIZE);
  const [outside, setOutside] = useState<string[]>(["south"]);
  const factor = units === "IP" ? 0.3048 : 1;
  const number = (t: string) => Number(t.replace(",", ".")) * factor;
  const values = [number(size.length), number(size.depth), number(size.height)];
  const ready = values.every((v) => v > 0.3 && v < 500);

  async function build() {
    const [l, d, h] = values.map((v) => Number(v.toFixed(4)));
    const taken = [...(scheme.zones ?? []).map((z) => z.id), ...(scheme.volumes ?? []).map((v) => v.id)];
    const id = freshId("room", taken);
    const { x, y } = clearSpot(l, d, level, geometry, lieOf(scheme, geometry).into);
    const corners = [
      [x, y],
      [x + l, y],
      [x + l, y + d],
      [x, y + d],
    ];
    const faces = sides
      .filter(([name]) => !outside.includes(name))
      .map(([, , side]) => ({ id: side, side, boundary: "adiabatic" }));
    const item = {
      id,
      name: "Study room",
      outline: {
        points: corners.map(([east, north], i) => ({ id: `e${i + 1}`, x: east, y: north })),
        z: level,
        height: h,
        ...(size.height === SIZE.height ? { assumed: ["height"] } : {}),
      },
      faces,
      by_ratio: true,
    };
    if (await edit(make.put(`schemes/${scheme.id}/zones`, item))) {
      set({ selection: { kind: "zone", id } });
      onClose();
    }
  }
  return (
    <Dialog open={open} onClose={onClose} slotProps={{ paper: { "aria-label": "One room", sx: { width: 420 } } }}>
      <DialogTitle>One room</DialogTitle>
      <DialogContent>
        <div className="row" style={{ flexWrap: "wrap", gap: 6, marginBottom: 10 }}>
          {Object.entries(presets).map(([name, faces]) => (
            <Button key={name} variant="outlined" onClick={() => setOutside(faces)}>
              {name}
            </Button>
          ))}
        </div>
        {(["length", "depth", "height"] as const).map((k) => (
          <div className="field" key={k}>
            <label htmlFor={`one-${k}`}>{k[0].toUpperCase() + k.slice(1)}</label>
            <span />
            <input
              id={`one-${k}`}
              value={size[k]}
              inputMode="decimal"
              onChange={(e) => setSize({ ...size, [k]: e.target.value })}
            />
            <span className="unit">{units === "IP" ? "ft" : "m"}</span>
          </div>
        ))}
        <h4>Faces that are outside</h4>
        {sides.map(([name, label]) => (
          <label key={name} className="row" style={{ gap: 6 }}>
            <input
              type="checkbox"
              checked={outside.includes(name)}
              onChange={() =>
                setOutside(outside.includes(name) ? outside.filter((o) => o !== name) : [...outside, name])
              }
            />
            {label}
            {name === "floor" && <span className="quiet small">on the ground</span>}
          </label>
        ))}
        <p className="quiet small">The others count as adiabatic: as warm beyond them as within.</p>
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          Leave it
        </Button>
        <Button variant="contained" disabled={!ready} onClick={() => void build()}>
          Add the room
        </Button>
      </DialogActions>
    </Dialog>
  );
}
