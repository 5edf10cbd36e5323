import { Button, Input } from "antd";
import { useState } from "react";
import type { Job } from "../api/client";
import { newId } from "../common/ids";
import { useEdit } from "../api/queries";
import { TypedField } from "../ticket/TypedField";
import type { Looking } from "../intake/target";
import * as texts from "./texts";

interface Props {
  job: Job;
  /** How the model is turned on the screen now. */
  now: () => Looking | null;
  onLook: (viewpoint: Looking & { name: string }) => void;
}

/** Directions of looking that are kept under a name, for any view of the job. */
export function Viewpoints({ job, now, onLook }: Props) {
  const edit = useEdit(job.id);
  const [naming, setNaming] = useState(false);
  const saved = job.document.viewpoints;
  const users = (id: string) => job.document.sheets.filter((sheet) => sheet.views.some((view) => view.viewpoint === id)).map((sheet) => sheet.name);
  const save = (id: string, name: string, looking: Looking | null) => looking && edit.mutate({ kind: "save_viewpoint", viewpoint: { id, name, ...looking } });
  return (
    <>
      <ul className="rows" aria-label={texts.savedViewpoints}>
        {saved.map((viewpoint) => {
          const used = users(viewpoint.id);
          return (
            <li key={viewpoint.id}>
              <TypedField
                label={texts.nameOf(viewpoint.name)}
                value={viewpoint.name}
                read={async (text) => text.trim() || viewpoint.name}
                onChange={(name) => save(viewpoint.id, name, viewpoint)}
              />
              {used.length > 0 && (
                <span className="soft small">
                  {texts.usedOn} {used.join(", ")}
                </span>
              )}
              <span>
                <Button type="link" size="small" className="flush" onClick={() => onLook(viewpoint)}>
                  {texts.show}
                </Button>
                <Button type="link" size="small" onClick={() => save(viewpoint.id, viewpoint.name, now())}>
                  {texts.replaceWithThisView}
                </Button>
                <Button type="link" size="small" danger onClick={() => edit.mutate({ kind: "remove_viewpoint", viewpoint: viewpoint.id })}>
                  {texts.deleteWord}
                </Button>
              </span>
            </li>
          );
        })}
      </ul>
      {naming ? (
        <Input
          size="small"
          autoFocus
          aria-label={texts.nameOfTheViewpoint}
          placeholder={texts.nameSuchAsDriveSide}
          onBlur={() => setNaming(false)}
          onPressEnter={(event) => {
            const name = event.currentTarget.value.trim();
            if (name) save(newId(), name, now());
            setNaming(false);
          }}
        />
      ) : (
        <Button type="link" size="small" className="flush" onClick={() => setNaming(true)}>
          {texts.saveThisViewpoint}
        </Button>
      )}
    </>
  );
}
