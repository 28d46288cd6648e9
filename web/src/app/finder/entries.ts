import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { client, got } from "../../api/client";
import { useGeometry, useProjectId, useScheme, useShelf, useWalk } from "../../api/hooks";
import { colourings } from "../../scene/colours";
import { guide } from "../guide/guide";
import { leadTo, leadToPart } from "../lead";
import { useSchemes } from "../schemes";
import { tell, useKeptOf, useView } from "../state";
import { type FoundField, fieldsOf } from "./fields";

/** Something that is found by its name. */
export interface Entry {
  name: string;
  /** What it is, in a word or two, beside its name. */
  what: string;
  /** More words by which it is found. */
  also?: string;
  run: () => void;
}

const stages: [string, string][] = [
  ["place", "climate, north, surroundings"],
  ["shape", "form, storeys, zones, import"],
  ["skin", "glass, shades, constructions"],
  ["use", "people, hours, setpoints, outdoor air"],
  ["plant", "system, arrays, prices"],
  ["study", "levers, cases, trade-offs"],
  ["findings", "pinned cases side by side, report"],
];

/** Leads to a field, or to what decides whether it counts. */
async function lead(field: FoundField, to: (stage: string) => void) {
  to(field.stage);
  if (await leadTo(field.path)) return;
  const { stage, paths } = field.decider ?? { stage: "", paths: [] };
  tell(`“${field.name}” counts for nothing as things are chosen now.${stage && " This is what decides it."}`);
  if (stage) to(stage);
  for (const path of paths) if (await leadTo(path)) return;
}

/** Parts of sheets that are no field, by the words at their head. */
const parts: [string, string, string][] = [
  ["place", "Climate year", "Climate year: choose one, or take an EPW file"],
  ["place", "Around it", "Surroundings: neighbours and trees"],
  ["place", "Sun and shadows", "Sun and shadows"],
  ["shape", "Plans to trace", "Lay a plan under, to trace it"],
  ["shape", "List of zones", "List of zones with areas, volumes and glass"],
  ["shape", "Join zones", "Join zones that are alike"],
  ["skin", "Constructions", "Constructions of the scheme"],
  ["skin", "Sun on faces", "Sun on faces"],
  ["skin", "Materials", "Materials of the library"],
  ["use", "Calendar", "Calendar: holidays and closures"],
  ["use", "Outdoor air", "Outdoor air and opening windows"],
  ["use", "Daylight", "Daylight and lights that follow it"],
  ["use", "Single zones", "Profiles of single zones"],
  ["plant", "Whole scheme", "System: heat, cold, air and hot water"],
  ["plant", "From the sun", "Arrays, inverters and battery; collectors for hot water"],
  ["plant", "Prices and carriers", "Prices and carriers"],
  ["plant", "Costs", "Costs and carbon over the years"],
  ["plant", "Comfort limits", "Comfort limits"],
];

