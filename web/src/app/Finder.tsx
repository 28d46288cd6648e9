import { Dialog } from "@mui/material";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { useScheme, useWalk } from "../api/hooks";
import { colourings } from "../scene/colours";
import { useKeptOf, useViewed } from "./state";

interface Action {
  name: string;
  run: () => void;
}

/** Every action by name. */
export function Finder() {
  const { finder, set } = useViewed("finder", "set");
  const { state, scheme } = useScheme();
  const { units, setUnits } = useKeptOf("units", "setUnits");
  const walk = useWalk();
  const navigate = useNavigate();
  const [text, setText] = useState("");

  const actions = useMemo<Action[]>(() => {
    const go = (stage: string) => () => navigate(`/p/${state.id}/${stage}/${scheme.id}`);
    const draw = (kind: string) => () => {
      navigate(`/p/${state.id}/shape/${scheme.id}`);
      set({ drawing: kind, plan: true });
    };
    return [
      ...["place", "shape", "skin", "use", "plant", "study", "findings"].map((s) => ({
        name: `Go to ${s}`,
        run: go(s),
      })),
      { name: "Show what is still assumed", run: go("assumed") },
      ...["Hours of use", "Calendar: holidays and closures"].map((name) => ({ name, run: go("use") })),
      ...[
        "System: heat, cold, air and hot water",
        "Arrays, inverters and battery",
        "Collectors for hot water",
        "Prices and carriers",
        "Costs and carbon over the years",
      ].map((name) => ({ name, run: go("plant") })),
      ...state.completed.schemes.map((s) => ({
        name: `Show scheme ${s.name}`,
        run: () => navigate(`/p/${state.id}/shape/${s.id}`),
      })),
      ...["rectangle", "L", "T", "U", "courtyard", "free outline"].map((kind) => ({
        name: `Add volume: ${kind}`,
        run: draw(kind === "free outline" ? "polygon" : kind.toLowerCase()),
      })),
      ...["room", "window", "door"].map((kind) => ({ name: `Trace a ${kind}`, run: draw(kind) })),
      { name: "Select by a frame", run: () => set({ drawing: "frame" }) },
      { name: "Let go of the selection", run: () => set({ selection: null }) },
      { name: "Draw everything that is hidden", run: () => set({ unseen: [] }) },
      ...colourings.map((q) => ({ name: `Colour by ${q.name}`, run: () => set({ colouring: q.id }) })),
      { name: "Undo", run: () => walk.mutate("undo") },
      { name: "Redo", run: () => walk.mutate("redo") },
      {
        name: units === "SI" ? "Show inch-pound units" : "Show SI units",
        run: () => setUnits(units === "SI" ? "IP" : "SI"),
      },
      { name: "Show the plan", run: () => set({ plan: true }) },
      { name: "Show the model in 3D", run: () => set({ plan: false }) },
      { name: "Open the readout", run: () => set({ drawer: true }) },
      { name: "Help: keys and words", run: () => set({ help: true }) },
      { name: "Save the project as a file", run: () => location.assign(`/api/projects/${state.id}/file`) },
      { name: "All projects", run: () => navigate("/projects") },
    ];
  }, [navigate, scheme.id, set, setUnits, state, units, walk]);

  const found = actions.filter((a) => a.name.toLowerCase().includes(text.toLowerCase()));
  function close() {
    set({ finder: false });
    setText("");
  }
  // opened and closed by keys in quick succession: it comes and goes at once, as a dialog that fades can leave the page locked
  if (!finder) return null;
  return (
    <Dialog
      open
      onClose={close}
      slotProps={{ paper: { "aria-label": "Actions", sx: { width: 460, position: "absolute", top: 60, m: 0 } } }}
    >
      <input
        aria-label="Find an action"
        placeholder="Find an action"
        value={text}
        autoFocus
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && found[0]) {
            close();
            found[0].run();
          }
        }}
        style={{
          border: 0,
          borderBottom: "1px solid var(--line)",
          padding: "12px 16px",
          font: "inherit",
          fontSize: 15,
          outline: "none",
        }}
      />
      <div style={{ maxHeight: 320, overflow: "auto", padding: 6 }}>
        {found.map((a) => (
          <button
            key={a.name}
            type="button"
            className="plain"
            style={{ display: "block", width: "100%", padding: "5px 10px" }}
            onClick={() => {
              close();
              a.run();
            }}
          >
            {a.name}
          </button>
        ))}
        {found.length === 0 && (
          <p className="quiet" style={{ padding: "0 10px" }}>
            No action is called that.
          </p>
        )}
      </div>
    </Dialog>
  );
}
