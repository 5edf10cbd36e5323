import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Job = Schemas["JobView"];
export type JobDocument = Schemas["JobDocument"];
export type Sheet = Schemas["SheetSpec"];
export type View = Schemas["ViewSpec"];
export type Component = Schemas["Component"];
export type Tree = Schemas["ModelTree"];
export type Trade = Schemas["Trade"];
export type Picture = Schemas["Picture"];
export type Report = Schemas["Report"];
export type Reading = Schemas["Reading"];
export type Drawing = Schemas["DrawingView"];
export type Layer = Schemas["LayerFacts"];
export type Excerpt = Schemas["Excerpt"];
export type Region = [number, number, number, number];
export type Vector = [number, number, number];

/** Whatever the server takes as an edit. */
export type Edit = paths["/api/jobs/{job_id}/edits"]["post"]["requestBody"]["content"]["application/json"];

export type Writing = Schemas["WritingView"];
export type Dimension = Schemas["Dimension"];
export type EdgeOnSheet = Schemas["EdgeView"];
export type Item = Schemas["Item"];
export type Note = Schemas["Note"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A refusal by the server: one sentence for the person. */
export class Refusal extends Error {}

/** The data of an answer, or a Refusal with the server's sentence. */
export function settled<T>(answer: { data?: unknown; error?: unknown; response: Response }): T {
  if (answer.response.ok) return answer.data as T;
  const detail = (answer.error as { detail?: unknown } | undefined)?.detail;
  throw new Refusal(typeof detail === "string" ? detail : "The server did not answer as expected: try it again.");
}
