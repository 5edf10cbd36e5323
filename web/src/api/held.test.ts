import { QueryClient } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import type { Job } from "./client";
import { answered, asOf } from "./held";

const job = (name: string) => ({ id: 7, step: 1, name }) as unknown as Job;

/** What is kept of an answer "asked", where *meanwhile* happens before it comes. */
async function kept(meanwhile: (client: QueryClient) => void) {
  const client = new QueryClient();
  client.setQueryData(["job", 7], job("held"));
  let answer: (job: Job) => void = () => {};
  const asked = asOf(client, 7, () => new Promise<Job>((done) => (answer = done)));
  meanwhile(client);
  answer(job("asked"));
  return ((await asked) as unknown as { name: string }).name;
}

/** A change that is not answered. */
function change(client: QueryClient) {
  const mutation = client.getMutationCache().build(client, { mutationKey: ["change", 7], mutationFn: () => new Promise(() => {}) });
  void mutation.execute(undefined);
}

describe("a job that is asked for", () => {
  it("is what the server says", async () => {
    expect(await kept(() => {})).toBe("asked");
  });
  it("stays as the page holds it while a change of the page is on its way", async () => {
    expect(await kept(change)).toBe("held");
  });
  it("stays so where a change was answered meanwhile", async () => {
    expect(await kept(() => answered(7))).toBe("held");
  });
});
