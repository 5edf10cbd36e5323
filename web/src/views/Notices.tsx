import type { ReactNode } from "react";
import type { Writing } from "../api/client";
import { Note } from "../ticket/Ticket";

/** What a sheet's maker should know, of one view or of the sheet itself. */
export function Notices({ writing, view, children }: { writing: Writing | undefined; view?: string; children?: ReactNode }) {
  const notices = writing?.notices.filter((t) => (view ? t.view === view : true)) ?? [];
  return (
    <>
      {notices.map((t, index) => (
        <Note key={index} tone={t.level} title={t.message}>
          {t.code === "outside" && children}
        </Note>
      ))}
    </>
  );
}
