import { Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type ProjectState } from "../api/client";
import { endingsOf } from "../api/readers";
import { FileButton } from "../fields/FileButton";
import { sendFile, type Unsaid } from "../stages/shape/sift/imports";
import { useModelFile } from "../stages/shape/sift/ModelFile";
import { askFirst } from "./Ask";
import { useDropped } from "./Dropped";
import { Notice } from "./Notice";
import { ProjectCard } from "./ProjectCard";
import { tell } from "./state";

function useProjects() {
  return useQuery({ queryKey: ["projects"], queryFn: () => got(client.GET("/api/projects")) });
}

/** Goes on with the project that was changed last. */
export function Latest() {
  const projects = useProjects();
  const navigate = useNavigate();
  useEffect(() => {
    if (!projects.data) return;
    const first = projects.data[0];
    navigate(first ? `/p/${first.id}/shape` : "/projects", { replace: true });
  }, [projects.data, navigate]);
  return projects.error ? <p className="home">{projects.error.message}</p> : null;
}

/** All projects; new ones, and opening files. */
export function Home() {
  const projects = useProjects();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState("");

  async function create() {
    try {
      const made = await got(client.POST("/api/projects", { body: { name: name.trim() || "Untitled project" } }));
      navigate(`/p/${made.id}/place`);
    } catch (fault) {
      tell((fault as Error).message, true);
    }
  }

  async function open(file: File) {
    const body = new FormData();
    body.append("file", file);
    const answer = await fetch("/api/projects/open", { method: "POST", body });
    const said = (await answer.json()) as ProjectState & { message?: string; path?: string };
    if (!answer.ok) return tell(`${file.name}: ${said.message ?? "cannot be opened"}`, true);
    navigate(`/p/${said.id}/shape`);
  }

  /** A new project for a model, which is then sifted; it is taken over or left there. */
  async function start(file: File, more: Unsaid) {
    try {
      const called = name.trim() || file.name.replace(/\.[^.]+$/, "");
      const made = await got(client.POST("/api/projects", { body: { name: called } }));
      const read = await sendFile(made.id, file, more);
      if (read) navigate(`/p/${made.id}/shape/scheme-1/import/${read.id}`);
    } catch (fault) {
      tell((fault as Error).message, true);
    }
  }

  const [model, question] = useModelFile((file, more) => void start(file, more));
  const hanging = useDropped((file) => (/\.json$/i.test(file.name) ? void open(file) : model(file)));

  async function remove(id: string, called: string) {
    const more = "All its schemes and studies go with it. This cannot be undone.";
    if (!(await askFirst(`Remove “${called}”?`, more, "Remove"))) return;
    await got(client.DELETE("/api/projects/{project_id}", { params: { path: { project_id: id } } }));
    await queries.invalidateQueries({ queryKey: ["projects"] });
    tell(`“${called}” is removed.`);
  }

  return (
    <main className="home">
      <h1 style={{ color: "var(--tide)", fontSize: 34 }}>Eurythm</h1>
      <p className="quiet">From massing to a compared energy study.</p>
      <div className="row" style={{ margin: "22px 0" }}>
        <input
          aria-label="Name of the new project"
          placeholder="Name of the new project"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void create()}
          style={{ padding: "6px 10px", width: 280, border: "1px solid var(--line)", borderRadius: 6, font: "inherit" }}
        />
        <Button variant="contained" onClick={() => void create()}>
          New project
        </Button>
        <FileButton name="Open a file" accept=".json" onFile={(file) => void open(file)} />
        <FileButton name="Start from a model" accept={endingsOf("model")} onFile={model} />
      </div>
      <ul className="project-cards">
        {projects.data?.map((p) => (
          <ProjectCard key={p.id} project={p} onRemove={() => void remove(p.id, p.name)} />
        ))}
      </ul>
      {projects.data?.length === 0 && (
        <p className="quiet">No project yet. Name one, then choose a climate and draw a volume.</p>
      )}
      {hanging}
      {question}
      <Notice />
    </main>
  );
}