/** Everything that can be found: what can be done, pages and their parts, fields, rooms, constructions, studies, the guide. */
export function useEntries(wanted: boolean): Entry[] {
  const { state, scheme } = useScheme();
  const project = useProjectId();
  const { units, setUnits } = useKeptOf("units", "setUnits");
  const set = useView((s) => s.set);
  const walk = useWalk();
  const navigate = useNavigate();
  const schemes = useSchemes();
  const zones = useGeometry(scheme.id).data?.zones;
  const shelf = useShelf().data;
  const studies = useQuery({
    queryKey: ["studies", project, state.revision],
    queryFn: () => got(client.GET("/api/projects/{project_id}/studies", { params: { path: { project_id: project } } })),
    enabled: wanted,
  }).data;

  // biome-ignore lint/correctness/useExhaustiveDependencies: what acts does so on what is there when it is pressed
  return useMemo(() => {
    if (!wanted) return [];
    const to = (stage: string, more?: object) => navigate(`/p/${state.id}/${stage}/${scheme.id}`, { state: more });
    const act = (name: string, run: () => void, also?: string): Entry => ({ name, what: "", run, also });
    const draw = (kind: string) => () => {
      to("shape");
      set({ drawing: kind, plan: true, selection: null });
    };
    const others = schemes.schemes.filter((s) => s.id !== scheme.id);
    const doable = [
      ...["rectangle", "L", "T", "U", "courtyard", "free outline"].map((kind) =>
        act(`Add volume: ${kind}`, draw(kind === "free outline" ? "polygon" : kind.toLowerCase())),
      ),
      ...["room", "window", "door"].map((kind) => act(`Trace a ${kind}`, draw(kind))),
      act(`Duplicate the scheme ${scheme.name}`, () => void schemes.duplicate(scheme.id)),
      act(`Rename the scheme ${scheme.name}`, () => void schemes.rename(scheme.id)),
      ...(scheme.id === schemes.reference
        ? []
        : [
            act(`Remove the scheme ${scheme.name}`, () => void schemes.remove(scheme.id)),
            act(`Make ${scheme.name} the reference`, () => schemes.makeReference(scheme.id)),
          ]),
      act("Add a scheme", () => void schemes.add()),
      act(`Pin the scheme ${scheme.name}`, () => void schemes.pin(scheme.id), "compare, side by side"),
      act("Make a report", () => to("findings")),
      act("Import a model", () => to("shape")),
      act("Select by a frame", () => set({ drawing: "frame" })),
      act("Let go of the selection", () => set({ selection: null })),
      act("Draw everything that is hidden", () => set({ unseen: [] })),
      ...colourings.map((q) => act(`Colour by ${q.name}`, () => set({ colouring: q.id }))),
      act("Show the plan", () => set({ plan: true })),
      act("Show the model in 3D", () => set({ plan: false })),
      act("Open the readout", () => set({ drawer: true })),
      act("Undo", () => walk.mutate("undo")),
      act("Redo", () => walk.mutate("redo")),
      act(units === "SI" ? "Show inch-pound units" : "Show SI units", () => setUnits(units === "SI" ? "IP" : "SI")),
      act("Save the project as a file", () => location.assign(`/api/projects/${state.id}/file`)),
      act("All projects", () => navigate("/projects")),
      act("Help: keys and words", () => set({ help: true })),
    ];
    const pages: Entry[] = [
      ...stages.map(([stage, also]) => ({
        name: stage[0].toUpperCase() + stage.slice(1),
        what: "page",
        also: `go to ${also}`,
        run: () => to(stage),
      })),
      { name: "Show what is still assumed", what: "page", run: () => to("assumed") },
      ...others.map((s) => ({
        name: `Show scheme ${s.name}`,
        what: "scheme",
        run: () => navigate(`/p/${state.id}/shape/${s.id}`),
      })),
      ...parts.map(([stage, head, name]) => ({
        name,
        what: stage,
        run: () => {
          to(stage);
          void leadToPart(head);
        },
      })),
    ];
    const fields: Entry[] = fieldsOf(state, scheme.id).map((f) => ({
      name: f.name,
      what: `field in ${f.stage}`,
      also: f.path.split("/").slice(-2).join(" ").replace(/_/g, " "),
      run: () => {
        set({ selection: null, drawing: null });
        void lead(f, to);
      },
    }));
    const rooms: Entry[] = (zones ?? []).map((z) => ({
      name: z.name,
      what: "room or zone",
      also: `${z.profile} room zone`,
      run: () => {
        to("shape");
        // the page lets go of what another one had selected as it opens
        setTimeout(() => set({ selection: { kind: "zone", id: z.id }, level: z.level }), 0);
      },
    }));
    const constructions: Entry[] = (shelf?.constructions ?? []).map((c) => ({
      name: c.name,
      what: `construction: ${c.element.replace(/_/g, " ")}`,
      run: () => to("skin", { construction: c.id }),
    }));
    const asked: Entry[] = (studies ?? []).map((s) => ({
      name: s.name,
      what: "study",
      run: () => to("study", { study: s.id }),
    }));
    const told: Entry[] = guide.map((part) => ({
      name: part.title,
      what: "in the guide",
      also: part.text,
      run: () => window.open(`/guide/${part.id}`, "eurythm-guide"),
    }));
    return [...doable, ...pages, ...fields, ...rooms, ...constructions, ...asked, ...told];
  }, [wanted, state, scheme, zones, shelf, studies, units]);
}
