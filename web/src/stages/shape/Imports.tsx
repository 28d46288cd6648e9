import { Button, Menu, MenuItem } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../../api/client";
import { useProjectId, useScheme } from "../../api/hooks";
import { endingsOf } from "../../api/readers";
import { saveFrom } from "../../app/files";
import { FileButton } from "../../fields/FileButton";
import { useImports, useSendModel } from "./sift/imports";
import { useModelFile } from "./sift/ModelFile";

/** Chooses a model to read, a newer file of the one that it follows where there is one. */
export function ImportButton({ follows, label = "Import" }: { follows?: string; label?: string }) {
  const send = useSendModel(follows);
  const [take, question] = useModelFile((file, more) => void send(file, more));
  return (
    <>
      <FileButton name={label} accept={endingsOf("model")} onFile={take} />
      {question}
    </>
  );
}

const GBXML = "zones, constructions, schedules; neighbours as shades, without trees";
const FORMATS = [
  ["gbxml", "gbXML, metres", GBXML],
  ["gbxml-ip", "gbXML, feet", GBXML],
  ["ifc", "IFC", "rooms with their boundaries and windows"],
  ["glb", "glTF, binary", "the model with names and colours, .glb"],
  ["gltf", "glTF, text", "the same as one text file, .gltf"],
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
