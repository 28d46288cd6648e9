import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { make } from "../api/edits";
import { useEdit, useScheme, useWalk } from "../api/hooks";
import { askName } from "./Ask";
import { useSchemes } from "./schemes";
import { useKeptOf, useView } from "./state";

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
  const schemes = useSchemes();

  async function renameProject() {
    const name = await askName("Name of this project", state.completed.name);
    if (name) void edit(make.set("name", name));
  }

  return (
    <header className="title-line">
      <Link to="/projects" className="brand" title="All projects">
        Eurythm
      </Link>
      <button
        type="button"
        className="plain project-name named"
        title={`${state.completed.name}: rename it, save it as a file`}
        aria-haspopup="menu"
        onClick={(e) => setOwn(e.currentTarget)}
      >
        {state.completed.name}
      </button>
      <Menu anchorEl={own} open={Boolean(own)} onClose={() => setOwn(null)} onClick={() => setOwn(null)}>
        <MenuItem onClick={() => void renameProject()}>Rename the project</MenuItem>
        <MenuItem component="a" href={`/api/projects/${state.id}/file`}>
          Save the project as a file
        </MenuItem>
        <MenuItem onClick={() => navigate("/projects")}>All projects</MenuItem>
      </Menu>
      <div className="tabs">
        <div className="tabs" role="tablist" aria-label="Schemes">
          {schemes.schemes.map((s) => (
            <button
              key={s.id}
              type="button"
              role="tab"
              aria-selected={s.id === scheme.id}
              className={`tab ${common.includes(stage) ? "dim" : ""}`}
              title={`${s.name}${s.id === scheme.id ? ": duplicate, rename, remove it, or make it the reference" : ""}`}
              aria-haspopup={s.id === scheme.id ? "menu" : undefined}
              onClick={(e) =>
                s.id === scheme.id
                  ? setMenu({ at: e.currentTarget, id: s.id })
                  : navigate(`/p/${state.id}/${stage}/${s.id}`)
              }
            >
              <span className="named">{s.name}</span>
              {s.id === schemes.reference && <span className="mark">reference</span>}
              {s.id === scheme.id && (
                <span className="more" aria-hidden>
                  ▾
                </span>
              )}
            </button>
          ))}
        </div>
        <button
          type="button"
          className="tab"
          aria-label="Add scheme"
          title="Add scheme"
          onClick={() => void schemes.add()}
        >
          +
        </button>
      </div>
      <Menu anchorEl={menu?.at} open={Boolean(menu)} onClose={() => setMenu(null)} onClick={() => setMenu(null)}>
        <MenuItem onClick={() => menu && void schemes.duplicate(menu.id)}>Duplicate</MenuItem>
        <MenuItem onClick={() => menu && void schemes.rename(menu.id)}>Rename</MenuItem>
        <MenuItem disabled={menu?.id === schemes.reference} onClick={() => menu && schemes.makeReference(menu.id)}>
          Make it the reference
        </MenuItem>
        <MenuItem disabled={menu?.id === schemes.reference} onClick={() => menu && void schemes.remove(menu.id)}>
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
          Find anything&nbsp; <span className="quiet keys">Ctrl K</span>
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
