import { Button } from "antd";
import { useState } from "react";
import type { Edit, Job, Schemas, Sheet, View } from "../api/client";
import { hiddenOf } from "../api/content";
import { useAlign } from "../api/desk";
import { readScale } from "../api/queries";
import { Fact, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { ComponentsPicker } from "../components/ComponentsPicker";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";
import * as viewsTexts from "../views/texts";
import * as deskTexts from "../desk/texts";

type How = Schemas["AlignRequest"]["how"];
const WAYS: How[] = ["left", "upright middle", "right", "top", "level middle", "bottom", "spread across", "spread upright"];

const WORDS: Record<How, string> = {
  left: texts.alignLeft,
  "upright middle": texts.alignCentresVertically,
  right: texts.alignRight,
  top: texts.alignTop,
  "level middle": texts.alignCentresHorizontally,
  bottom: texts.alignBottom,
  "spread across": texts.spaceEvenlyAcross,
  "spread upright": texts.spaceEvenlyUpward,
};

/** Several views at once: line them up, give them one scale, one set of components. */
export function SeveralTicket({ job, sheet, views, edit }: { job: Job; sheet: Sheet; views: View[]; edit: (edit: Edit) => void }) {
  const align = useAlign(job.id, sheet.id);
  const [choosing, setChoosing] = useState(false);
  const ids = views.map((view) => view.id);
  const change = (fields: Schemas["ViewPatch"]) => edit({ kind: "change_views", sheet: sheet.id, views: ids, fields });
  const scales = [...new Set(views.map((view) => view.scale))];
  const first = views[0];
  return (
    <Ticket title={paperTexts.views(views.length)} under={views.map((view) => view.name).join(", ")}>
      <Fact name={viewsTexts.scale}>
        <TypedField
          label={viewsTexts.scale}
          value={scales.length === 1 ? (scales[0] ?? "") : "several"}
          read={async (text) => (await readScale(text)).scale}
          onChange={(scale) => change({ scale })}
        />
      </Fact>
      <Section title={texts.align}>
        <div className="chips">
          {WAYS.map((how) => (
            <button key={how} type="button" onClick={() => align.mutate({ views: ids, how })}>
              {WORDS[how]}
            </button>
          ))}
        </div>
      </Section>
      <Section title={deskTexts.components}>
        <Button type="link" size="small" className="flush" onClick={() => setChoosing(true)}>
          {texts.chooseForAll}
        </Button>
        {first && (
          <ComponentsPicker
            job={job}
            view={{ ...first, hidden: hiddenOf(first) }}
            title={texts.componentsOfViews(views.length)}
            open={choosing}
            close={() => setChoosing(false)}
            onHidden={(hidden) => change({ hidden })}
          />
        )}
      </Section>
    </Ticket>
  );
}
