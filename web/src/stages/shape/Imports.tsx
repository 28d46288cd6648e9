import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Menu, MenuItem } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, got } from "../../api/client";
import { useProjectId, useScheme } from "../../api/hooks";
import { saveFrom } from "../../app/files";
import { FileButton } from "../../fields/FileButton";
import { sendFile, useImports } from "./sift/imports";

const ACCEPT = ".ifc,.ifczip,.xml,.gbxml,.obj,.stl,.glb,.gltf";
const silent = /\.(obj|stl)$/i;

/** Chooses a model to read; a mesh that does not say its unit and upward axis is asked for them. */
export function ImportButton({ follows, label = "Import" }: { follows?: string; label?: string }) {
  const project = useProjectId();
  const { scheme } = useScheme();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [asked, setAsked] = useState<File | null>(null);
  const [unit, setUnit] = useState("m");
  const [up, setUp] = useState("z");

  async function send(file: File, more: { unit?: string; up?: string } = {}) {
    setAsked(null);
    const made = await sendFile(project, file, { ...more, follows });
    if (!made) return;
    await queries.invalidateQueries({ queryKey: ["imports", project] });
    navigate(`/p/${project}/shape/${scheme.id}/import/${made.id}`);
  }
  return (
    <>
      <FileButton
        name={label}
        accept={ACCEPT}
        onFile={(file) => (silent.test(file.name) ? setAsked(file) : void send(file))}
      />
      <Dialog
        open={asked !== null}
        onClose={() => setAsked(null)}
        slotProps={{ paper: { "aria-label": "About this mesh" } }}
      >
        <DialogTitle>What “{asked?.name}” does not say</DialogTitle>
        <DialogContent>
          <div className="field">
            <label htmlFor="mesh-unit">One of its units is</label>
            <span />
            <select id="mesh-unit" className="text-box" value={unit} onChange={(e) => setUnit(e.target.value)}>
              <option value="m">a metre</option>
              <option value="cm">a centimetre</option>
              <option value="mm">a millimetre</option>
              <option value="ft">a foot</option>
              <option value="in">an inch</option>
            </select>
            <span />
          </div>
          <div className="field">
            <label htmlFor="mesh-up">The axis that looks up is</label>
            <span />
            <select id="mesh-up" className="text-box" value={up} onChange={(e) => setUp(e.target.value)}>
              <option value="z">z</option>
              <option value="y">y</option>
            </select>
            <span />
          </div>
        </DialogContent>
        <DialogActions>
          <Button variant="outlined" onClick={() => setAsked(null)}>
            Do not read it
          </Button>
          <Button variant="contained" onClick={() => asked && void send(asked, { unit, up })}>
            Read it
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}

const GBXML = "zones, constructions, schedules; neighbours as shades, without trees";
const FORMATS = [
  ["gbxml", "gbXML, metres", GBXML],
  ["gbxml-ip", "gbXML, feet", GBXML],
  ["ifc", "IFC", "rooms with their boundaries and windows"],
  ["gltf", "glTF", "the model with names and colours"],
  ["csv", "CSV", "a table of rooms"],
] as const;

/** Hands the scheme out for other programs. */
export function ExportButton() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="outlined" onClick={(e) => setMenu(e.currentTarget)}>
        Export
      </Button>
      <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
        {FORMATS.map(([format, name, holds]) => (
          <MenuItem
            key={format}
            aria-label={name}
            onClick={() => {
              setMenu(null);
              void saveFrom(`/api/projects/${project}/schemes/${scheme.id}/file?format=${format}`);
            }}
          >
            <span>
              {name}
              <br />
              <span className="quiet small">{holds}</span>
            </span>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** Files that were read into this project, each with what can be done next. */
export function ImportList() {
  const project = useProjectId();
  const { scheme, state } = useScheme();
  const queries = useQueryClient();
  const imports = useImports().data ?? [];
  if (imports.length === 0) return null;
  async function remove(id: string) {
    await got(
      client.DELETE("/api/projects/{project_id}/imports/{import_id}", {
        params: { path: { project_id: project, import_id: id } },
      }),
    );
    await queries.invalidateQueries({ queryKey: ["imports", project] });
  }
  return (
    <section>
      <h3>Files read</h3>
      {imports.map((i) => {
        const into = state.completed.schemes.find((s) => s.id === i.scheme);
        const how =
          i.status === "reading"
            ? `reading, ${Math.round(i.share * 100)}%`
            : i.status === "failed"
              ? "not read"
              : i.status === "cancelled"
                ? "called off"
                : into
                  ? `in ${into.name}`
                  : "not taken over yet";
        return (
          <div key={i.id} data-import={i.file}>
            <div className="spread">
              <a href={`/p/${project}/shape/${scheme.id}/import/${i.id}`}>{i.file}</a>
              <span className="quiet small">{how}</span>
            </div>
            <div className="row small" style={{ gap: 10, marginBottom: 6 }}>
              {into && <ImportButton follows={i.id} label="Read a newer file" />}
              <button
                type="button"
                className="plain assumed"
                aria-label={`Forget ${i.file}`}
                onClick={() => void remove(i.id)}
              >
                forget
              </button>
            </div>
          </div>
        );
      })}
    </section>
  );
}
