/** The pages of docs/guide as HTML, with their pictures. */
import { marked } from "marked";

const PAGES = import.meta.glob<string>("../../../docs/guide/*.md", { query: "?raw", import: "default" });
const PICTURES = import.meta.glob<string>("../../../docs/screenshots/*.png", { query: "?url", import: "default" });

/** A page by its name, '' for the contents; null where there is none. */
export async function page(name: string): Promise<{ title: string; html: string } | null> {
  const load = PAGES[`../../../docs/guide/${name || "index"}.md`];
  if (!load) return null;
  const source = await load();
  const title = /^# (.*)$/m.exec(source)?.[1] ?? "";
  const html = await marked.parse(source.replace(/^# .*$/m, ""));
  const wanted = [...html.matchAll(/src="\.\.\/screenshots\/([^"]+)"/g)].map((found) => found[1] as string);
  const addresses = new Map(await Promise.all(wanted.map(async (file) => [file, (await PICTURES[`../../../docs/screenshots/${file}`]?.()) ?? ""] as const)));
  return { title, html: html.replace(/src="\.\.\/screenshots\/([^"]+)"/g, (_, file: string) => `src="${addresses.get(file)}"`) };
}
