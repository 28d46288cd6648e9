import createClient from "openapi-fetch";
import type { Readable } from "openapi-typescript-helpers";
import type { components, paths } from "./schema";

/** What the server sends, as the client hands it on: tuples as arrays. */
export type Schemas = { [K in keyof components["schemas"]]: Readable<components["schemas"][K]> };
export type ProjectState = Schemas["ProjectState"];
export type Outcome = Schemas["OutcomeOut"];
export type Geometry = Schemas["GeometryOut"];
export type Face = Schemas["FaceOut"];
export type Totals = Outcome["totals"];
export type Remark = Schemas["RemarkOut"];
export type Study = Schemas["StudyOut"];
export type Case = Schemas["CaseOut"];
export type Lever = Schemas["LeverView"];
export type LeverOffer = Schemas["Offer"];
export type LeverSpec = {
  kind: string;
  path?: string | null;
  steps: unknown[];
  low?: number | null;
  high?: number | null;
  tied?: string | null;
};
export type Edit = Schemas["EditIn"]["edit"];
export type Scheme = ProjectState["completed"]["schemes"][number];
export type Volume = NonNullable<Scheme["volumes"]>[number];

export interface Fault {
  code: string;
  path: string;
  message: string;
  stage?: string | null;
}

export const client = createClient<paths>({ baseUrl: "" });

/** An error that the server told of, with its code and path. */
export class ServerFault extends Error {
  constructor(
    readonly fault: Fault,
    readonly status: number,
  ) {
    super(fault.message);
  }
}

/** Returns the data of a call, or throws what the server said was wrong. */
export async function got<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch {
    throw new ServerFault({ code: "no-server", path: "", message: "The server does not answer; is it running?" }, 0);
  }
  if (answer.response.ok) return answer.data as T;
  const said = answer.error as Partial<Fault> | undefined;
  const message = said?.message ?? `The server answered ${answer.response.status}.`;
  throw new ServerFault(
    { code: said?.code ?? "unknown", path: said?.path ?? "", message, stage: said?.stage },
    answer.response.status,
  );
}
