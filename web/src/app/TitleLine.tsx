import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import type { Edit } from "../api/client";
import { make } from "../api/edits";
import { useEdit, useScheme, useWalk } from "../api/hooks";
import { tell, useKeptOf, useView } from "./state";
import { freshId } from "./words";

const common = ["place", "study", "findings"];

/** Project, schemes as tabs, undo, units, actions. */
export function TitleLine() {
  const { state, scheme } = useScheme();
  const { units, setUnits } = useKeptOf("units", "setUnits");
  const set = useView((s) => s.set);
  const walk = useWalk();
  const edit = useEdit();
  const navigate = useNavigate();
  const stage = useLocation().pathname.split("/")[3] ?? "shape";
  const [menu, setMenu] = useState<{ at: HTMLElement; id: string } | null>(null);
  const [own, setOwn] = useState<HTMLElement | null>(null);
  const schemes = state.completed.schemes;
  const taken = schemes.map((s) => s.id);

  async function add(from?: string) {
    const id = freshId("scheme", taken);
    const source = schemes.find((s) => s.id === from);
    const done = source
      ? await edit({ op: "duplicate_scheme", scheme: source.id, id, name: `${source.name} copy` } as Edit)
      : await edit(make.put("schemes", { id, name: `Scheme ${schemes.length + 1}` }));
    if (done) navigate(`/p/${state.id}/shape/${id}`);
  }

  function renameProject() {
    const name = window.prompt("Name of this project", state.completed.name)?.trim();
    if (name && name !== state.completed.name) void edit(make.set("name", name));
  }

  function rename(id: string) {
    const now = schemes.find((s) => s.id === id)?.name ?? "";
    const name = window.prompt("Name of this scheme", now)?.trim();
    if (name && name !== now) void edit(make.set(`schemes/${id}/name`, name));
  }

  return (
    <header className="title-line">
      <Link to="/projects" className="brand" title="All projects">
        Eurythm
      </Link>
      <button
        type="button"
        className="plain project-name"
        title="What can be done with this project"
        aria-haspopup="menu"
        onClick={(e) => setOwn(e.currentTarget)}
      >
        {state.completed.name}
      </button>
      <Menu anchorEl={own} open={Boolean(own)} onClose={() => setOwn(null)} onClick={() => setOwn(null)}>
        <MenuItem onClick={renameProject}>Rename the project</MenuItem>
        <MenuItem component="a" href={`/api/projects/${state.id}/file`}>
          Save the project as a file
        </MenuItem>
        <MenuItem onClick={() => navigate("/projects")}>All projects</MenuItem>
      </Menu>
      <div className="tabs">
        <div className="tabs" role="tablist" aria-label="Schemes">
          {schemes.map((s) => (
            <button
              key={s.id}
              type="button"
              role="tab"
              aria-selected={s.id === scheme.id}
              className={`tab ${common.includes(stage) ? "dim" : ""}`}
              title="Click again for what can be done with this scheme"
              onClick={(e) =>
                s.id === scheme.id
                  ? setMenu({ at: e.currentTarget, id: s.id })
                  : navigate(`/p/${state.id}/${stage}/${s.id}`)
              }
            >
              {s.name}
              {s.id === state.completed.reference && <span className="mark">reference</span>}
            </button>
          ))}
        </div>
        <button type="button" className="tab" aria-label="Add scheme" title="Add scheme" onClick={() => void add()}>
          +
        </button>
      </div>
      <Menu anchorEl={menu?.at} open={Boolean(menu)} onClose={() => setMenu(null)} onClick={() => setMenu(null)}>
        <MenuItem onClick={() => menu && rename(menu.id)}>Rename</MenuItem>
        <MenuItem onClick={() => menu && void add(menu.id)}>Duplicate</MenuItem>
        <MenuItem
          disabled={menu?.id === state.completed.reference}
          onClick={() => menu && void edit(make.set("reference", menu.id))}
        >
          Make it the reference
        </MenuItem>
        <MenuItem
          disabled={menu?.id === state.completed.reference}
          onClick={() =>
            menu &&
            void edit(make.remove(`schemes/${menu.id}`)).then(
              (ok) => ok && tell("Scheme removed. Undo brings it back."),
            )
          }
        >
          Remove
        </MenuItem>
      </Menu>
      <div className="title-tools">
        <button
          type="button"
          className="icon-button"
          aria-label="Undo"
          title="Undo (Ctrl+Z)"
          disabled={!state.can_undo}
          onClick={() => walk.mutate("undo")}
        >
          ↶
        </button>
        <button
          type="button"
          className="icon-button"
          aria-label="Redo"
          title="Redo (Ctrl+Shift+Z)"
          disabled={!state.can_redo}
          onClick={() => walk.mutate("redo")}
        >
          ↷
        </button>
        <span className="switch" role="group" aria-label="Units">
          {(["SI", "IP"] as const).map((u) => (
            <button key={u} type="button" aria-pressed={units === u} onClick={() => setUnits(u)}>
              {u}
            </button>
          ))}
        </span>
        <Button variant="outlined" onClick={() => set({ finder: true })}>
          Find an action&nbsp; <span className="quiet">Ctrl K</span>
        </Button>
        <button
          type="button"
          className="icon-button"
          aria-label="Help"
          title="Help: keys and words"
          onClick={() => set({ help: true })}
        >
          ?
        </button>
      </div>
    </header>
  );
}
