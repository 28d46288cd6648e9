import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import { client, got, type Study as StudyType } from "../../api/client";
import { useProject, useProjectId, useScheme } from "../../api/hooks";
import { Cases } from "./Cases";
import { ALL, type Kept } from "./figures";
import { Matters } from "./Matters";
import { Question } from "./Question";
import { Side } from "./Side";

/** What if: the question at the left, cases in the middle, what matters at the right. */
export default function Study() {
  const project = useProjectId();
  const { scheme } = useScheme();
  const revision = useProject().data?.revision;
  const queries = useQueryClient();
  const led = (useLocation().state as { study?: string } | null)?.study ?? null;
  const [chosen, setChosen] = useState<string | null>(led);
  useEffect(() => {
    if (led) setChosen(led);
  }, [led]);
  const [sieves, setSieves] = useState<Record<string, Kept>>({});
  const [live, setLive] = useState<{ id: string; done: number; failed: number; total: number; status: string } | null>(
    null,
  );
  const studies = useQuery({
    queryKey: ["studies", project, revision],
    queryFn: () => got(client.GET("/api/projects/{project_id}/studies", { params: { path: { project_id: project } } })),
    placeholderData: (before: StudyType[] | undefined) => before,
  });
  const study =
    studies.data?.find((s) => s.id === chosen) ??
    studies.data?.find((s) => s.scheme === scheme.id) ??
    studies.data?.[0];
  const kept = (study && sieves[study.id]) ?? ALL;
  const going = study && (study.status === "running" || study.status === "waiting");

  useEffect(() => {
    if (!study || !going) return;
    const source = new EventSource(`/api/projects/${project}/studies/${study.id}/events`);
    source.addEventListener("progress", (e) => {
      const told = JSON.parse((e as MessageEvent).data) as {
        done: number;
        failed: number;
        total: number;
        status: string;
      };
      setLive({ id: study.id, ...told });
      if (told.status !== "running" && told.status !== "waiting") {
        source.close();
        void queries.invalidateQueries({ queryKey: ["studies", project] });
        void queries.invalidateQueries({ queryKey: ["cases", study.id] });
      }
    });
    return () => source.close();
  }, [study, going, project, queries]);

  const now = live && study && live.id === study.id && going ? live : null;
  return (
    <main className="work whole">
      <div className="study">
        <Side name="Question" width={230} needed={!study}>
          <Question studies={studies.data ?? []} study={study} onChoose={setChosen} live={now} />
        </Side>
        <div className="column">
          {study ? (
            <Cases
              key={study.id}
              study={study}
              live={Boolean(now)}
              kept={kept}
              onKept={(next) => setSieves((all) => ({ ...all, [study.id]: next }))}
            />
          ) : (
            <Empty />
          )}
        </div>
        <Side name="What matters" width={300}>
          {study && study.done > 0 && <Matters key={study.id} study={study} kept={kept} />}
        </Side>
      </div>
    </main>
  );
}

function Empty() {
  return (
    <div style={{ maxWidth: 420, margin: "12vh auto", textAlign: "center" }}>
      <h2>No study yet</h2>
      <p className="quiet">
        Add levers at the left, or press “± vary” beside any field in Shape, Skin, Use or Plant. The number of cases and
        the time are known before anything runs.
      </p>
    </div>
  );
}
