import { Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Job, Sheet } from "../api/client";
import { usePutOnSheet, useTrade } from "../api/queries";
import * as texts from "./texts";

/** A view more, of a model of the job, from a standard direction or a viewpoint that was saved. */
export function AddView({ job, sheet, onView }: { job: Job; sheet: Sheet; onView: (id: string) => void }) {
  const { data: trade } = useTrade();
  const put = usePutOnSheet(job.id);
  const models = job.document.sources.filter((own) => !own.drawing);
  const last = sheet.views.findLast((own) => models.some((m) => m.id === own.source))?.source;
  const [wanted, setWanted] = useState<string | null>(null);
  const source = models.find((own) => own.id === (wanted ?? last)) ?? models[0];
  if (!source) return null;
  const directions = [...(trade?.viewpoints ?? []), ...job.document.viewpoints];
  const add = (name: string) => {
    const found = directions.find((own) => own.name === name);
    if (!found || put.isPending) return;
    put.mutate({ source: source.id, name, look: [...found.look], up: [...found.up], sheet: sheet.id }, { onSuccess: (placed) => onView(placed.view) });
  };
  return (
    <div className="add-view">
      <span className="pair">
        {models.length > 1 && (
          <Select
            size="small"
            aria-label={texts.modelOfTheNewView}
            value={source.id}
            onChange={setWanted}
            popupMatchSelectWidth={false}
            options={models.map((own) => ({ value: own.id, label: own.name }))}
          />
        )}
        <Select<string | null>
          size="small"
          aria-label={texts.addAView}
          value={null}
          placeholder={texts.addAView2}
          loading={put.isPending}
          popupMatchSelectWidth={false}
          onChange={(name) => name && add(name)}
          options={directions.map((own) => ({ value: own.name, label: own.name }))}
        />
      </span>
      <Link className="as-file" to={`/jobs/${job.id}/source`}>
        {texts.fromTheModelOrPart}
      </Link>
    </div>
  );
}
