import type { Schemas } from "../api/client";
import * as texts from "./texts";

type File = Schemas["PreviewFile"];

interface Folder {
  name: string;
  folders: Map<string, Folder>;
  files: { name: string; file: File }[];
}

function treeOf(files: readonly File[]): Folder {
  const root: Folder = { name: "", folders: new Map(), files: [] };
  for (const file of files) {
    const steps = file.path.split("/");
    let at = root;
    for (const step of steps.slice(0, -1)) {
      const next = at.folders.get(step) ?? { name: step, folders: new Map(), files: [] };
      at.folders.set(step, next);
      at = next;
    }
    at.files.push({ name: steps.at(-1) ?? "", file });
  }
  return root;
}

function Within({ folder }: { folder: Folder }) {
  return (
    <ul>
      {[...folder.folders.values()].map((own) => (
        <li key={own.name}>
          <details open>
            <summary>{own.name}</summary>
            <Within folder={own} />
          </details>
        </li>
      ))}
      {folder.files.map(({ name, file }) => (
        <li key={file.path} className={file.kept ? "kept" : ""} data-path={file.path}>
          <span>{name}</span>
          <span className="soft">
            {file.called} · {file.kind}
            {file.kept && ` · ${texts.asItWas}`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** The files that would be, in their folders. */
export function FileTree({ files }: { files: readonly File[] }) {
  return (
    <div className="file-tree" role="group" aria-label={texts.files}>
      <Within folder={treeOf(files)} />
    </div>
  );
}
