import "@fontsource/barlow/400.css";
import "@fontsource/barlow/500.css";
import "@fontsource/barlow/600.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider, Spin } from "antd";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { JobFrame } from "./shell/JobFrame";
import { fetchTheRest, part, Whole } from "./common/part";
import "./lettering.css";
import { STOPS } from "./stops";
import "./styles.css";
import { theme } from "./common/theme";

const JobsPage = part(async () => (await import("./jobs/JobsPage")).JobsPage);
const DrawingsPage = part(async () => (await import("./register/DrawingsPage")).DrawingsPage);
const IssuedProof = part(async () => (await import("./proof/IssuedProof")).IssuedProof);
const Register = part(async () => (await import("./issue/Register")).Register);

// a double click on a button is one press, but where pressing again means once more
window.addEventListener(
  "click",
  (event) => {
    const button = event.detail > 1 && event.target instanceof Element ? event.target.closest("button, [role=button]") : null;
    if (!button || button.closest("[data-again]")) return;
    event.preventDefault();
    event.stopPropagation();
  },
  true,
);

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <ConfigProvider theme={theme} button={{ autoInsertSpace: false }}>
      <AntApp>
        <QueryClientProvider client={client}>
          <BrowserRouter>
            <Whole>
              <Suspense fallback={<Spin fullscreen />}>
                <Routes>
                  <Route path="/" element={<JobsPage />} />
                  <Route path="/register" element={<Register />} />
                  <Route path="/register/:issue/:file" element={<IssuedProof />} />
                  <Route path="/drawings" element={<DrawingsPage />} />
                  <Route path="/jobs/:job" element={<JobFrame stops={STOPS} />}>
                    <Route index element={<Navigate to="sheets" replace />} />
                    {STOPS.map((stop) => (
                      <Route key={stop.path} path={`${stop.path}${stop.onSheet ? "/:sheet?" : ""}`} element={<stop.page />} />
                    ))}
                  </Route>
                  <Route path="*" element={<Navigate to="/" replace />} />
                </Routes>
              </Suspense>
            </Whole>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  </StrictMode>,
);

window.addEventListener("load", () => setTimeout(() => void fetchTheRest(), 1500), { once: true });
