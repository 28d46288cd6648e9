import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, got, type Schemas } from "../api/client";
import { figureBy } from "../api/figures";
import { MiniForm } from "../scene/MiniForm";
import { useKept } from "./state";
import { both } from "./words";

type Listed = Schemas["ProjectListed"];

/** What a project's reference comes to, asked for once its card is in view. */
function useHeadline(project: string, wanted: boolean) {
  const state = useQuery({
    queryKey: ["project", project],
    queryFn: () => got(client.GET("/api/projects/{project_id}", { params: { path: { project_id: project } } })),
    enabled: wanted,
  }).data;
  const reference = state?.completed.reference ?? "";
  const path = { project_id: project, scheme_id: reference };
  const geometry = useQuery({
    queryKey: ["geometry", project, reference, state?.drawn[reference]],
    queryFn: () => got(client.GET("/api/projects/{project_id}/schemes/{scheme_id}/geometry", { params: { path } })),
    enabled: Boolean(state),
    retry: false,
  });
  const outcome = useQuery({
    queryKey: ["outcome", project, reference, state?.revision],
    queryFn: ({ signal }) =>
      got(client.GET("/api/projects/{project_id}/schemes/{scheme_id}/outcome", { params: { path }, signal })),
    enabled: Boolean(state?.completed.place?.climate) && (geometry.data?.faces.length ?? 0) > 0,
    retry: false,
  });
  return { state, geometry, outcome };
}

/** A project in the list: its reference drawn, its climate, its schemes and what a year of the reference comes to. */
export function ProjectCard({ project, onRemove }: { project: Listed; onRemove: () => void }) {
  const card = useRef<HTMLLIElement>(null);
  const [near, setNear] = useState(false);
  const units = useKept((s) => s.units);
  useEffect(() => {
    if (!card.current) return;
    const watch = new IntersectionObserver(([entry]) => entry.isIntersecting && setNear(true));
    watch.observe(card.current);
    return () => watch.disconnect();
  }, []);
  const { state, geometry, outcome } = useHeadline(project.id, near);
  const schemes = state?.completed.schemes ?? [];
  const eui = figureBy("eui_kwh_per_m2");
  const reference = schemes.find((s) => s.id === state?.completed.reference);
  const climate = state?.completed.place?.climate;
  return (
    <li ref={card} className="project-card" data-project={project.id}>
      <a href={`/p/${project.id}/shape`} aria-label={project.name}>
        <div className="form">
          {geometry.data && geometry.data.faces.length > 0 ? (
            <MiniForm geometry={geometry.data} width={200} height={118} />
          ) : (
            <span className="quiet small">{state && !geometry.isLoading ? "nothing is drawn yet" : ""}</span>
          )}
        </div>
        <h2>{project.name}</h2>
      </a>
      <div className="small">{state ? (climate ? climate.name || climate.id : "no climate yet") : "reading"}</div>
      <div className="small quiet">
        {schemes.length > 0 && `${schemes.length === 1 ? "1 scheme" : `${schemes.length} schemes`}: `}
        {schemes.map((s) => s.name).join(", ")}
      </div>
      <div className="headline" title={eui.how}>
        {outcome.data ? (
          <>
            {both(outcome.data.totals.eui_kwh_per_m2, eui.unit, units, eui.digits)}{" "}
            <span className="quiet small">{reference?.name}</span>
          </>
        ) : (
          <span className="quiet small">{outcome.isFetching ? "working" : ""}</span>
        )}
      </div>
      <div className="spread small">
        <span className="quiet">
          {new Date(project.changed).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
        </span>
        <span className="row" style={{ gap: 10 }}>
          <a
            href={`/api/projects/${project.id}/file`}
            download
            title="Save as a file"
            aria-label={`Save ${project.name} as a file`}
          >
            save
          </a>
          <button type="button" className="plain assumed" aria-label={`Remove ${project.name}`} onClick={onRemove}>
            remove
          </button>
        </span>
      </div>
    </li>
  );
}
