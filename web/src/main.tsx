import "@fontsource/barlow/400.css";
import "@fontsource/barlow/500.css";
import "@fontsource/barlow/600.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { IssueStop } from "./issue/IssueStop";
import { Register } from "./issue/Register";
import { JobsPage } from "./jobs/JobsPage";
import { PensStop } from "./pens/PensStop";
import { ProofStop } from "./proof/ProofStop";
import { JobFrame } from "./shell/JobFrame";
import { SheetsStop } from "./sheets/SheetsStop";
import { SourceStop } from "./source/SourceStop";
import "./lettering.css";
import "./styles.css";
import "./review/review.css";
import { theme } from "./theme";

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
            <Routes>
              <Route path="/" element={<JobsPage />} />
              <Route path="/register" element={<Register />} />
              <Route path="/jobs/:job" element={<JobFrame />}>
                <Route index element={<Navigate to="sheets" replace />} />
                <Route path="source" element={<SourceStop />} />
                <Route path="sheets/:sheet?" element={<SheetsStop />} />
                <Route path="pens/:sheet?" element={<PensStop />} />
                <Route path="issue" element={<IssueStop />} />
                <Route path="proof/:sheet?" element={<ProofStop />} />
              </Route>
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  </StrictMode>,
);
