import "@fontsource/barlow/latin-400.css";
import "@fontsource/barlow/latin-500.css";
import "@fontsource/barlow/latin-600.css";
import { ConfigProvider } from "antd";
import { createRoot } from "react-dom/client";
import "../styles.css";
import "./review.css";
import { theme } from "../common/theme";
import { Ticket } from "../ticket/Ticket";
import { readPack } from "./model";
import { contained } from "./camera";
import { ReviewCanvas } from "./ReviewCanvas";
import { ReviewPanel } from "./ReviewPanel";
import { createReview } from "./state";
import * as texts from "./texts";

/** The page that a model goes out as by itself: the block stands in it as text, packed. */
async function bytes(text: string): Promise<ArrayBuffer> {
  const raw = atob(text.trim());
  const data = new Uint8Array(raw.length);
  for (let k = 0; k < raw.length; k++) data[k] = raw.charCodeAt(k);
  return new Response(new Blob([data]).stream().pipeThrough(new DecompressionStream("gzip"))).arrayBuffer();
}

const root = document.getElementById("review") as HTMLElement;
try {
  const model = readPack(await bytes(document.getElementById("model")?.textContent ?? ""));
  const review = createReview(model);
  // the window has a shape of its own: a prepared view is whole in it, from the start and whenever it is chosen
  review.subscribe(({ look, at, views, aspect, see }) => {
    const meant = views.find((view) => view.id === at)?.camera;
    if (meant && model.aspect && look.camera === meant) see({ camera: contained(meant, model.aspect, aspect) });
  });
  createRoot(root).render(
    <ConfigProvider theme={theme} button={{ autoInsertSpace: false }}>
      <div className="review-page">
        <ReviewCanvas review={review} />
        <Ticket title={model.title} under={`3D model, ${(model.size / 1e6).toFixed(2)} MB`}>
          <ReviewPanel review={review} />
        </Ticket>
      </div>
    </ConfigProvider>,
  );
} catch (error) {
  root.textContent = texts.the3dModelCannotBe((error as Error).message);
}
