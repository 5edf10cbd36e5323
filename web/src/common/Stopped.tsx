import type { ReactNode } from "react";

/** Instead of a page: what is the matter, and the way on. */
export const Stopped = ({ title, text, children }: { title: string; text: string; children: ReactNode }) => (
  <div className="stopped" role="alert">
    <h1>{title}</h1>
    <p>{text}</p>
    {children}
  </div>
);
