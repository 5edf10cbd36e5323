import createClient from "openapi-fetch";
import { newId } from "../common/ids";
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

/** Names this browser, so that nobody takes back by mistake what someone else did. */
function whoAsks(): string {
  const known = localStorage.getItem("skalto-person");
  if (known) return known;
  const made = newId() + newId();
  localStorage.setItem("skalto-person", made);
  return made;
}

const WHO = { "Skalto-Person": whoAsks() };

export const api = createClient<paths>({ baseUrl: "/", headers: WHO });

const NAME = "skalto-name";

/** What the person at this browser is called; it goes with each change. */
export const ownName = () => localStorage.getItem(NAME) ?? "";
export const callMyself = (name: string) => localStorage.setItem(NAME, name);

api.use({
  onRequest: ({ request }) => {
    const name = ownName();
    if (name) request.headers.set("Skalto-Name", encodeURIComponent(name));
    return request;
  },
});

/** Send a file as the body of a request. */
export async function send<T>(address: string, file: File): Promise<T> {
  const headers = { ...WHO, "Content-Type": "application/octet-stream" };
  const response = await fetch(address, { method: "POST", body: file, headers }).catch(() => undefined);
  if (!response) throw new Refusal(`${file.name} did not get through: see that the server runs, and send it again.`);
  const data: unknown = await response.json().catch(() => undefined);
  return settled<T>({ data, error: data, response });
}

/** A refusal by the server: one sentence for the person. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status = 0,
  ) {
    super(message);
  }
}

/** What to tell a person of an error: the server's sentence, or that it did not answer. */
export const said = (error: Error) => (error instanceof TypeError ? "The server does not answer: see that it runs, then do it again." : error.message);

/** The data of an answer, or a Refusal with the server's sentence. */
export function settled<T>(answer: { data?: unknown; error?: unknown; response: Response }): T {
  if (answer.response.ok) return answer.data as T;
  // signed out meanwhile: the page's own address leads to signing in, and back
  if (answer.response.status === 401) window.location.reload();
  const detail = (answer.error as { detail?: unknown } | undefined)?.detail;
  throw new Refusal(typeof detail === "string" ? detail : "The server did not answer as expected: try it again.", answer.response.status);
}

/** Leave; the page to sign in at comes in the place of this one. */
export async function signOut() {
  await fetch("/sign-out", { method: "POST", redirect: "manual" });
  window.location.assign("/sign-in");
}
