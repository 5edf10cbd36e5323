import { Button, Drawer, Spin } from "antd";
import type { MouseEvent } from "react";
import { page } from "./pages";
import * as texts from "./texts";
import "./guide.css";
import { useQuery } from "../api/asking";

/** The user guide beside the work: one page at a time, links lead from page to page. */
export function Guide({ at, go, close }: { at: string | null; go: (name: string) => void; close: () => void }) {
  const { data } = useQuery({ queryKey: ["guide", at], queryFn: () => page(at ?? ""), enabled: at !== null, staleTime: Infinity });
  const follow = (event: MouseEvent) => {
    const link = event.target instanceof Element ? event.target.closest("a") : null;
    const name = /^([\w-]+)\.md$/.exec(link?.getAttribute("href") ?? "")?.[1];
    if (!name) return;
    event.preventDefault();
    go(name === "index" ? "" : name);
  };
  return (
    <Drawer
      open={at !== null}
      onClose={close}
      size={560}
      title={data?.title ?? texts.guide}
      extra={
        at ? (
          <Button type="link" onClick={() => go("")}>
            {texts.allPages}
          </Button>
        ) : null
      }
    >
      {data ? <article className="guide" onClick={follow} dangerouslySetInnerHTML={{ __html: data.html }} /> : <Spin description={texts.opening} />}
    </Drawer>
  );
}
